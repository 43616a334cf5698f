import { type PartRef, partFromKey } from "../character/parts.ts";
import { ANGLE_OF_AXIS, ANGLE_ORDER } from "../curves/angles.ts";
import { curveValue, type Key, sameKeyMoment, withKey } from "../curves/keys.ts";
import { quatToEulerFlat } from "../math/euler.ts";
import { multiplyQuatFlat } from "../math/quat.ts";
import { rotationDegrees, rotationOf } from "../math/rotationVectors.ts";
import type { Edit } from "../pose/edits.ts";
import { type EditView, intoSpace, jointIn, localRotation } from "../pose/editView.ts";
import { composeTurns } from "../pose/mergeEdits.ts";
import type { Space } from "../pose/spaces.ts";
import type { Channel, ChannelTarget, LayerSettings } from "./layer.ts";

const AXES = ["x", "y", "z"] as const;

export function sameTarget(a: ChannelTarget, b: ChannelTarget): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

export function channelKeys(channels: readonly Channel[], target: ChannelTarget): readonly Key[] {
  return channels.find((c) => sameTarget(c.target, target))?.keys ?? [];
}

/** The layer's channels with one channel's keys replaced; without keys the channel goes. */
export function withChannel(channels: readonly Channel[], target: ChannelTarget, keys: readonly Key[]): Channel[] {
  const rest = channels.filter((c) => !sameTarget(c.target, target));
  if (keys.length === 0) return rest;
  const at = channels.findIndex((c) => sameTarget(c.target, target));
  const channel = { target, keys: [...keys] };
  return at < 0 ? [...rest, channel] : channels.map((c, i) => (i === at ? channel : c));
}

/**
 * A layer with an edit of the pose as keys at a moment (seconds of what the layer receives): of added turns and moves, or, where it takes over,
 * of the joints' angles. Amounts are what is wanted at the moment itself; `weight` is the layer's there.
 */
export function keyEdit(settings: LayerSettings, edit: Edit, moment: number, weight: number, view: EditView): LayerSettings {
  let channels: readonly Channel[] = settings.channels;
  const put = (target: ChannelTarget, value: number) => {
    const keys = channelKeys(channels, target);
    const existing = keys.find((k) => sameKeyMoment(k.at, moment));
    channels = withChannel(
      channels,
      target,
      withKey(keys, { ...(existing ?? { tangent: "smooth" as const }), at: moment, value: Math.round(value * 1e6) / 1e6 }),
    );
  };
  const valueAt = (target: ChannelTarget) => curveValue(channelKeys(channels, target), moment);
  if (edit.op === "move") {
    for (const part of edit.parts) {
      const space = edit.space === "body" ? "body" : "world";
      const by = intoSpace(view, jointIn(view, part), edit.centimetres, edit.space, space);
      AXES.forEach((axis, i) => {
        const target: ChannelTarget = { drives: "move", part, axis, space };
        put(target, valueAt(target) + by[i] / weight);
      });
    }
    return { ...settings, channels: [...channels] };
  }
  for (const { part, degrees, space } of turnsOf(edit)) {
    const joint = jointIn(view, part);
    if (settings.mode === "override") {
      const own = intoSpace(view, joint, degrees, space, "own");
      const q = multiplyQuatFlat([0, 0, 0, 1], 0, localRotation(view, joint), 0, rotationOf(own), 0);
      const targets = AXES.map((axis): ChannelTarget => ({ drives: "angle", part, axis }));
      const near = ANGLE_ORDER.map((axis) => (valueAt(targets[axis]) * Math.PI) / 180);
      const angles = quatToEulerFlat([0, 0, 0], 0, [...ANGLE_ORDER], q, 0, near, 0);
      targets.forEach((target, axis) => {
        put(target, (angles[ANGLE_OF_AXIS[axis]] * 180) / Math.PI);
      });
      continue;
    }
    const by = intoSpace(view, joint, degrees, space, settings.composeIn).map((v) => v / weight);
    const targets = AXES.map((axis): ChannelTarget => ({ drives: "turn", part, axis }));
    const sum = composeTurns(settings.composeIn, targets.map(valueAt), by);
    targets.forEach((target, i) => {
      put(target, sum[i]);
    });
  }
  return { ...settings, channels: [...channels] };
}

/** What an edit turns, part by part: degrees in a space. */
function turnsOf(edit: Exclude<Edit, { op: "move" }>): { part: PartRef; degrees: readonly number[]; space: Space }[] {
  if (edit.op === "turn") {
    const share = edit.shared ? 1 / edit.parts.length : 1;
    return edit.parts.map((part) => ({ part, degrees: edit.degrees.map((v) => v * share), space: edit.space }));
  }
  return Object.entries(edit.rotations).map(([key, q]) => ({ part: partFromKey(key), degrees: rotationDegrees(q).map((v) => v * edit.amount), space: "own" }));
}
