import { z } from "zod";
import { partRefSchema } from "../character/parts.ts";
import { ANGLE_OF_AXIS, anglesNear, anglesToQuat, keptAngleCurves } from "../curves/angles.ts";
import { curveValue, type Key, keySchema, orderedKeys } from "../curves/keys.ts";
import { type Gauge, gaugeOf, measureSchema } from "../curves/measured.ts";
import { duration } from "../documents/fields.ts";
import { isLoose, partOfName, secondsOf, settingsUpgrade } from "../documents/steps.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { rangeWeight } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { editFrame, type FrameOp } from "../pose/editFrame.ts";
import { editMotion, frameHolds, maskedFreedom, standingLimbs } from "../pose/editMotion.ts";
import { holdSchema } from "../pose/edits.ts";
import { upgradeHolds1 } from "../pose/upgrade.ts";
import { definePatch, type PatchContext, THE_MOMENT } from "./kind.ts";
import { keyEdit } from "./layerKeys.ts";

const axis = z.enum(["x", "y", "z"]);

/** What a channel's keys drive. turn: degrees of a rotation vector, added; move: centimetres by reach, added; angle: degrees, taken over; measure: see the layer's mode. */
export const channelTargetSchema = z.discriminatedUnion("drives", [
  z.strictObject({ drives: z.literal("turn"), part: partRefSchema, axis }),
  z.strictObject({ drives: z.literal("move"), part: partRefSchema, axis, space: z.enum(["world", "body"]) }),
  z.strictObject({ drives: z.literal("angle"), part: partRefSchema, axis }),
  z.strictObject({ drives: z.literal("measure"), measure: measureSchema }),
]);
export type ChannelTarget = z.infer<typeof channelTargetSchema>;

const channelSchema = z.strictObject({ target: channelTargetSchema, keys: z.array(keySchema).max(20_000) });
export type Channel = z.infer<typeof channelSchema>;

const schema = z.strictObject({
  mode: z.enum(["additive", "override"]),
  composeIn: z.enum(["own", "parent"]),
  /** over how long a curve that takes over comes and goes outside its keys */
  fadeIn: duration(60),
  channels: z.array(channelSchema).max(600),
  weightKeys: z.array(keySchema).max(2000),
  holds: z.array(holdSchema).max(64),
});
export type LayerSettings = z.infer<typeof schema>;

const AXIS = { x: 0, y: 1, z: 2 } as const;

