import { z } from "zod";
import { carriedOnto } from "../cast/onto.ts";
import { legLengthOf } from "../character/legLength.ts";
import { partName } from "../character/parts.ts";
import type { FrameWindow } from "../clip/changes.ts";
import { cropClip, readPosition } from "../clip/clip.ts";
import { splinedClip } from "../clip/spline.ts";
import { addedBehind, averagePose, type BlendParts, blendedOver, poseOn, type ReferencePose } from "../combine/blend.ts";
import { mixedContacts, wholeLimbs } from "../combine/contacts.ts";
import { floored, held, howLaid, type Laid, laidBeside, movedTo, toPlace } from "../combine/other.ts";
import { isStill, posedFrame, stillMotion } from "../combine/poseTarget.ts";
import { courseAt, swayOf } from "../combine/sway.ts";
import { sharedAlongSpine, waistOf } from "../combine/waist.ts";
import { curveValue, keySchema, orderedKeys } from "../curves/keys.ts";
import { seconds } from "../documents/fields.ts";
import type { Motion } from "../motion.ts";
import { pieceOf } from "../piece.ts";
import { settingsAt } from "../plants/plants.ts";
import { storedPoseSchema } from "../pose/storedPose.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { sourceRefSchema } from "../sources.ts";
import { frameOf, inputAt } from "../time/warp.ts";
import { alignedTravel, mixedTravel } from "../travel/groundTravels.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const schema = z.strictObject({
  clip: sourceRefSchema.nullable(),
  /** a pose instead of a clip; beside one whose difference is added, what it is the difference to */
  pose: storedPoseSchema.nullable(),
  how: z.enum(["over", "added"]),
  reference: z.enum(["first", "average", "rest"]),
  /** the piece of the other clip that is used, seconds of it; null: from its start, to its end */
  from: seconds.nullable(),
  to: seconds.nullable(),
  /** moment of the other clip at the start of the range */
  offset: seconds,
  speed: z.number().min(0.05).max(20),
  repeat: z.enum(["once", "fill"]),
  align: z.enum(["none", "contacts"]),
  /** how much of it there is, keyed over time, times the patch's strength */
  amount: z.array(keySchema).max(2000),
  /** is what the two disagree by at the waist shared out along the spine? */
  shareWaist: z.boolean(),
});
export type MixSettings = z.infer<typeof schema>;

export const mixPatch = definePatch<MixSettings>({
  kind: "mix",
  title: "Mix",
  group: "combine",
  description: "Another clip, or a pose, on all of the body or on parts of it: laid over what is below, or its difference added. Legs bring their contacts.",
  schema,
  defaults: {
    clip: null,
    pose: null,
    how: "over",
    reference: "first",
    from: null,
    to: null,
    offset: 0,
    speed: 1,
    repeat: "once",
    align: "none",
    amount: [],
    shareWaist: false,
  },
  masked: true,
  poses: true,
  fields: {
    clip: { label: "Other clip" },
    how: { label: "Laid", choices: { over: "Over", added: "Added" } },
    reference: {
      label: "Difference to",
      choices: { first: "First frame", average: "Average", rest: "Rest" },
      onlyWhen: { setting: "how", is: "added" },
    },
    amount: { label: "Amount", unit: "%", factor: 100, unkeyed: 1, help: "How much of it there is, keyed over time" },
    shareWaist: { label: "Share along the spine", help: "Where the hips of the two clips are turned against each other, the spine makes up for it bit by bit" },
  },
  inputs: ({ clip }) => (clip ? [clip] : []),
  sees: () => "whole",
  apply(motion, settings, context) {
    if (!settings.clip && !settings.pose) {
      context.note("clip", "no clip has been chosen yet, so it does nothing; choose one");
      return motion;
    }
    const given = otherFor(motion, settings, context);
    for (const text of given.notes) context.note("clip", text);
    const weights = amounts(settings, context);
    const { joints } = given;
    tellStiffness(motion, joints, weights, context);
    const waist = settings.how === "over" ? waistOf(motion, given.motion, joints, weights) : null;
    if (waist && !settings.shareWaist && waist.meanDegrees > TOLD_DEGREES)
      context.note(
        "shareWaist",
        `the hips of the two clips are turned ${waist.meanDegrees.toFixed(0)}° against each other on average (${waist.mostDegrees.toFixed(0)}° at most), so the upper body leans by as much; share it along the spine`,
      );
    const blended = blend(motion, given, settings, weights);
    const clip = waist && settings.shareWaist ? sharedAlongSpine(blended, motion, waist, weights) : blended;
    if (settings.how === "added" || !settings.clip) return { ...motion, clip };
    const goes = joints.has(motion.character.rig.hips);
    const groundTravel = goes ? mixedTravel(motion.groundTravel, given.motion.groundTravel, weights) : motion.groundTravel;
    tellReturn(motion, clip, joints, context);
    const { contacts, left } = mixedContacts(motion, given.motion, clip, given.taken, weights);
    if (left > 0)
      context.note(
        "parts",
        `${left} contact${left === 1 ? " is" : "s are"} left out: the parts that were taken do not come to rest with those that were kept; take the hips along with the legs, and the arms with what they hold on to`,
      );
    return { ...motion, clip, contacts, groundTravel };
  },
  applyWindow(motion, settings, context, [first, last]: FrameWindow) {
    if ((!settings.clip && !settings.pose) || settings.shareWaist) return null;
    // What the ground does in its stead is told over the whole.
    if (settings.how === "over" && (motion.groundTravel || sourceOf(motion, settings, context)?.groundTravel)) return null;
    const weights = amounts(settings, context).slice(first, last + 1);
    const piece = pieceOf(motion, first, last);
    const known = knownFor(motion, settings, context);
    // Laid otherwise than before: only what the window shows is worked out, where it does not take the whole to tell.
    if (!known && settings.clip && settings.how === "over" && settings.repeat === "once" && settings.align === "none") {
      const given = prepare(motion, settings, sourceOf(motion, settings, context), context, [first, last]);
      return { ...piece, clip: blend(piece, given, settings, weights) };
    }
    const given = otherFor(motion, settings, context);
    const cut = {
      ...given,
      motion: { ...given.motion, clip: cropClip(given.motion.clip, first, last) },
      sway: given.sway && ((f: number) => given.sway?.(f + first) ?? [0, 0, 0]),
    };
    return { ...piece, clip: blend(piece, cut, settings, weights) };
  },
});

