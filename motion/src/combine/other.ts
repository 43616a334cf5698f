import type { Character } from "../character/character.ts";
import { type Clip, cropClip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import { carryAnchors } from "../contacts/carryAnchors.ts";
import { bestCycle, strideSeconds } from "../cycles/find.ts";
import { repeatedMotion } from "../cycles/loopMotion.ts";
import { type Ground, groundHeight, groundTilt, LEVEL_GROUND } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { fromToQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { preparePlant } from "../plants/prepare.ts";
import type { PlantSettings } from "../plants/settings.ts";
import { solvePlants } from "../plants/solve.ts";
import { headingOf } from "../pose/spaces.ts";
import { type Beat, beatWarp } from "../time/beats.ts";
import { throughWarp } from "../time/through.ts";
import { cropWarp, fittedWarp, type TimeWarp, type WarpPiece } from "../time/warp.ts";
import { turnedTravel } from "../travel/groundTravels.ts";
import { type LevelMove, rigidOf, turnedLevel } from "../travel/level.ts";
import { phaseBeats } from "./phases.ts";

/** How another motion is laid beside one: seconds, each in the other's own time. */
export interface Laying {
  /** the piece of it that is used; null: from its start, to its end */
  readonly from: number | null;
  readonly to: number | null;
  /** which moment of it comes at the start of the stretch */
  readonly offset: number;
  readonly speed: number;
  readonly repeat: "once" | "fill";
  readonly align: "none" | "contacts";
  /** the stretch of the motion that it is laid beside over which it counts, seconds; the offset is at its start */
  readonly start: number;
  readonly end: number;
}

/** What came of it: as long as the motion that it is laid beside, and what a person should know. */
export interface Laid {
  readonly motion: Motion;
  /** the piece (repeated, if it is to fill) and its map onto the time of the motion that it is laid beside */
  readonly piece: Motion;
  readonly warp: TimeWarp;
  readonly notes: readonly string[];
}

/** Floors steeper than this are meant to be steep, radians. */
const STEEPEST = (2.5 * Math.PI) / 180;

/** A motion with the floor that its feet found at height zero and level, as the floor patch leaves it. */
export function floored(motion: Motion): Motion {
  const known = lastFloored.get(motion) ?? flooredAnew(motion);
  lastFloored.set(motion, known);
  return known;
}

const lastFloored = new WeakMap<Motion, Motion>();

/** A ground as the floor patch leaves it: at height zero, and level where it is not meant to be steep. What stands on it stays. */
export function flooredGround(ground: Ground): Ground {
  return groundTilt(ground) <= STEEPEST ? { ...LEVEL_GROUND, shapes: ground.shapes } : { ...ground, height: 0 };
}

function flooredAnew(motion: Motion): Motion {
  const { height, slopeX, slopeZ } = motion.ground;
  const level = groundTilt(motion.ground) <= STEEPEST;
  if (height === 0 && ((slopeX === 0 && slopeZ === 0) || !level)) return motion;
  const turn = level ? (fromToQuatFlat(new Float64Array(4), 0, -slopeX, 1, -slopeZ, 0, 1, 0) as Float64Array) : null;
  const move = { shift: [0, -height, 0], turn };
  const clip = moveBody(motion.character.skeleton, motion.clip, () => move);
  return { ...motion, clip, contacts: carryAnchors(motion.contacts, () => move), ground: flooredGround(motion.ground), settled: null };
}

/** A motion that no plant holds yet, held by one: its travel put right and its feet still. */
export function held(motion: Motion, settings: PlantSettings, pause: () => void): Motion {
  const before = lastHeld.get(motion);
  if (before?.settings === settings) return before.held;
  const standing = heldAnew(motion, settings, pause);
  lastHeld.set(motion, { settings, held: standing });
  return standing;
}

const lastHeld = new WeakMap<Motion, { readonly settings: PlantSettings; readonly held: Motion }>();

function heldAnew(motion: Motion, settings: PlantSettings, pause: () => void): Motion {
  const weights = new Float64Array(motion.clip.frameCount).fill(1);
  const { planted, trembles } = preparePlant(motion, settings, { start: 0, end: weights.length - 1, whole: true, weights });
  const standing: Motion = { ...planted, plants: [{ settings, weights, trembles }] };
  const clip = solvePlants(standing, null, pause);
  return { ...standing, clip, settled: clip };
}

/**
 * Another motion, of the same body and rate already, in the time of the one that it is laid beside: its piece cut out, repeated if it is to fill, its feet brought onto
 * the other's where that is asked for; as many frames as that one.
 */
export function laidBeside(other: Motion, below: Motion, laying: Laying, pause: () => void): Laid {
  const { piece, warp, notes } = howLaid(other, below, laying, pause);
  return { motion: throughWarp(piece, warp), piece, warp, notes };
}

/** The same without its frames: which piece of the other, and the map of its time. */
export function howLaid(other: Motion, below: Motion, laying: Laying, pause: () => void): Omit<Laid, "motion"> {
  const notes: string[] = [];
  const seconds = (below.clip.frameCount - 1) / below.clip.fps;
  const whole = (other.clip.frameCount - 1) / other.clip.fps;
  const from = Math.max(0, Math.min(whole, laying.from ?? 0));
  const to = Math.max(from, Math.min(whole, laying.to ?? whole));
  const fill = laying.repeat === "fill";
  let piece: Motion;
  let origin = from;
  if (fill) {
    const cut = laying.from === null && laying.to === null ? bestCycle(other, false) : null;
    const stretch = cut ? { from: cut.from, to: cut.to } : { from, to };
    const length = stretch.to - stretch.from;
    if (length * other.clip.fps < 4) throw new RangeError("the piece of the other clip is too short to be repeated; choose at least four frames");
    // Whole cycles of it are played until the offset, and on to the end of the motion.
    const lead = (((laying.offset - stretch.from) % length) + length) % length;
    const pace = laying.align === "contacts" ? paceOf(other, below) : laying.speed;
    const repeats = Math.min(MOST_REPEATS, Math.ceil((lead + (seconds + SPARE) * Math.max(0.05, pace)) / length) + 2);
    piece = repeatedMotion(other, stretch, repeats, pause);
    // A cycle before the start, for what is asked of moments before it.
    origin = laying.offset - lead - length;
  } else piece = from === 0 && to === whole ? other : throughWarp(other, cropWarp(from, to));
  const offset = laying.offset - origin;
  const length = (piece.clip.frameCount - 1) / piece.clip.fps;
  let warp: TimeWarp | null = null;
  if (laying.align === "contacts") {
    const beats = phaseBeats(piece, below, offset - laying.start);
    if (beats.length >= 2) warp = fittedWarp(beatWarp(continued(beats, length, seconds), "eased", 1, length), seconds);
    else notes.push("the two have no two landings of one foot in common, so their feet cannot be brought together; they run at their own pace");
  }
  warp ??= linearWarp(offset, laying.speed, laying.start, length, seconds);
  const end = warp.pieces.findLast((p) => p.inEnd !== p.inStart)?.outEnd ?? seconds;
  if (!fill && end < laying.end - 1.5 / below.clip.fps)
    notes.push(`the other clip ends at frame ${Math.round(end * below.clip.fps)}; behind it its last pose is held — repeat it to fill, or end the range there`);
  return { piece, warp, notes };
}

/** Most repeats that a motion is filled with. */
const MOST_REPEATS = 500;
/** So much longer than needed a filling is, seconds. */
const SPARE = 1;

/** How much faster another motion has to be played for its strides to be as long as a motion's; 1 where either has none. */
function paceOf(other: Motion, below: Motion): number {
  const [theirs, ours] = [strideSeconds(other), strideSeconds(below)];
  return theirs && ours ? theirs / ours : 1;
}

/** Beats with one more before the first and behind the last, so that there it goes at the mean pace between them, as far as there is something of it. */
function continued(beats: readonly Beat[], length: number, seconds: number): Beat[] {
  const [head, tail] = [beats[0], beats[beats.length - 1]];
  const pace = (tail.from - head.from) / (tail.to - head.to);
  const back = Math.min(head.from, head.to * pace);
  const on = Math.min(length - tail.from, (seconds - tail.to) * pace);
  return [
    ...(back > pace / 100 ? [{ from: head.from - back, to: head.to - back / pace }] : []),
    ...beats,
    ...(on > pace / 100 ? [{ from: tail.from + on, to: tail.to + on / pace }] : []),
  ];
}

/** The other's moments at one speed from `offset` at `start` on; its first and its last pose held where it does not reach. */
function linearWarp(offset: number, speed: number, start: number, length: number, seconds: number): TimeWarp {
  const begin = start - offset / speed;
  const end = begin + length / speed;
  const pieces: WarpPiece[] = [];
  const add = (outStart: number, outEnd: number, inStart: number, inEnd: number) => {
    const [a, b] = [Math.max(0, outStart), Math.min(seconds, outEnd)];
    if (b <= a && !(seconds === 0 && outStart <= 0 && outEnd >= 0)) return;
    const at = (out: number) => (outEnd === outStart ? inStart : inStart + ((out - outStart) * (inEnd - inStart)) / (outEnd - outStart));
    pieces.push({ outStart: a, outEnd: b, inStart: at(a), inEnd: at(b) });
  };
  if (begin > 0) add(0, begin, 0, 0);
  add(begin, end, 0, length);
  if (end < seconds) add(end, seconds, length, length);
  return { seconds, pieces };
}

/** Level place of the hips (x, z), their height, and the body's heading on a frame. */
export function standing(character: Character, clip: Clip, frame: number): { x: number; y: number; z: number; heading: number } {
  const pose = new PoseFrame(character.skeleton, clip);
  pose.load(cropClip(clip, frame, frame), 0);
  const o = character.rig.hips * 3;
  const p = pose.worldPositions;
  return { x: p[o], y: p[o + 1], z: p[o + 2], heading: headingOf(pose, character.rig) };
}

/** The level movement that brings a body that stands at one place and heading to another. */
export function toPlace(
  from: { readonly x: number; readonly z: number; readonly heading: number },
  to: { readonly x: number; readonly z: number; readonly heading: number },
): LevelMove {
  const yaw = to.heading - from.heading;
  const [x, z] = turnedLevel(from.x, from.z, yaw);
  return { yaw, x: to.x - x, y: 0, z: to.z - z };
}

/** A motion moved as a whole, its contacts' places along; heights are told from the ground under it before and after. */
export function movedTo(motion: Motion, move: LevelMove, ground: Motion["ground"]): Motion {
  const { x, z } = standing(motion.character, motion.clip, 0);
  const [px, pz] = turnedLevel(x, z, move.yaw);
  const y = groundHeight(ground, px + move.x, pz + move.z) - groundHeight(motion.ground, x, z);
  const rigid = rigidOf({ ...move, y });
  const clip = moveBody(motion.character.skeleton, motion.clip, () => rigid);
  return {
    ...motion,
    clip,
    contacts: carryAnchors(motion.contacts, () => rigid),
    ground,
    groundTravel: motion.groundTravel && turnedTravel(motion.groundTravel, move.yaw),
    settled: motion.settled === motion.clip ? clip : null,
  };
}
