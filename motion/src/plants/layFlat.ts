import type { Character } from "../character/character.ts";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { type Ground, groundNormal } from "../ground/ground.ts";
import { conjugateQuatFlat, expQuatFlat, fromToQuatFlat, logQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import { fadeBetween } from "./fade.ts";
import { type LimbEnd, rampFrames } from "./plants.ts";
import type { PlantSettings } from "./settings.ts";
import { type StandSpan, standsOfEnd } from "./stands.ts";

/** Turns below this are none, radians. */
const NO_TURN = 1e-6;

/**
 * Lays feet flat where they stand: each stand's foot is turned, by one and the same turn all through it, so that its sole lies along the ground on the
 * frames on which heel and toe both rest (all of it where they never do), by its contacts' own amount or the plant's. The turn fades outside the stand
 * with the plant's ramps. Only the end joints' rotations change; what rests where is decided afterwards.
 */
export function layFlat(
  motion: Pick<Motion, "character" | "contacts" | "points" | "ground">,
  clip: Clip,
  ends: readonly LimbEnd[],
  settings: PlantSettings,
  weights: Float64Array,
): Clip {
  const { character, contacts, ground } = motion;
  const { skeleton } = character;
  const { landing, lift } = rampFrames(settings, clip.fps);
  let draft: ClipDraft | undefined;
  for (const end of ends) {
    if (!end.bears || end.points.length < 2) continue;
    const stands = standsOfEnd(end, contacts).filter((stand) => amountOf(stand, settings) > 0);
    if (stands.length === 0) continue;
    const track = jointTrack(skeleton, clip, end.limb.end);
    const up = soleUp(character, end);
    const turns = new Float64Array(clip.frameCount * 3);
    for (const stand of stands) {
      const turn = turnToGround(stand, end, track, up, ground).map((v) => v * amountOf(stand, settings));
      for (let f = stand.start; f <= Math.min(clip.frameCount - 1, stand.end); f++) turns.set(turn, f * 3);
    }
    const spans = stands.map(({ start, end: last }) => ({ start, end: Math.min(clip.frameCount - 1, last), rampIn: landing, rampOut: lift }));
    fadeBetween(turns, clip.frameCount, spans);
    draft ??= ClipDraft.of(clip);
    turnEnd(draft, clip, end.limb.end, track.rotations, turns, weights);
  }
  return draft ? draft.done() : clip;
}

function amountOf(stand: StandSpan, settings: PlantSettings): number {
  const said = stand.contacts.flatMap((c) => (c.flat === undefined ? [] : [c.flat]));
  return said.length > 0 ? Math.max(...said) : settings.layFlat;
}

/** The sole's own "up" in the end joint's frame: square to the line from heel to toe as both stand on level ground, rolled as at rest. */
function soleUp({ skeleton, rig }: Character, { limb, points: [heel, toe] }: LimbEnd): Float64Array {
  const up = rotateVecFlat(
    new Float64Array(3),
    0,
    conjugateQuatFlat(new Float64Array(4), 0, restWorld(skeleton).rotations, limb.end * 4),
    0,
    rig.up,
    0,
  ) as Float64Array;
  const along = toe.local.map((v, i) => v - heel.local[i]);
  const length = Math.hypot(...along);
  if (length < 1e-6) return up;
  const climb = Math.max(-0.9, Math.min(0.9, (toe.clearance - heel.clearance) / length));
  const dot = along.reduce((sum, v, i) => sum + v * up[i], 0) / (length * length);
  const across = along.map((v, i) => up[i] - dot * v);
  const size = Math.hypot(...across);
  return Float64Array.from(along, (v, i) => (climb * v) / length + (Math.sqrt(1 - climb * climb) * across[i]) / size);
}

/** Rotation vector that takes a stand's mean sole onto the ground's normal (its own height's level where it rests on a place of its own). */
function turnToGround(
  stand: StandSpan,
  { points }: LimbEnd,
  track: { readonly positions: Float64Array; readonly rotations: Float32Array },
  up: Float64Array,
  ground: Ground,
): Float64Array {
  const rests = (id: string, f: number) => stand.contacts.some((c) => c.point === id && f >= c.start && f <= c.end);
  const last = Math.min(stand.end, track.positions.length / 3 - 1);
  const frames = Array.from({ length: last - stand.start + 1 }, (_, i) => stand.start + i);
  const both = frames.filter((f) => points.every((p) => rests(p.id, f)));
  const seen = both.length > 0 ? both : frames;
  const mean = new Float64Array(3);
  const v = new Float64Array(3);
  for (const f of seen) {
    rotateVecFlat(v, 0, track.rotations, f * 4, up, 0);
    for (let i = 0; i < 3; i++) mean[i] += v[i];
  }
  const middle = seen[seen.length >> 1] * 3;
  const flat = stand.contacts.every((c) => c.on === "place") ? [0, 1, 0] : groundNormal(ground, track.positions[middle], track.positions[middle + 2]);
  const q = fromToQuatFlat(new Float64Array(4), 0, mean[0], mean[1], mean[2], flat[0], flat[1], flat[2]);
  return logQuatFlat(new Float64Array(3), 0, q, 0) as Float64Array;
}

/** Turns a joint by world rotation vectors [frame][3]; its place stays. */
function turnEnd(draft: ClipDraft, clip: Clip, joint: number, world: Float32Array, turns: Float64Array, weights: Float64Array): void {
  const [q, local, parent, v] = [new Float64Array(4), new Float64Array(4), new Float64Array(4), new Float64Array(3)];
  for (let f = 0; f < clip.frameCount; f++) {
    for (let i = 0; i < 3; i++) v[i] = turns[f * 3 + i] * weights[f];
    if (Math.hypot(v[0], v[1], v[2]) < NO_TURN) continue;
    // The parent's rotation is the world's with the local one taken off: local' = parent⁻¹ · turn · parent · local.
    readRotation(clip, joint, f, local, 0);
    conjugateQuatFlat(q, 0, local, 0);
    multiplyQuatFlat(parent, 0, world, f * 4, q, 0);
    expQuatFlat(q, 0, v, 0);
    multiplyQuatFlat(q, 0, q, 0, world, f * 4);
    conjugateQuatFlat(parent, 0, parent, 0);
    multiplyQuatFlat(local, 0, parent, 0, q, 0);
    draft.setRotation(joint, f, local);
  }
}
