import type { Character } from "../character/character.ts";
import { handMiddle } from "../character/contactPoints.ts";
import type { Side } from "../character/roles.ts";
import { ClipDraft } from "../clip/clip.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import { rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { writeLimb } from "../plants/solve.ts";
import { runningMean } from "../signal/filters.ts";
import { Alongside, PlacedVolume } from "./placedVolume.ts";
import { type Posed, SomeJoints } from "./someJoints.ts";

/** Within the first a hand meets what is near it, beyond the second it has nothing to do with it: shares of the arm's length, from surface to palm (palm to palm). */
const BODY_MEETS = [0.06, 0.25] as const;
/** On the new body, where it was further off on the other. */
const COMES_NEAR = [0, 0.08] as const;
const HANDS_MEET = [0.25, 0.6] as const;
/** Below this weight a hand is left where it is. */
const NOTHING = 1e-4;
/** Of several parts near a hand the nearest counts most: weights fall with this power of the distance. */
const FALL = 4;
const CLOSE = 0.01;
/** What is further off than so many arms does not count at all. */
const MATTERS = 0.6;

/** So often it is looked at where hands are, times a second. */
const LOOKS_A_SECOND = 60;
/** How a palm is led is evened over twice so many seconds to either side. */
const EVEN_SECONDS = 0.03;

interface Arm {
  readonly side: Side;
  /** the hand's joint on either body, and its palm in the joint's frame, metres */
  readonly from: number;
  readonly to: number;
  readonly fromPalm: readonly number[];
  readonly toPalm: readonly number[];
  readonly limb: Motion["character"]["rig"]["limbs"][number];
}

interface Met {
  /** the same part on either body */
  readonly from: PlacedVolume;
  readonly to: PlacedVolume;
  /** how far its surface is from its axis at most, on either body */
  readonly widest: number;
  readonly widestHere: number;
  /** where each palm is alongside it on the source, in this frame; and whether it is near enough to count */
  readonly palms: readonly { readonly at: Alongside; counts: boolean }[];
}

/**
 * A motion that was cast onto another body with its hands where they meet: palms as far from each other, and from trunk, head and thighs, as on the body that it was made for, in proportion to the
 * arms' reach. How much a hand is led so goes over smoothly with its distance, there and here, so that nothing pops; a hand that meets nothing keeps its bits.
 * `source` is what was cast, frame for frame.
 */
export function handsKept(cast: Motion, source: Motion): Motion {
  const arms = armsOf(cast.character, source.character);
  if (arms.length === 0) return cast;
  const met = metParts(cast.character, source.character);
  const scale = arms[0].limb.length / (source.character.rig.limbs.find((l) => l.end === arms[0].from)?.length ?? arms[0].limb.length);
  const reach = arms[0].limb.length / scale;
  const from = new SomeJoints(source.character.skeleton, source.clip, [...arms.map((arm) => arm.from), ...met.map((part) => part.from.volume.joint)]);
  const ofArms = arms.flatMap(({ to, limb }) => [to, limb.upper, limb.lower, limb.end, hungOn(cast.character, limb)]);
  const own = new SomeJoints(cast.character.skeleton, cast.clip, [...ofArms, ...met.map((part) => part.to.volume.joint)]);
  const [there, here] = [arms, arms].map((list) => list.map(() => new Float64Array(3)));
  const { frameCount, fps } = cast.clip;
  // How far each palm is led, [arm][axis][frame].
  const led = arms.map(() => [0, 1, 2].map(() => new Float64Array(frameCount)));
  let changed = false;
  const step = Math.max(1, Math.floor(fps / LOOKS_A_SECOND));
  for (let f = 0; f < frameCount; f += step) {
    from.load(f);
    arms.forEach((arm, i) => {
      from.point(there[i], arm.from, arm.fromPalm);
    });
    own.load(f);
    for (const part of met) part.to.place(own);
    const palms = arms.map((arm, i) => ({ from: there[i], to: own.point(here[i], arm.to, arm.toPalm) }));
    // What it was further from and would come near to, or into, on the new body keeps its distance as well.
    const near = nearness(there, met, from, reach).map(({ hands, body }, i) => ({ hands, body: Math.max(body, comesNear(palms[i].to, met, reach * scale)) }));
    if (near.every(({ hands, body }) => hands < NOTHING && body < NOTHING)) continue;
    changed = true;
    leadsOf(near, palms, met, reach, scale).forEach((lead, i) => {
      // Between two looks it is led on evenly.
      for (let c = 0; c < 3; c++)
        for (let k = 1 - step; k < step; k++) if (f + k >= 0 && f + k < frameCount) led[i][c][f + k] += (1 - Math.abs(k) / step) * lead[c];
    });
  }
  if (!changed) return cast;
  // Behind the last look it is led on as there.
  const last = frameCount - 1 - ((frameCount - 1) % step);
  for (const axes of led) for (const course of axes) course.fill(course[last], last);
  // A hand that trembles at the edge of what it meets is led evenly.
  const half = Math.max(1, Math.round(EVEN_SECONDS * fps));
  const even = led.map((axes) => axes.map((course) => runningMean(runningMean(course, half), half)));
  const draft = ClipDraft.of(cast.clip);
  const level = new Float64Array(frameCount);
  arms.forEach(({ limb }, i) => {
    const [upper, lower, end] = [limb.upper, limb.lower, limb.end].map((joint) => own.track(joint));
    const positions = Float64Array.from(end.positions, (v, at) => v + even[i][at % 3][Math.floor(at / 3)]);
    const course = { end, hip: upper.positions, knee: lower.positions, upper: upper.rotations, lower: lower.rotations };
    writeLimb(
      cast.character.skeleton,
      draft,
      limb,
      course,
      { positions, rotations: Float64Array.from(end.rotations) },
      level,
      null,
      own.track(hungOn(cast.character, limb)),
    );
  });
  return { ...cast, clip: draft.done() };
}

