import { z } from "zod";
import { partFromKey } from "../character/parts.ts";
import { moment, timed } from "../documents/fields.ts";
import { type Loose, partOfName, secondsOf } from "../documents/steps.ts";
import { rotationRadians } from "../math/rotationVectors.ts";
import type { Motion } from "../motion.ts";
import type { FrameOp } from "../pose/editFrame.ts";
import { editMotion, frameHolds } from "../pose/editMotion.ts";
import { type Edit, editSchema, holdSchema } from "../pose/edits.ts";
import { mergeEdits, scaleEdit } from "../pose/mergeEdits.ts";
import { upgradeHolds1 } from "../pose/upgrade.ts";
import { frameOf } from "../time/warp.ts";
import { definePatch, type PatchContext, THE_MOMENT } from "./kind.ts";

const schema = z.strictObject({
  /** moment at which it was made */
  at: timed(moment),
  edits: z.array(editSchema).max(400),
  holds: z.array(holdSchema).max(64),
});
export type TouchUpSettings = z.infer<typeof schema>;

/** Ramps of a new touch-up, seconds. */
const NEW_RAMP = 0.2;
/** Weight from which an edit goes into a touch-up rather than a new one: less would have to be multiplied up too far. */
const LEAST_WEIGHT = 0.05;

export const touchUpPatch = definePatch<TouchUpSettings>({
  kind: "touchUp",
  title: "Touch-up",
  group: "correct",
  description: "Corrects the pose in a window; outside it the motion stays as it was, bit for bit.",
  schema,
  defaults: { at: 0, edits: [], holds: [] },
  masked: true,
  poses: true,
  holds: true,
  fields: {},
  begin(moment, fps) {
    const ramp = Math.round(NEW_RAMP * fps) / fps;
    return {
      name: `Touch-up f${Math.round(frameOf(moment, fps))}`,
      settings: { at: moment, edits: [], holds: [] },
      range: { start: moment, end: moment },
      rampIn: ramp,
      rampOut: ramp,
    };
  },
  posing: {
    takes: (weight) => weight > LEAST_WEIGHT,
    keyed: false,
    write(settings, edit, { weight, isNew }) {
      // A pose that is put on is meant as it is: what waits to be held does not pull at it.
      const own = isNew && edit.op === "pose" ? { ...settings, holds: [] } : settings;
      const scaled = scaleEdit(edit, 1 / weight);
      const last = own.edits.at(-1);
      const merged = last && mergeEdits(last, scaled);
      return { ...own, edits: merged ? [...own.edits.slice(0, -1), merged] : [...own.edits, scaled] };
    },
    edits: (settings) => ({ list: settings.edits, without: (index) => ({ ...settings, edits: settings.edits.filter((_, i) => i !== index) }) }),
    moments: (settings) => [settings.at],
  },
  fromFrames(settings, fps) {
    const { frame, edits, holds, ...rest } = settings;
    return {
      ...rest,
      ...(frame !== undefined && { at: secondsOf(frame, fps) }),
      ...(edits !== undefined && { edits: Array.isArray(edits) ? edits.map(upgradeEdit1) : edits }),
      ...(holds !== undefined && { holds: upgradeHolds1(holds) }),
    };
  },
  sees: () => THE_MOMENT,
  /** The same differences at every frame of the window, scaled by its weight; held parts keep their own course. */
  apply(motion: Motion, settings: TouchUpSettings, context: PatchContext): Motion {
    const compiled = settings.edits.map((edit) => compileEdit(edit, context));
    if (compiled.length === 0) return motion;
    const holds = frameHolds(settings.holds, context);
    return editMotion(motion, context, (_, weight) => compiled.flatMap((make) => make(weight)), holds);
  },
});

/** An edit of version 1: joint names become parts. */
function upgradeEdit1(data: unknown): unknown {
  if (typeof data !== "object" || data === null) return data;
  const { joints, rotations, pivot, ...rest } = data as Loose;
  const named = (names: unknown) => (Array.isArray(names) ? names.map(partOfName) : names);
  return {
    ...rest,
    ...(joints !== undefined && { parts: named(joints) }),
    ...(rotations !== undefined && {
      rotations:
        typeof rotations === "object" && rotations !== null ? Object.fromEntries(Object.entries(rotations).map(([name, q]) => [`=${name}`, q])) : rotations,
    }),
    ...(pivot !== undefined && { pivot: typeof pivot === "object" && pivot !== null ? { ...pivot, parts: named((pivot as Loose).parts) } : pivot }),
  };
}

/** An edit as operations on a frame, as a function of the weight there. */
function compileEdit(edit: Edit, context: PatchContext): (weight: number) => FrameOp[] {
  if (edit.op === "pose") {
    const joints = Object.entries(edit.rotations).map(([key, rotation]) => ({ joint: context.part(partFromKey(key), "edits"), rotation }));
    return (weight) => [
      ...joints.map(
        ({ joint, rotation }): FrameOp =>
          edit.additive
            ? { op: "turn", joint, space: "own", vector: rotationRadians(rotation).map((v) => v * edit.amount * weight), pivot: null }
            : { op: "set", joint, rotation, weight: edit.amount * weight },
      ),
      ...(edit.moved ? [{ op: "carry" as const, vector: edit.moved.map((v) => (v / 100) * edit.amount * weight) }] : []),
    ];
  }
  const joints = edit.parts.map((part) => context.part(part, "edits"));
  if (edit.op === "move") {
    return (weight) => joints.map((joint) => ({ op: "move", joint, space: edit.space, vector: edit.centimetres.map((v) => (v / 100) * weight) }));
  }
  const share = edit.shared ? 1 / joints.length : 1;
  const pivot = edit.pivot && { joints: edit.pivot.parts.map((part) => context.part(part, "edits")), point: edit.pivot.point };
  return (weight) =>
    joints.map((joint) => ({ op: "turn", joint, space: edit.space, vector: edit.degrees.map((v) => ((v * Math.PI) / 180) * share * weight), pivot }));
}