/** Disagreements at the waist below this are a body's own, degrees. */
const TOLD_DEGREES = 4;

/** The other motion, ready to be mixed in: as long as the one below, in its place, and what of the body it takes. */
interface Given {
  readonly motion: Motion;
  readonly joints: ReadonlySet<number>;
  readonly parts: BlendParts;
  readonly taken: Parameters<typeof mixedContacts>[3];
  readonly reference: ReferencePose | null;
  /** what is added to the body's place at a frame, metres */
  readonly sway: ((frame: number) => readonly number[]) | null;
  readonly notes: readonly string[];
}

const lastGiven = new WeakMap<Motion, { readonly key: string; readonly other: Motion | null; readonly given: Given }>();

/** What was prepared last over a motion, if nothing that it depends on has changed: how much there is of it does not. */
function knownFor(below: Motion, { amount, shareWaist, ...rest }: MixSettings, context: PatchContext): Given | null {
  const before = lastGiven.get(below);
  const source = sourceOf(below, rest, context);
  return before && before.key === givenKey(rest, context) && before.other === source ? before.given : null;
}

/** The other clip; without its contacts where nothing that is taken of it depends on what they or its floor are. */
function sourceOf(
  { character }: Motion,
  { clip, repeat, align }: Pick<MixSettings, "clip" | "repeat" | "align">,
  { joints, other }: PatchContext,
): Motion | null {
  if (!clip) return null;
  const { rig, body } = character;
  const legs = rig.limbs.filter((l) => l.kind === "leg" || body.plan === "quadruped");
  const stands = joints === null || joints.has(rig.hips) || legs.some((l) => joints.has(l.end));
  return other(clip, "clip", !stands && repeat === "once" && align === "none");
}

function givenKey(settings: Omit<MixSettings, "amount" | "shareWaist">, { start, end, joints }: PatchContext): string {
  return JSON.stringify([settings, start, end, joints && [...joints]]);
}

function otherFor(below: Motion, settings: MixSettings, context: PatchContext): Given {
  const known = knownFor(below, settings, context);
  if (known) return known;
  const { amount, shareWaist, ...rest } = settings;
  const source = sourceOf(below, rest, context);
  const given = prepare(below, settings, source, context);
  lastGiven.set(below, { key: givenKey(rest, context), other: source, given });
  return given;
}

