import { type Clip, readPosition, readRotation } from "../../clip/clip.ts";
import { positionSlots } from "../../kinematics/forward.ts";
import { quatToEulerFlat } from "../../math/euler.ts";
import { childrenOf, type Skeleton } from "../../skeleton/skeleton.ts";
import { type BvhLayout, toFileAxes } from "./layout.ts";

const DEGREES = 180 / Math.PI;

/**
 * Writes a clip as BVH text, in pieces, in the layout it was read with: same joints, offsets, channel order, unit, axes and, at an unchanged
 * rate, the same frame time to the letter. Angles are unrolled from frame to frame. Joints with fewer than three rotation channels
 * get the best their channels can say. Without a layout: metres, Y up, ZXY rotations, positions on the joints that translate.
 */
export function* writeBvh(skeleton: Skeleton, clip: Clip, layout: BvhLayout = defaultLayout(skeleton, clip)): Generator<string> {
  const parts = ["HIERARCHY\n"];
  const order = writeHierarchy(parts, skeleton, layout);
  const unchangedRate = Math.abs(layout.frameTime * clip.fps - 1) < 4e-4;
  parts.push(`MOTION\nFrames: ${clip.frameCount}\nFrame Time: ${unchangedRate ? layout.frameTimeText : (1 / clip.fps).toFixed(8)}\n`);
  yield parts.join("");
  const slots = positionSlots(clip);
  const orders = layout.joints.map((joint) => {
    const own = joint.channels.filter((c) => c.kind === "rotation").map((c) => c.axis as number);
    return [...own, ...[2, 0, 1].filter((axis) => !own.includes(axis))].slice(0, 3);
  });
  const angles = new Float64Array(clip.jointCount * 3);
  const q = new Float64Array(4);
  const p = new Float64Array(3);
  const numbers: string[] = [];
  for (let f = 0; f < clip.frameCount; f++) {
    numbers.length = 0;
    for (const j of order) {
      const { channels, offset, positionMode } = layout.joints[j];
      readRotation(clip, j, f, q, 0);
      toFileAxes(layout.upAxis, q, 0);
      quatToEulerFlat(angles, j * 3, orders[j], q, 0, angles, j * 3);
      if (slots[j] >= 0) {
        readPosition(clip, slots[j], f, p, 0);
        for (let i = 0; i < 3; i++) p[i] /= layout.unitScale;
        toFileAxes(layout.upAxis, p, 0);
        if (positionMode === "add") for (let i = 0; i < 3; i++) p[i] -= offset[i];
      }
      let a = 0;
      for (const channel of channels) {
        numbers.push(fixed(channel.kind === "position" ? p[channel.axis] : angles[j * 3 + a++] * DEGREES));
      }
    }
    yield `${numbers.join(" ")}\n`;
  }
}

function fixed(value: number): string {
  const text = value.toFixed(6);
  return text === "-0.000000" ? "0.000000" : text;
}

/** Writes the joints depth first and returns them in that order, which is the order of the numbers in a frame. */
function writeHierarchy(parts: string[], skeleton: Skeleton, layout: BvhLayout): number[] {
  const order: number[] = [];
  const children = childrenOf(skeleton);
  const channelName = (c: { kind: string; axis: number }) => `${"XYZ"[c.axis]}${c.kind}`;
  // An explicit stack: [joint, depth] to open, or a text to close with.
  const roots = skeleton.names.map((_, j) => j).filter((j) => skeleton.parents[j] < 0);
  const stack: ({ joint: number; depth: number } | string)[] = roots.reverse().map((joint) => ({ joint, depth: 0 }));
  for (let next = stack.pop(); next !== undefined; next = stack.pop()) {
    if (typeof next === "string") {
      parts.push(next);
      continue;
    }
    const { joint, depth } = next;
    order.push(joint);
    const pad = "\t".repeat(depth);
    const { channels, offset } = layout.joints[joint];
    parts.push(`${pad}${depth === 0 ? "ROOT" : "JOINT"} ${skeleton.names[joint]}\n${pad}{\n${pad}\tOFFSET ${offset.map(fixed).join(" ")}\n`);
    parts.push(`${pad}\tCHANNELS ${channels.length}${channels.map((c) => ` ${channelName(c)}`).join("")}\n`);
    for (const tip of skeleton.tips) {
      if (tip.joint !== joint) continue;
      const v = Float64Array.from(tip.offset, (x) => x / layout.unitScale);
      toFileAxes(layout.upAxis, v, 0);
      parts.push(`${pad}\tEnd Site\n${pad}\t{\n${pad}\t\tOFFSET ${Array.from(v, fixed).join(" ")}\n${pad}\t}\n`);
    }
    stack.push(`${pad}}\n`);
    for (const child of [...children[joint]].reverse()) stack.push({ joint: child, depth: depth + 1 });
  }
  return order;
}

/** Layout for a clip that no BVH file stands behind. */
export function defaultLayout(skeleton: Skeleton, clip: Clip, unitScale = 1, upAxis: "y" | "z" = "y"): BvhLayout {
  const slots = positionSlots(clip);
  const axes = [0, 1, 2] as const;
  const joints = skeleton.names.map((_, j) => {
    const offset = Float64Array.from(skeleton.offsets.subarray(j * 3, j * 3 + 3), (x) => x / unitScale);
    toFileAxes(upAxis, offset, 0);
    return {
      channels: [
        ...(slots[j] >= 0 ? axes.map((axis) => ({ kind: "position" as const, axis })) : []),
        ...([2, 0, 1] as const).map((axis) => ({ kind: "rotation" as const, axis })),
      ],
      offset: [offset[0], offset[1], offset[2]] as const,
      positionMode: skeleton.parents[j] < 0 ? ("add" as const) : ("replace" as const),
    };
  });
  return { format: "bvh", joints, frameTime: 1 / clip.fps, frameTimeText: (1 / clip.fps).toFixed(8), upAxis, unitScale };
}
