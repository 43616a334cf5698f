import {
  type Channel,
  type ChannelTarget,
  conjugateQuatFlat,
  curveValue,
  type Edit,
  type Key,
  type LayerSettings,
  multiplyQuatFlat,
  quatToEulerFlat,
  rotateVecFlat,
  type Space,
  withKey,
} from "@stride/motion";
import type { MotionView } from "../worker/views.ts";
import type { BenchState } from "./bench.ts";
import { composed, rotationDegrees, rotationOf } from "./rotationVectors.ts";

const AXES = ["x", "y", "z"] as const;

export function sameTarget(a: ChannelTarget, b: ChannelTarget): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

export function channelKeys(settings: Partial<LayerSettings>, target: ChannelTarget): readonly Key[] {
  return settings.channels?.find((c) => sameTarget(c.target, target))?.keys ?? [];
}

/** The layer's channels with one channel's keys replaced; without keys the channel goes. */
export function withChannel(channels: readonly Channel[], target: ChannelTarget, keys: readonly Key[]): Channel[] {
  const rest = channels.filter((c) => !sameTarget(c.target, target));
  if (keys.length === 0) return rest;
  const at = channels.findIndex((c) => sameTarget(c.target, target));
  const channel = { target, keys: [...keys] };
  return at < 0 ? [...rest, channel] : channels.map((c, i) => (i === at ? channel : c));
}

/** An edit of the pose as keys at a frame: of added turns and moves, or, in a layer that takes over, of the joints' angles. */
export function keyEdit(settings: Partial<LayerSettings>, edit: Edit, frame: number, state: BenchState, weight: number): Partial<LayerSettings> {
  const view = state.after;
  const skeleton = state.opened?.skeleton;
  if (!view || !skeleton) return {};
  let channels: readonly Channel[] = settings.channels ?? [];
  const put = (target: ChannelTarget, value: number) => {
    const keys = channelKeys({ channels: [...channels] }, target);
    const existing = keys.find((k) => k.frame === frame);
    channels = withChannel(channels, target, withKey(keys, { ...(existing ?? { tangent: "smooth" as const }), frame, value: Math.round(value * 1e6) / 1e6 }));
  };
  const valueAt = (target: ChannelTarget) => curveValue(channelKeys({ channels: [...channels] }, target), frame);
  if (edit.op === "move") {
    for (const joint of edit.joints) {
      const space = edit.space === "body" ? "body" : "world";
      const by = edit.space === "body" || edit.space === "world" ? edit.centimetres : turned(view, frame, skeleton, joint, edit.space, edit.centimetres);
      AXES.forEach((axis, i) => {
        const target: ChannelTarget = { drives: "move", joint, axis, space };
        put(target, valueAt(target) + by[i] / weight);
      });
    }
    return { channels: [...channels] };
  }
  const composeIn = settings.composeIn ?? "own";
  const turns: [string, readonly number[]][] =
    edit.op === "turn"
      ? edit.joints.map((joint) => [joint, edit.degrees.map((v) => (edit.shared ? v / edit.joints.length : v))])
      : Object.entries(edit.rotations).map(([joint, q]) => [joint, rotationDegrees(q).map((v) => v * edit.amount)]);
  const space = edit.op === "turn" ? edit.space : "own";
  for (const [joint, degrees] of turns) {
    const index = skeleton.names.indexOf(joint);
    if (settings.mode === "override") {
      const own = intoSpace(view, frame, skeleton, joint, degrees, space, "own", state);
      const q = localRotation(view, frame, skeleton.parents[index], index);
      const by = rotationOf(own);
      multiplyQuatFlat(q, 0, q, 0, by, 0);
      const targets = AXES.map((axis): ChannelTarget => ({ drives: "angle", joint, axis }));
      // z, x, y is the order of the angles.
      const near = [2, 0, 1].map((i) => (valueAt(targets[i]) * Math.PI) / 180);
      const angles = quatToEulerFlat([0, 0, 0], 0, [2, 0, 1], q, 0, near, 0);
      [2, 0, 1].forEach((axis, i) => {
        put(targets[axis], (angles[i] * 180) / Math.PI);
      });
      continue;
    }
    const by = intoSpace(view, frame, skeleton, joint, degrees, space, composeIn, state).map((v) => v / weight);
    const targets = AXES.map((axis): ChannelTarget => ({ drives: "turn", joint, axis }));
    const old = targets.map(valueAt);
    const sum = composeIn === "own" ? composed(old, by) : composed(by, old);
    targets.forEach((target, i) => {
      put(target, sum[i]);
    });
  }
  return { channels: [...channels] };
}

type Bones = { readonly names: readonly string[]; readonly parents: Int16Array };

/** A rotation vector given in one space, in another. */
function intoSpace(
  view: MotionView,
  frame: number,
  skeleton: Bones,
  joint: string,
  vector: readonly number[],
  from: Space,
  to: "own" | "parent",
  state: BenchState,
): number[] {
  if (from === to) return [...vector];
  const world = from === "body" ? turnedByHeading(view, frame, state, vector) : turned(view, frame, skeleton, joint, from, vector);
  const index = skeleton.names.indexOf(joint);
  const at = to === "own" ? index : skeleton.parents[index];
  if (at < 0) return world;
  const inverse = conjugateQuatFlat([0, 0, 0, 1], 0, view.rotations, (frame * view.jointCount + at) * 4);
  return rotateVecFlat([0, 0, 0], 0, inverse, 0, world, 0) as number[];
}

/** A vector of a joint's own or its parent's axes, in the world. */
function turned(view: MotionView, frame: number, skeleton: Bones, joint: string, space: Space, vector: readonly number[]): number[] {
  const index = skeleton.names.indexOf(joint);
  const at = space === "own" ? index : space === "parent" ? skeleton.parents[index] : -1;
  if (at < 0) return [...vector];
  return rotateVecFlat([0, 0, 0], 0, view.rotations, (frame * view.jointCount + at) * 4, [...vector], 0) as number[];
}

function turnedByHeading(view: MotionView, frame: number, state: BenchState, vector: readonly number[]): number[] {
  const heading = viewHeading(view, frame, state);
  const [c, s] = [Math.cos(heading), Math.sin(heading)];
  return [vector[0] * c + vector[2] * s, vector[1], -vector[0] * s + vector[2] * c];
}

/** Heading of the body as it is shown, radians: square to the line between its hips' sides. */
export function viewHeading(view: { readonly positions: ArrayLike<number>; readonly jointCount: number }, frame: number, state: BenchState): number {
  const roles = state.body?.roles;
  const left = roles?.leftThigh;
  const right = roles?.rightThigh;
  if (left === undefined || right === undefined) return 0;
  const a = (frame * view.jointCount + left) * 3;
  const b = (frame * view.jointCount + right) * 3;
  return Math.atan2(-(view.positions[a + 2] - view.positions[b + 2]), view.positions[a] - view.positions[b]);
}

function localRotation(view: MotionView, frame: number, parent: number, joint: number): number[] {
  const o = (frame * view.jointCount + joint) * 4;
  const own = [0, 1, 2, 3].map((i) => view.rotations[o + i]);
  if (parent < 0) return own;
  const inverse = conjugateQuatFlat([0, 0, 0, 1], 0, view.rotations, (frame * view.jointCount + parent) * 4);
  return multiplyQuatFlat([0, 0, 0, 1], 0, inverse, 0, own, 0) as number[];
}