/** Over the whole motion, or with a `window` on some frames of it alone. */
function prepare(below: Motion, settings: MixSettings, source: Motion | null, context: PatchContext, window: FrameWindow | null = null): Given {
  const { character } = below;
  const { rig, skeleton } = character;
  const { start } = context;
  const all = new Set(skeleton.names.keys());
  const wanted = context.joints ?? all;
  const carried = source && carriedOnto(source, below);
  const joints = new Set([...wanted].filter((j) => !carried || carried.joints.has(j)));
  const hips = joints.has(rig.hips);
  if (hips) for (const j of ancestry(skeleton, rig.hips)) joints.add(j);
  const limbs = wholeLimbs(rig.limbs, joints);
  const positions = [...below.clip.positionJoints];
  const parts = { joints: [...joints], slots: positions.flatMap((j, s) => (joints.has(j) ? [s] : [])) };
  const taken = { limbs, body: joints, hips, legLength: legLengthOf(character), name: settings.clip?.name ?? "" };
  const made = { joints, parts, taken, reference: null, sway: null, notes: [] };
  if (!carried || !source) {
    const pose = posedFrame(below, start, settings.pose as NonNullable<MixSettings["pose"]>, "spot");
    return { ...made, motion: stillMotion(below, pose), parts: { ...parts, slots: [] } };
  }
  const notes: string[] = [];
  if (carried.without.length > 0) {
    const names = carried.without.map((part) => partName(part, source.character.body.plan));
    const list = names.length > MOST_NAMED ? `${names.slice(0, MOST_NAMED).join(", ")} and ${names.length - MOST_NAMED} more` : names.join(", ");
    notes.push(`what moves in the other clip and has no partner on this body is left out: ${list}`);
  }
  const level = floored(carried.motion);
  const legs = [...limbs].some((i) => rig.limbs[i].kind === "leg" || character.body.plan === "quadruped");
  const stand = legs && below.plants.length > 0 && level.plants.length === 0 ? held(level, settingsAt(below.plants, start), context.pause) : level;
  const how = { ...settings, start: start / context.fps, end: context.end / context.fps };
  const laid = window ? windowOf(howLaid(stand, below, how, context.pause), window, context.fps) : laidBeside(stand, below, how, context.pause);
  notes.push(...laid.notes);
  if (settings.how === "added") {
    const { fps, frameCount } = stand.clip;
    const first = Math.min(frameCount - 1, Math.round((settings.from ?? 0) * fps));
    const last = Math.max(first, Math.min(frameCount - 1, Math.round((settings.to ?? frameCount) * fps)));
    const average = settings.reference === "average";
    const pose = average ? averagePose(stand.clip, first, last) : poseOn(stand.clip, first);
    const named = settings.pose && posedFrame(below, start, settings.pose, "spot");
    const rotations = named ? named.rotations.slice() : settings.reference === "rest" ? skeleton.restRotations : pose.rotations;
    const reference = { ...pose, rotations };
    const sway = hips ? swayOf(laid.motion, below, stand, average ? [first, last] : [first, first]) : null;
    return { ...made, motion: laid.motion, reference, sway, notes };
  }
  if (!hips) return { ...made, motion: laid.motion, notes };
  const there = Math.round(frameOf(inputAt(laid.warp, start / context.fps), context.fps));
  const placed = movedTo(laid.motion, toPlace(courseAt(laid.piece, there), courseAt(below, start)), below.ground);
  return { ...made, motion: { ...placed, groundTravel: alignedTravel(placed.groundTravel, below.groundTravel, start) }, notes };
}

/** Some frames (inclusive) of how another motion is laid, and those alone. */
function windowOf(laid: Omit<Laid, "motion">, [first, last]: FrameWindow, fps: number): Laid {
  const frames = Float64Array.from({ length: last - first + 1 }, (_, k) => frameOf(inputAt(laid.warp, (first + k) / fps), fps));
  return { ...laid, motion: { ...laid.piece, clip: splinedClip(laid.piece.clip, frames), contacts: [], settled: null } };
}

/** Parts that a note names before it counts the rest. */
const MOST_NAMED = 6;

/** Weight of the mix a frame: the patch's, times its keyed amount. */
function amounts({ amount }: MixSettings, { weights, fps }: PatchContext): Float64Array {
  if (amount.length === 0) return weights;
  const keys = orderedKeys(amount);
  return weights.map((w, f) => w * Math.max(0, Math.min(1, curveValue(keys, f / fps))));
}

function blend(below: Motion, { motion, parts, reference, sway }: Given, { how }: MixSettings, weights: Float64Array): Motion["clip"] {
  if (how === "over" || !reference) return blendedOver(below.clip, motion.clip, weights, parts);
  const mover = below.clip.positionJoints.indexOf(below.character.rig.mover);
  const shift = sway && ((f: number, slot: number) => (slot === mover ? sway(f) : [0, 0, 0]));
  return addedBehind(below.clip, motion.clip, reference, weights, parts, shift);
}

/** Where nothing moves below, less than all of the other clip is the other clip stiffened. */
function tellStiffness(motion: Motion, joints: ReadonlySet<number>, weights: Float64Array, { start, end, note }: PatchContext): void {
  const within = weights.subarray(start, end + 1);
  if (end - start < 2 || !within.some((w) => w > 0 && w < 1) || !isStill(motion.clip, joints, start, end)) return;
  note(
    "weight",
    "nothing moves below, so at less than full strength the movement only gets smaller and stiffer; lay it over a clip that moves, or take all of it",
  );
}

/** A body that comes back by more than this behind a range is told of, metres. */
const COMES_BACK = 0.3;

/** With its hips the body goes where the other clip takes it; behind the range it is back where it was. */
function tellReturn({ clip: below, character }: Motion, mixed: Motion["clip"], joints: ReadonlySet<number>, { end, frameCount, note }: PatchContext): void {
  if (!joints.has(character.rig.hips) || end >= frameCount - 1) return;
  const slot = Math.max(0, below.positionJoints.indexOf(character.rig.mover));
  const [a, b] = [new Float64Array(3), new Float64Array(3)];
  readPosition(below, slot, end, a, 0);
  readPosition(mixed, slot, end, b, 0);
  const way = Math.hypot(a[0] - b[0], a[2] - b[2]);
  if (way > COMES_BACK)
    note("range", `behind the range the body comes back to where it was, by ${way.toFixed(1)} m; let the range go to the end, or join the other clip instead`);
}
