import { z } from "zod";
import { originOf } from "../clip/clip.ts";
import { ANGLE_OF_AXIS, anglesToQuat, keptAngleCurves } from "../curves/angles.ts";
import { curveValue, type Key, keySchema } from "../curves/keys.ts";
import { type Gauge, gaugeOf, measureSchema } from "../curves/measured.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { rangeWeight } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { editFrame, type FrameOp } from "../pose/editFrame.ts";
import { editMotion, frameHolds, maskedFreedom, standingLimbs } from "../pose/editMotion.ts";
import { holdSchema, jointIndex } from "../pose/edits.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const axis = z.enum(["x", "y", "z"]);
const joint = z.string().min(1).max(200);

/** What a channel's keys drive. turn: degrees of a rotation vector, added; move: centimetres by reach, added; angle: degrees, taken over; measure: see the layer's mode. */
export const channelTargetSchema = z.discriminatedUnion("drives", [
  z.strictObject({ drives: z.literal("turn"), joint, axis }),
  z.strictObject({ drives: z.literal("move"), joint, axis, space: z.enum(["world", "body"]) }),
  z.strictObject({ drives: z.literal("angle"), joint, axis }),
  z.strictObject({ drives: z.literal("measure"), measure: measureSchema }),
]);
export type ChannelTarget = z.infer<typeof channelTargetSchema>;

const channelSchema = z.strictObject({ target: channelTargetSchema, keys: z.array(keySchema).max(20_000) });
export type Channel = z.infer<typeof channelSchema>;

const schema = z.strictObject({
  mode: z.enum(["additive", "override"]),
  composeIn: z.enum(["own", "parent"]),
  fadeInFrames: z.int().min(0).max(600),
  channels: z.array(channelSchema).max(600),
  weightKeys: z.array(keySchema).max(2000),
  holds: z.array(holdSchema).max(64),
});
export type LayerSettings = z.infer<typeof schema>;

const AXIS = { x: 0, y: 1, z: 2 } as const;