export const layerPatch = definePatch<LayerSettings>({
  kind: "layer",
  title: "Layer",
  group: "correct",
  description: "Keys over the motion, added to it or taking it over; new, it changes nothing.",
  schema,
  defaults: { mode: "additive", composeIn: "own", fadeIn: 0.2, channels: [], weightKeys: [], holds: [] },
  masked: true,
  poses: true,
  holds: true,
  curves: true,
  fields: {
    mode: {
      label: "Keys are",
      choices: { additive: "added", override: "taking over" },
      help: "Added to the motion beneath, or in its place between their first and last",
    },
    composeIn: {
      label: "Turns are about",
      choices: { own: "own axes", parent: "parent’s" },
      help: "The axes that added turns are given in: the joint's own, or its parent's",
    },
    fadeIn: {
      onlyWhen: { setting: "mode", is: "override" },
      label: "Take-over fades over",
      unit: "f",
      step: 1,
      inFrames: true,
      help: "Time outside the first and last key over which a curve that takes over comes and goes",
    },
    weightKeys: { label: "Weight", unit: "%", factor: 100, unkeyed: 1, help: "How much of the layer there is, keyed over time" },
  },
  posing: {
    takes: () => true,
    keyed: true,
    write: (settings, edit, { moment, weight, view }) => keyEdit(settings, edit, moment, weight, view),
    moments: (settings) => settings.channels.flatMap((c) => c.keys.map((k) => k.at)),
  },
  fromFrames: settingsUpgrade({
    fadeInFrames: (v, fps) => ({ fadeIn: secondsOf(v, fps) }),
    channels: (v, fps) => ({ channels: Array.isArray(v) ? v.map((c: unknown) => upgradeChannel1(c, fps)) : v }),
    weightKeys: (v, fps) => ({ weightKeys: upgradeKeys1(v, fps) }),
    holds: (v) => ({ holds: upgradeHolds1(v) }),
  }),
  // A taken-over angle is read in the solution that the curve has come to, which the whole motion as last evaluated tells (`known`).
  sees: () => THE_MOMENT,
  apply(motion: Motion, settings: LayerSettings, context: PatchContext): Motion {
    const { skeleton, rig } = motion.character;
    const layer = compileLayer(motion, settings, context);
    if (!layer) return motion;
    const holds = frameHolds(settings.holds, context);
    const weightKeys = orderedKeys(settings.weightKeys);
    const weightAt = (moment: number) => (weightKeys.length === 0 ? 1 : Math.max(0, Math.min(1, curveValue(weightKeys, moment))));
    const standing = standingLimbs(motion);
    const freedom = maskedFreedom(skeleton, rig, context.joints);
    const trial = new PoseFrame(skeleton, motion.clip);
    return editMotion(
      motion,
      context,
      (frame, weight, before) => {
        const moment = (frame + context.offset) / context.fps;
        const w = weight * weightAt(moment);
        if (w === 0) return [];
        const ops = layer.ops(frame + context.offset, moment, w, before);
        if (layer.gauges.length === 0) return ops;
        // Readings answer to their edits only about evenly: what is left is driven again.
        const start = layer.gauges.map(({ gauge }) => gauge.read(before));
        const stands = standing(frame);
        const free = layer.gauges.map(({ gauge }) => 1 - (stands.find((stand) => stand.limb === rig.limbBelow[gauge.moves])?.weight ?? 0));
        const asked = layer.gauges.map(({ target }, i) => w * free[i] * target(moment, start[i]));
        const driven = asked.slice();
        for (let round = 0; ; round++) {
          const all = [...ops, ...layer.gauges.flatMap(({ gauge }, i) => (Math.abs(driven[i]) < STILL ? [] : gauge.drive(before, driven[i])))];
          if (round === DRIVE_ROUNDS || all.length === ops.length) return all;
          trial.copyFrom(before);
          editFrame(trial, before, rig, all, holds, stands, freedom);
          let close = true;
          layer.gauges.forEach(({ gauge }, i) => {
            const got = gauge.read(trial) - start[i];
            if (Math.abs(asked[i] - got) < CLOSE) return;
            close = false;
            const gain = driven[i] === 0 ? 1 : got / driven[i];
            driven[i] += (asked[i] - got) / (gain > LEAST_GAIN ? gain : 1);
          });
          if (close) return all;
        }
      },
      holds,
    );
  },
});

/** Rounds of driving a reading again by what it lacks; close enough, and nothing at all (cm or degrees). */
const DRIVE_ROUNDS = 4;
const CLOSE = 1e-4;
const STILL = 1e-9;
/** A reading that answers less than this does not guide the next round. */
const LEAST_GAIN = 0.2;

interface Compiled {
  /** `frame` in the patch's own counting */
  ops(frame: number, moment: number, weight: number, before: PoseFrame): FrameOp[];
  /** each gauge with the difference that its keys ask for, given the reading as it is */
  readonly gauges: readonly { readonly gauge: Gauge; target(moment: number, reading: number): number }[];
}