/** What an arm hangs on with its collar. */
function hungOn({ skeleton }: Character, { collar, upper }: Arm["limb"]): number {
  const above = skeleton.parents[collar >= 0 ? collar : upper];
  return above >= 0 ? above : upper;
}

function armsOf(target: Character, source: Character): Arm[] {
  return (["left", "right"] as const).flatMap((side): Arm[] => {
    const [from, to] = [source.body.roles[`${side}Hand`], target.body.roles[`${side}Hand`]];
    const limb = target.rig.limbs.find((l) => l.kind === "arm" && l.end === to);
    if (from === undefined || to === undefined || !limb || source.body.plan !== "biped" || target.body.plan !== "biped") return [];
    return [{ side, from, to, fromPalm: palmOf(source, side, from), toPalm: palmOf(target, side, to), limb }];
  });
}

/** Middle of the hand by its joints, or half along its volume where they do not say where it ends: the same on a body with a skin and on one without. */
function palmOf(character: Character, side: Side, hand: number): readonly number[] {
  const middle = handMiddle(character.skeleton, character.body, side);
  if (Math.hypot(...middle) > 0) return middle;
  const volume = character.volumes.find((v) => v.joint === hand);
  if (!volume) return [0, 0, 0];
  const way = rotateVecFlat(new Float64Array(3), 0, [...volume.turn], 0, [0, volume.size[1] / 2, 0], 0);
  return [0, 1, 2].map((c) => volume.origin[c] + way[c]);
}

/** Parts that hands touch: trunk, neck, head, thighs, of bodies that both have them. */
function metParts(target: Character, source: Character): Met[] {
  const roles = ["hips", "spine", "spine2", "spine3", "chest", "neck", "head", "leftThigh", "rightThigh"] as const;
  return roles.flatMap((role): Met[] => {
    const [from, to] = [source, target].map((c) => c.volumes.find((v) => v.joint === c.body.roles[role]));
    if (!from || !to) return [];
    return [
      {
        from: new PlacedVolume(from),
        to: new PlacedVolume(to),
        widest: Math.max(from.size[0], from.size[2]),
        widestHere: Math.max(to.size[0], to.size[2]),
        palms: [0, 1].map(() => ({ at: new Alongside(), counts: false })),
      },
    ];
  });
}

/** How much a palm is led by its nearness to the other one, and to the body: 0..1 each. */
interface Nearness {
  readonly hands: number;
  readonly body: number;
}

/** Places the parts of the source where a pose has them, and tells how near the palms are. What counts of the parts is kept in them for this frame. */
function nearness(palms: readonly Float64Array[], met: readonly Met[], pose: Posed, reach: number): Nearness[] {
  for (const part of met) part.from.place(pose);
  return palms.map((palm, i) => {
    const other = palms[1 - i];
    const apart = other ? Math.hypot(palm[0] - other[0], palm[1] - other[1], palm[2] - other[2]) : Number.POSITIVE_INFINITY;
    let nearest = Number.POSITIVE_INFINITY;
    for (const { from, widest, palms: seen } of met) {
      const own = seen[i];
      own.counts = nearAxis(from, palm, MATTERS * reach + widest);
      if (!own.counts) continue;
      const { away, radius } = from.alongside(own.at, palm);
      nearest = Math.min(nearest, Math.max(0, away - radius));
    }
    return { hands: meets(apart, HANDS_MEET, reach), body: meets(nearest, BODY_MEETS, reach) };
  });
}

/** How much a palm is led by its nearness to the new body, whose arm reaches so far: 0..1. */
function comesNear(palm: Float64Array, met: readonly Met[], reach: number): number {
  let nearest = Number.POSITIVE_INFINITY;
  for (const { to, widestHere } of met) {
    if (!nearAxis(to, palm, COMES_NEAR[1] * reach + widestHere)) continue;
    const { away, radius } = to.alongside(beside, palm);
    nearest = Math.min(nearest, Math.max(0, away - radius));
  }
  return meets(nearest, COMES_NEAR, reach);
}

