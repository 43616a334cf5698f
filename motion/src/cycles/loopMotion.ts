import { moveBody, movePlace } from "../clip/roots.ts";
import { splinedClip } from "../clip/spline.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { otherPoint } from "../mirror/mirrorMotion.ts";
import { mirrorPairs } from "../mirror/pairs.ts";
import type { Motion } from "../motion.ts";
import { placeAnchors } from "../plants/anchors.ts";
import { limbEnds } from "../plants/plants.ts";
import type { PlantSettings } from "../plants/settings.ts";
import { solvePlants } from "../plants/solve.ts";
import { joinedContacts, throughWarp, warpedContacts } from "../time/through.ts";
import { frameOf, type TimeWarp, type WarpPiece } from "../time/warp.ts";
import { movePower, rigidOf } from "../travel/level.ts";
import { type Cycle, closedCycle } from "./repeat.ts";

/** How a stretch is repeated. */
export interface LoopPlan {
  readonly repeats: number;
  /** carry: travel goes on; spot: the ground does it; return: each repeat starts anew */
  readonly travel: "carry" | "spot" | "return";
  readonly half: "first" | "second" | null;
  /** seconds over which the difference is spread; null: the whole cycle */
  readonly closeOver: number | null;
}

/** A stretch of a motion, seconds. */
export interface LoopStretch {
  readonly from: number;
  readonly to: number;
}

/** A motion of a stretch over and over, closed, its travel carried on. */
export function repeatedMotion(motion: Motion, stretch: LoopStretch, repeats: number, pause: () => void): Motion {
  const plan: LoopPlan = { repeats, travel: "carry", half: null, closeOver: null };
  return looped(throughWarp(motion, loopWarp(plan, stretch.from, stretch.to)), motion, plan, stretch, pause);
}

/** The stretch over and over; where one half is authored, that half twice. */
export function loopWarp({ repeats, half }: Pick<LoopPlan, "repeats" | "half">, from: number, to: number): TimeWarp {
  const length = to - from;
  const pieces: WarpPiece[] = [];
  for (let n = 0; n < repeats; n++) {
    const out = n * length;
    if (half === null) pieces.push({ outStart: out, outEnd: out + length, inStart: from, inEnd: to });
    else {
      const [inStart, inEnd] = half === "first" ? [from, from + length / 2] : [from + length / 2, to];
      pieces.push({ outStart: out, outEnd: out + length / 2, inStart, inEnd }, { outStart: out + length / 2, outEnd: out + length, inStart, inEnd });
    }
  }
  return { seconds: repeats * length, pieces };
}

/** How many repeats are planted at once, and which of them is taken: the one that has a neighbour on either side. */
const PLANTED = 3;

/** What is made of a stretch of `received`; `motion` is the same with its time already gone through the loop's map. */
export function looped(motion: Motion, received: Motion, settings: LoopPlan, { from, to }: LoopStretch, pause: () => void): Motion {
  const { character, clip: source } = received;
  const { fps } = source;
  const plan = { from: frameOf(from, fps), to: frameOf(to, fps), half: settings.half, over: settings.closeOver === null ? null : settings.closeOver * fps };
  const raw = closedCycle(character, source, plan);
  pause();
  const cycle = withStandingFeet(received, settings, raw, { from, to }, pause);
  const frames = Float64Array.from({ length: motion.clip.frameCount }, (_, f) => f);
  let clip = cycle.at(frames);
  const contacts = loopContacts(received, settings, cycle, { from, to }, settings.repeats, motion.clip.frameCount);
  let { groundTravel } = motion;
  if (settings.travel === "return")
    clip = moveBody(character.skeleton, clip, (f) => rigidOf(movePower(cycle.move, -Math.max(0, Math.ceil(f / cycle.length - 1e-9) - 1))));
  const on = settings.travel === "spot" ? -1 : 0;
  // A ground that does all of it does what it did before, too.
  const own = on === 0 ? received.groundTravel : null;
  if (own || on !== 0) {
    const at = (list: Float64Array, f: number) => list[Math.floor(f)] + (f % 1) * ((list[Math.ceil(f)] ?? 0) - list[Math.floor(f)]);
    const [x, z] = [new Float64Array(frames.length), new Float64Array(frames.length)];
    const begin = hipsOf(received, plan.from);
    frames.forEach((f) => {
      const n = Math.max(0, Math.ceil(f / cycle.length - 1e-9) - 1);
      const within = Math.min(plan.to, plan.from + f - n * cycle.length);
      const gone = settings.travel === "return" ? 0 : n;
      const going = rigidOf(movePower(cycle.move, f / cycle.length));
      const there = movePlace([begin[0], 0, begin[1]], going);
      const before = (list: Float64Array) => gone * (at(list, plan.to) - at(list, plan.from)) + at(list, within) - at(list, plan.from);
      x[f] = on * (there[0] - begin[0]) + (own ? before(own.x) : 0);
      z[f] = on * (there[2] - begin[1]) + (own ? before(own.z) : 0);
    });
    groundTravel = { x, z };
  }
  return { ...motion, clip, contacts, groundTravel, settled: motion.plants.length > 0 ? clip : null };
}