function compileLayer(motion: Motion, settings: LayerSettings, context: PatchContext): Compiled | null {
  const index = (part: Parameters<PatchContext["part"]>[0]) => context.part(part, "channels");
  const channels = settings.channels.filter((c) => c.keys.length > 0).map((c) => ({ target: c.target, keys: orderedKeys(c.keys) }));
  if (channels.length === 0) return null;
  const turns = new Map<number, (readonly Key[])[]>();
  const angles = new Map<number, (readonly Key[])[]>();
  const moves: { joint: number; axis: number; space: "world" | "body"; keys: readonly Key[] }[] = [];
  const gauges: { gauge: Gauge; target(moment: number, reading: number): number }[] = [];
  const additive = settings.mode === "additive";
  for (const { target, keys } of channels) {
    if (target.drives === "move") moves.push({ joint: index(target.part), axis: AXIS[target.axis], space: target.space, keys });
    else if (target.drives === "measure") {
      const gauge = gaugeOf(target.measure, motion.character.rig, motion.ground, index);
      gauges.push({
        gauge,
        target: (moment, reading) => (additive ? curveValue(keys, moment) : (curveValue(keys, moment) - reading) * inForce(keys, moment, settings.fadeIn)),
      });
    } else {
      const lists = target.drives === "turn" ? turns : angles;
      const list = lists.get(index(target.part)) ?? [[], [], []];
      list[AXIS[target.axis]] = keys;
      lists.set(index(target.part), list);
    }
  }
  const known = context.known.clip;
  return {
    gauges,
    ops(frame, moment, weight, before) {
      const ops: FrameOp[] = [];
      for (const [joint, keys] of angles) {
        const force = keys.map((list) => (list.length === 0 ? 0 : inForce(list, moment, settings.fadeIn)));
        if (force.every((v) => v === 0)) continue;
        const near = keptAngleCurves(known, joint).subarray(frame * 3, frame * 3 + 3);
        const angle = anglesNear(new Float64Array(3), before.rotations.subarray(joint * 4, joint * 4 + 4), near);
        keys.forEach((list, a) => {
          const i = ANGLE_OF_AXIS[a];
          if (force[a] > 0) angle[i] += force[a] * ((curveValue(list, moment) * Math.PI) / 180 - angle[i]);
        });
        ops.push({ op: "set", joint, rotation: anglesToQuat(new Float64Array(4), angle, 0), weight });
      }
      for (const [joint, keys] of turns) {
        const vector = keys.map((list) => (weight * curveValue(list, moment) * Math.PI) / 180);
        ops.push({ op: "turn", joint, space: settings.composeIn, vector, pivot: null });
      }
      for (const move of moves) {
        const vector = [0, 0, 0];
        vector[move.axis] = (weight * curveValue(move.keys, moment)) / 100;
        ops.push({ op: "move", joint: move.joint, space: move.space, vector });
      }
      return ops;
    },
  };
}

/** How much of a curve that takes over is in force at a moment: all of it from its first key to its last, fading beyond. */
function inForce(keys: readonly Key[], moment: number, fade: number): number {
  const first = keys[0].at;
  const last = keys[keys.length - 1].at;
  return moment > first - ON_THE_KEY && moment < last + ON_THE_KEY ? 1 : rangeWeight(moment, first, last, fade, fade);
}

/** What is this near to a key, seconds, is at it: moments of frames are fractions. */
const ON_THE_KEY = 1e-6;

/** A channel of version 1: frames and slopes a frame become seconds and slopes a second, joint names parts. */
function upgradeChannel1(data: unknown, fps: number): unknown {
  if (!isLoose(data)) return data;
  return { ...data, target: upgradeTarget1(data.target), keys: upgradeKeys1(data.keys, fps) };
}

function upgradeTarget1(data: unknown): unknown {
  if (!isLoose(data)) return data;
  const { joint, measure, ...rest } = data;
  return { ...rest, ...(joint !== undefined && { part: partOfName(joint) }), ...(measure !== undefined && { measure: upgradeMeasure1(measure) }) };
}

function upgradeMeasure1(data: unknown): unknown {
  if (!isLoose(data)) return data;
  const { part, to, ...rest } = data;
  return { ...rest, ...(part !== undefined && { part: partOfName(part) }), ...(to !== undefined && { to: partOfName(to) }) };
}

function upgradeKeys1(data: unknown, fps: number): unknown {
  if (!Array.isArray(data)) return data;
  return data.map((key: unknown) => {
    if (!isLoose(key)) return key;
    const { frame, slopeIn, slopeOut, ...rest } = key;
    const perSecond = (v: unknown) => (typeof v === "number" ? v * fps : v);
    return {
      ...rest,
      ...(frame !== undefined && { at: secondsOf(frame, fps) }),
      ...(slopeIn !== undefined && { slopeIn: perSecond(slopeIn) }),
      ...(slopeOut !== undefined && { slopeOut: perSecond(slopeOut) }),
    };
  });
}
