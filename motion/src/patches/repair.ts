import { z } from "zod";
import { copyClip } from "../clip/clip.ts";
import { multiplyQuatFlat, normalizeQuatFlat, quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { popSpikes } from "../signal/pops.ts";
import { rotationLane, smoothLane } from "../signal/smoothRotation.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const schema = z.strictObject({
  pops: z.boolean(),
  flips: z.boolean(),
  popDegrees: z.number().min(1).max(90),
  smooth: z.number().min(0).max(1),
  smoothInFrames: z.int().min(1).max(30),
  bridge: z.boolean(),
});
type RepairSettings = z.infer<typeof schema>;

export const repairPatch = definePatch<RepairSettings>({
  kind: "repair",
  title: "Repair",
  description: "Mends one-frame pops, angle flips, jitter and broken stretches on chosen joints.",
  schema,
  defaults: { pops: true, flips: true, popDegrees: 8, smooth: 0, smoothInFrames: 4, bridge: false },
  masked: true,
  local: false,
  fields: {
    pops: { label: "Mend one-frame pops" },
    flips: { label: "Mend angle flips" },
    popDegrees: { label: "A pop stands out by", unit: "°", step: 1, help: "Smaller jumps against the frames around are left alone" },
    smooth: { label: "Smooth jitter", unit: "%", factor: 100, step: 0.05 },
    smoothInFrames: { label: "Smooth over ±", unit: "f", step: 1 },
    bridge: { label: "Replace the stretch by a bridge", help: "The range is thrown away and led across from its first to its last frame" },
  },
  /** Order: bridge, else flips and pops, then smoothing. A joint's frames outside range and ramps, and joints off the mask, keep their bits. */
  apply(motion: Motion, settings: RepairSettings, context: PatchContext): Motion {
    const clip = copyClip(motion.clip);
    const { jointCount, frameCount } = clip;
    const from = context.weights.findIndex((w) => w > 0);
    const to = context.weights.findLastIndex((w) => w > 0);
    if (from < 0) return motion;
    const lane = new Float64Array(frameCount * 4);
    const mended = new Float64Array(frameCount * 4);
    for (let joint = 0; joint < jointCount; joint++) {
      if (context.joints && !context.joints.has(joint)) continue;
      mended.set(rotationLane(clip.rotations, frameCount, jointCount, joint, lane));
      if (settings.bridge) bridge(mended, context.start, context.end, frameCount);
      else {
        if (settings.flips) mendFlips(mended, from, to, frameCount);
        if (settings.pops) mendPops(mended, from, to, frameCount, (settings.popDegrees * Math.PI) / 180);
      }
      if (settings.smooth > 0) smoothLane(mended, frameCount, settings.smoothInFrames, settings.smooth);
      for (let f = from; f <= to; f++) {
        if (context.weights[f] === 0 || quatAngleFlat(mended, f * 4, lane, f * 4) < 1e-7) continue;
        slerpQuatFlat(clip.rotations, (f * jointCount + joint) * 4, lane, f * 4, mended, f * 4, context.weights[f]);
      }
    }
    return { ...motion, clip };
  },
});

/** Frames that stand out alone against their neighbours are put between them. */
function mendPops(lane: Float64Array, from: number, to: number, frameCount: number, least: number): void {
  for (const f of popSpikes(lane, frameCount, least)) {
    if (f < from || f > to) continue;
    slerpQuatFlat(lane, f * 4, lane, f * 4 - 4, lane, f * 4 + 4, 0.5);
  }
}

/** Half turns that come and go within a few frames: from one to `LONGEST_FLIP` frames that lie over 90° off on both sides. */
const LONGEST_FLIP = 6;

function mendFlips(lane: Float64Array, from: number, to: number, frameCount: number): void {
  for (let f = Math.max(1, from); f <= Math.min(to, frameCount - 2); f++) {
    if (quatAngleFlat(lane, f * 4 - 4, lane, f * 4) < Math.PI / 2) continue;
    for (let length = 1; length <= LONGEST_FLIP && f + length < frameCount; length++) {
      const after = f + length;
      if (quatAngleFlat(lane, after * 4 - 4, lane, after * 4) < Math.PI / 2 || quatAngleFlat(lane, f * 4 - 4, lane, after * 4) > Math.PI / 4) continue;
      for (let g = f; g < after; g++) slerpQuatFlat(lane, g * 4, lane, f * 4 - 4, lane, after * 4, (g - f + 1) / (length + 1));
      f = after;
      break;
    }
  }
}

/** Leads from the frame before the stretch to the frame after it, with the speeds found there (cubic in rotation, by double slerp). */
function bridge(lane: Float64Array, start: number, end: number, frameCount: number): void {
  const a = Math.max(0, start - 1);
  const b = Math.min(frameCount - 1, end + 1);
  const q0 = lane.slice(a * 4, a * 4 + 4);
  const q1 = lane.slice(b * 4, b * 4 + 4);
  const before = lane.slice(Math.max(0, a - 1) * 4, Math.max(0, a - 1) * 4 + 4);
  const after = lane.slice(Math.min(frameCount - 1, b + 1) * 4, Math.min(frameCount - 1, b + 1) * 4 + 4);
  const out = new Float64Array(8);
  for (let f = start; f <= end; f++) {
    const t = (f - a) / (b - a);
    // Each end goes on at its own speed; the two are blended by a smooth step.
    extrapolate(out, 0, before, q0, f - a, t);
    extrapolate(out, 4, after, q1, b - f, 1 - t);
    slerpQuatFlat(lane, f * 4, out, 0, out, 4, t * t * (3 - 2 * t));
  }
}

/** q·(from⁻¹·q)^(frames, slowing down): where the rotation would go from `q` on, coming from `from` one frame earlier. */
function extrapolate(dst: Float64Array, d: number, from: Float64Array, q: Float64Array, frames: number, t: number): void {
  const step = Float64Array.of(-from[0], -from[1], -from[2], from[3]);
  multiplyQuatFlat(step, 0, step, 0, q, 0);
  const reach = frames * (1 - t) * (1 - t);
  const identity = [0, 0, 0, 1];
  const whole = Math.floor(reach);
  dst.set(q, d);
  for (let i = 0; i < whole; i++) multiplyQuatFlat(dst, d, dst, d, step, 0);
  slerpQuatFlat(step, 0, identity, 0, step, 0, reach - whole);
  multiplyQuatFlat(dst, d, dst, d, step, 0);
  normalizeQuatFlat(dst, d);
}