export const layerPatch = definePatch<LayerSettings>({
  kind: "layer",
  title: "Layer",
  description: "Keys over the motion, added to it or taking it over; new, it changes nothing.",
  schema,
  defaults: { mode: "additive", composeIn: "own", fadeInFrames: 6, channels: [], weightKeys: [], holds: [] },
  masked: true,
  local: true,
  fields: {
    mode: { label: "Keys are", help: "Added to the motion beneath, or in its place between their first and last" },
    composeIn: { label: "Turns are about", help: "The axes that added turns are given in: the joint's own, or its parent's" },
    fadeInFrames: {
      onlyWhen: { setting: "mode", is: "override" },
      label: "Take-over fades over",
      unit: "f",
      step: 1,
      help: "Frames outside the first and last key over which a curve that takes over comes and goes",
    },
  },
  apply(motion: Motion, settings: LayerSettings, context: PatchContext): Motion {
    const layer = compileLayer(motion, settings, context.name);
    if (!layer) return motion;
    const holds = frameHolds(motion.skeleton, settings.holds, context.name);
    const weightAt = (frame: number) => (settings.weightKeys.length === 0 ? 1 : Math.max(0, Math.min(1, curveValue(settings.weightKeys, frame))));
    const standing = standingLimbs(motion);
    const freedom = maskedFreedom(motion.skeleton, motion.rig, context.joints);
    const trial = new PoseFrame(motion.skeleton, motion.clip);
    return editMotion(
      motion,
      context,
      (frame, weight, before) => {
        const w = weight * weightAt(frame);
        if (w === 0) return [];
        const ops = layer.ops(frame, w);
        if (layer.gauges.length === 0) return ops;
        // Readings answer to their edits only about evenly: what is left is driven again.
        const start = layer.gauges.map(({ gauge }) => gauge.read(before));
        const stands = standing(frame - context.offset);
        const free = layer.gauges.map(({ gauge }) => 1 - (stands.find((stand) => stand.limb === motion.rig.limbBelow[gauge.moves])?.weight ?? 0));
        const asked = layer.gauges.map(({ target }, i) => w * free[i] * target(frame, start[i]));
        const driven = asked.slice();
        for (let round = 0; ; round++) {
          const all = [...ops, ...layer.gauges.flatMap(({ gauge }, i) => (Math.abs(driven[i]) < STILL ? [] : gauge.drive(before, driven[i])))];
          if (round === DRIVE_ROUNDS || all.length === ops.length) return all;
          trial.copyFrom(before);
          editFrame(trial, before, motion.rig, all, holds, stands, freedom);
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
  ops(frame: number, weight: number): FrameOp[];
  /** each gauge with the difference that its keys ask for, given the reading as it is */
  readonly gauges: readonly { readonly gauge: Gauge; target(frame: number, reading: number): number }[];
}

function compileLayer(motion: Motion, settings: LayerSettings, patch: string): Compiled | null {
  const index = (name: string) => jointIndex(motion.skeleton, name, patch, "channels");
  const channels = settings.channels.filter((c) => c.keys.length > 0);
  if (channels.length === 0) return null;
  const turns = new Map<number, (readonly Key[])[]>();
  const angles = new Map<number, (readonly Key[])[]>();
  const moves: { joint: number; axis: number; space: "world" | "body"; keys: readonly Key[] }[] = [];
  const gauges: { gauge: Gauge; target(frame: number, reading: number): number }[] = [];
  const additive = settings.mode === "additive";
  for (const { target, keys } of channels) {
    if (target.drives === "move") moves.push({ joint: index(target.joint), axis: AXIS[target.axis], space: target.space, keys });
    else if (target.drives === "measure") {
      const gauge = gaugeOf(target.measure, motion.rig, motion.floor, index);
      gauges.push({
        gauge,
        target: (frame, reading) => (additive ? curveValue(keys, frame) : (curveValue(keys, frame) - reading) * inForce(keys, frame, settings.fadeInFrames)),
      });
    } else {
      const lists = target.drives === "turn" ? turns : angles;
      const list = lists.get(index(target.joint)) ?? [[], [], []];
      list[AXIS[target.axis]] = keys;
      lists.set(index(target.joint), list);
    }
  }
  const origin = originOf(motion.clip);
  return {
    gauges,
    ops(frame, weight) {
      const ops: FrameOp[] = [];
      for (const [joint, keys] of angles) {
        const force = keys.map((list) => (list.length === 0 ? 0 : inForce(list, frame, settings.fadeInFrames)));
        if (force.every((v) => v === 0)) continue;
        const angle = keptAngleCurves(origin.clip, joint).slice(frame * 3, frame * 3 + 3);
        keys.forEach((list, a) => {
          const i = ANGLE_OF_AXIS[a];
          if (force[a] > 0) angle[i] += force[a] * ((curveValue(list, frame) * Math.PI) / 180 - angle[i]);
        });
        ops.push({ op: "set", joint, rotation: anglesToQuat(new Float64Array(4), angle, 0), weight });
      }
      for (const [joint, keys] of turns) {
        const vector = keys.map((list) => (weight * curveValue(list, frame) * Math.PI) / 180);
        ops.push({ op: "turn", joint, space: settings.composeIn, vector, pivot: null });
      }
      for (const move of moves) {
        const vector = [0, 0, 0];
        vector[move.axis] = (weight * curveValue(move.keys, frame)) / 100;
        ops.push({ op: "move", joint: move.joint, space: move.space, vector });
      }
      return ops;
    },
  };
}

/** How much of a curve that takes over is in force at a frame: all of it from its first key to its last, fading beyond. */
function inForce(keys: readonly Key[], frame: number, fade: number): number {
  return rangeWeight(frame, keys[0].frame, keys[keys.length - 1].frame, fade, fade);
}