const beside = new Alongside();

/** Is a place so near to a volume's axis? */
function nearAxis({ start, axis, volume }: PlacedVolume, place: ArrayLike<number>, far: number): boolean {
  const [px, py, pz] = [place[0] - start[0], place[1] - start[1], place[2] - start[2]];
  const t = Math.max(0, Math.min(volume.size[1], px * axis[0] + py * axis[1] + pz * axis[2]));
  const [dx, dy, dz] = [px - t * axis[0], py - t * axis[1], pz - t * axis[2]];
  return dx * dx + dy * dy + dz * dz < far * far;
}

/** Where a palm should be for its distance to the body; null where nothing of it counts. The parts of the other body are where its pose has them. */
function besideBody(i: number, met: readonly Met[], reach: number, scale: number): number[] | null {
  let sum = 0;
  const place = [0, 0, 0];
  for (const { to, palms: seen } of met) {
    const { at, counts } = seen[i];
    if (!counts) continue;
    const distance = Math.max(0, at.away - at.radius);
    const weight = 1 / (distance / reach + CLOSE) ** FALL;
    const out = to.radius(at.outward, at.along) + (at.away - at.radius) * scale;
    const far = at.along * to.volume.size[1];
    sum += weight;
    for (let c = 0; c < 3; c++) place[c] += weight * (to.start[c] + far * to.axis[c] + at.outward[c] * out);
  }
  return sum > 0 ? place.map((v) => v / sum) : null;
}

/**
 * How far palms are led, [arm][3] metres: each to where it is beside the body, so far as it is near that; then the two to each other, so far as they are near, and the one that the body holds less goes further. What
 * two hands hold between them, or clap, is between them whatever else they are near.
 */
function leadsOf(
  near: readonly Nearness[],
  palms: readonly { readonly from: ArrayLike<number>; readonly to: ArrayLike<number> }[],
  met: readonly Met[],
  reach: number,
  scale: number,
): number[][] {
  const leads = palms.map(({ to }, i) => {
    const place = near[i].body >= NOTHING ? besideBody(i, met, reach, scale) : null;
    return place ? place.map((v, c) => near[i].body * (v - to[c])) : [0, 0, 0];
  });
  const together = near[0].hands;
  if (palms.length < 2 || together < NOTHING) return leads;
  const free = near.map(({ body }) => 1 - body + CLOSE);
  const lack = [0, 1, 2].map((c) => (palms[0].from[c] - palms[1].from[c]) * scale - (palms[0].to[c] + leads[0][c] - palms[1].to[c] - leads[1][c]));
  return leads.map((lead, i) => lead.map((v, c) => v + ((i === 0 ? 1 : -1) * together * lack[c] * free[i]) / (free[0] + free[1])));
}

/** 1 within the nearer bound, 0 beyond the farther, smooth in between (both shares of the reach). */
function meets(distance: number, [near, far]: readonly [number, number], reach: number): number {
  const u = Math.max(0, Math.min(1, (far * reach - distance) / ((far - near) * reach)));
  return u * u * u * (u * (6 * u - 15) + 10);
}

/** A hand over a part of its own body: how far its palm is from that part's surface, metres, below zero inside it. */
export interface PalmOver {
  readonly side: Side;
  /** the part's joint on either body */
  readonly from: number;
  readonly to: number;
  readonly was: number;
  readonly is: number;
}

/**
 * For each arm that both bodies have the part of the body that its palm is nearest to on the source (in the pose that it holds there), and how far it is from that part's surface here and there.
 */
export function palmsOver(target: Character, source: Character): (from: PoseFrame, to: PoseFrame) => PalmOver[] {
  const arms = armsOf(target, source);
  const met = metParts(target, source);
  const [there, here] = [new Float64Array(3), new Float64Array(3)];
  const [seen, least] = [new Alongside(), new Alongside()];
  return (from, to) => {
    for (const part of met) part.from.place(from);
    return arms.flatMap((arm): PalmOver[] => {
      from.point(there, arm.from, arm.fromPalm);
      to.point(here, arm.to, arm.toPalm);
      let [nearest, was]: [Met | null, number] = [null, Number.POSITIVE_INFINITY];
      for (const part of met) {
        const { away, radius } = part.from.alongside(seen, there);
        if (away - radius < was) [nearest, was] = [part, away - radius];
      }
      if (!nearest) return [];
      const { away, radius } = nearest.to.place(to).alongside(least, here);
      return [{ side: arm.side, from: nearest.from.volume.joint, to: nearest.to.volume.joint, was, is: away - radius }];
    });
  };
}