/** Level place of the hips on a (fractional) frame. */
function hipsOf({ character, clip }: Motion, frame: number): [number, number] {
  const root = clip.positionJoints.indexOf(character.rig.mover);
  const [at] = splinedClip(clip, Float64Array.of(frame)).positions[Math.max(0, root)];
  return [at[0], at[2]];
}

/**
 * The cycle of a planted motion with what stands held. Three repeats are planted, and the middle one, which has the same beside it on either side, is closed once
 * more; of one that is not planted feet slide as they did.
 */
function withStandingFeet(received: Motion, settings: LoopPlan, cycle: Cycle, stretch: LoopStretch, pause: () => void): Cycle {
  const strongest = received.plants.at(-1)?.settings;
  if (!strongest) return cycle;
  const count = Math.floor(PLANTED * cycle.length + 1e-6) + 1;
  const clip = cycle.at(Float64Array.from({ length: count }, (_, f) => f));
  const contacts = loopContacts(received, { ...settings, travel: "carry" }, cycle, stretch, PLANTED, count);
  if (contacts.length === 0) return cycle;
  const weights = new Float64Array(count).fill(1);
  const held = solvePlants(
    {
      ...received,
      clip,
      contacts: placed({ ...received, clip }, contacts, strongest),
      plants: [{ settings: strongest, weights, trembles: Math.max(0, ...received.plants.map((p) => p.trembles)) }],
      settled: null,
      groundTravel: null,
    },
    null,
    pause,
  );
  const again = closedCycle(received.character, held, { from: cycle.length, to: 2 * cycle.length, half: null, over: null, move: cycle.move });
  const back = rigidOf(movePower(cycle.move, -1));
  return {
    ...cycle,
    at: (frames) => moveBody(received.character.skeleton, again.at(frames), () => back),
  };
}

/** Those that are told anew where they rest, in the motion as it is repeated; the others stay where they are. */
function placed({ character, points, clip, ground }: Motion, contacts: readonly Contact[], settings: PlantSettings): Contact[] {
  const known = contacts.map((c): Contact => (c.anchor.point ? { ...c, anchor: { ...c.anchor, mode: "set" } } : c));
  return placeAnchors(known, new PointTracks(character.skeleton, clip, points), limbEnds(character, points), ground, settings);
}

/** Contacts of every repeat: sides changed over in a half that is mirrored, places of their own travelled along, what goes on across a seam as one. */
function loopContacts(
  received: Motion,
  settings: LoopPlan,
  { move, length }: Cycle,
  { from, to }: LoopStretch,
  repeats: number,
  frameCount: number,
): Contact[] {
  const { fps } = received.clip;
  const { partner } = mirrorPairs(received.character);
  const { pieces } = loopWarp({ ...settings, repeats }, from, to);
  const seconds = (repeats * length) / fps;
  const contacts = pieces.flatMap((piece, i) => {
    const odd = settings.half !== null && i % 2 === 1;
    const n = settings.half === null ? i : Math.floor(i / 2);
    const travelled = settings.travel === "return" ? null : rigidOf(movePower(move, n));
    return warpedContacts(received.contacts, { seconds, pieces: [piece] }, fps, frameCount).map((contact): Contact => {
      const point = odd ? otherPoint(contact.point) : contact.point;
      const on = odd && typeof contact.on === "object" ? { joint: partner[contact.on.joint] } : contact.on;
      // Places go along with the repeat; in a mirrored half it is told anew where it rests.
      const { anchor } = contact;
      const moved = anchor.point && typeof on !== "object" ? movePlace(anchor.point, travelled) : anchor.point;
      return {
        ...contact,
        point,
        joint: odd ? partner[contact.joint] : contact.joint,
        on,
        anchor: odd ? { mode: anchor.mode === "set" ? "settle" : anchor.mode, point: null } : { ...anchor, point: moved },
      };
    });
  });
  const all = settings.travel === "return" ? contacts : joinedContacts(contacts);
  // What a seam cuts down to next to nothing rests on nothing.
  const seams = new Set(pieces.flatMap((p) => [Math.round(p.outStart * fps), Math.round(p.outEnd * fps)]));
  return all.filter((c) => c.end - c.start >= SLIVER * fps || !(seams.has(c.start) || seams.has(c.end)));
}

/** A contact that a seam leaves shorter than this is dropped, seconds. */
const SLIVER = 0.07;
