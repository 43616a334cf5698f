import type { Character } from "../character/character.ts";
import type { Side } from "../character/roles.ts";
import type { Volume } from "../character/volumes.ts";
import { ClipDraft } from "../clip/clip.ts";
import { reachLimb } from "../kinematics/limbReach.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { runningMean } from "../signal/filters.ts";

/** Within the first a hand meets what is near it, beyond the second it has nothing to do with it: shares of the arm's length, from surface to palm (palm to palm). */
const BODY_MEETS = [0.03, 0.16] as const;
const HANDS_MEET = [0.16, 0.45] as const;
/** Below this weight a hand is left where it is. */
const NOTHING = 1e-4;
/** Of several parts near a hand the nearest counts most: weights fall with this power of the distance. */
const FALL = 4;
const CLOSE = 0.01;
/** What is further off than so many arms does not count at all. */
const MATTERS = 1.2;

/** How a palm is led is evened over twice so many seconds to either side, and ways shorter than this are none, metres. */
const EVEN_SECONDS = 0.03;
const NOWHERE = 1e-6;

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
  readonly from: Volume;
  readonly to: Volume;
  /** ends of its axis on the source in its joint's frame, and how far its surface is from that at most */
  readonly start: readonly number[];
  readonly end: readonly number[];
  readonly widest: number;
}

/**
 * A motion that was cast onto another body with its hands where they meet: palms as far from each other, and from trunk, head and thighs, as on the body that it was made for, in proportion to the
 * arms' reach. How much a hand is led so goes over smoothly with its distance there, so that nothing pops; a hand that meets nothing keeps its bits.
 * `source` is what was cast, frame for frame.
 */
export function handsKept(cast: Motion, source: Motion): Motion {
  const arms = armsOf(cast.character, source.character);
  if (arms.length === 0) return cast;
  const met = metParts(cast.character, source.character);
  const scale = arms[0].limb.length / (source.character.rig.limbs.find((l) => l.end === arms[0].from)?.length ?? arms[0].limb.length);
  const reach = arms[0].limb.length / scale;
  const from = new PoseFrame(source.character.skeleton, source.clip);
  const to = new PoseFrame(cast.character.skeleton, cast.clip);
  const there = arms.map(() => new Float64Array(3));
  const { frameCount, fps } = cast.clip;
  // How far each palm is led, [arm][axis][frame].
  const led = arms.map(() => [0, 1, 2].map(() => new Float64Array(frameCount)));
  let changed = false;
  for (let f = 0; f < frameCount; f++) {
    from.load(source.clip, f);
    arms.forEach((arm, i) => {
      from.point(there[i], arm.from, arm.fromPalm);
    });
    // Most hands are near nothing most of the time.
    const near = arms.map((_, i) => nearness(i, there, met, from, reach));
    if (near.every(({ hands, body }) => hands < NOTHING && body < NOTHING)) continue;
    to.load(cast.clip, f);
    to.update();
    const palms = arms.map((arm, i) => ({ from: [...there[i]], to: [...to.point(new Float64Array(3), arm.to, arm.toPalm)] }));
    arms.forEach((_, i) => {
      const goal = goalOf(i, near[i], palms, met, from, to, reach, scale);
      if (!goal) return;
      for (let c = 0; c < 3; c++) led[i][c][f] = goal.weight * (goal.place[c] - palms[i].to[c]);
      changed = true;
    });
  }
  if (!changed) return cast;
  // A hand that trembles at the edge of what it meets is led evenly.
  const half = Math.max(1, Math.round(EVEN_SECONDS * fps));
  const even = led.map((axes) => axes.map((course) => runningMean(runningMean(course, half), half)));
  const draft = ClipDraft.of(cast.clip);
  for (let f = 0; f < frameCount; f++) {
    const ways = even.map((axes) => axes.map((course) => course[f]));
    if (ways.every((way) => Math.hypot(...way) < NOWHERE)) continue;
    to.load(cast.clip, f);
    to.update();
    arms.forEach((arm, i) => {
      if (Math.hypot(...ways[i]) < NOWHERE) return;
      const own = to.point(new Float64Array(3), arm.to, arm.toPalm);
      const position = ways[i].map((v, c) => own[c] + v);
      reachLimb(to, arm.limb, { joint: arm.to, local: arm.toPalm, position, orientation: null, rank: "want", extent: 0 });
    });
    to.update();
    to.storeAll(draft, f);
  }
  return { ...cast, clip: draft.done() };
}

function armsOf(target: Character, source: Character): Arm[] {
  return (["left", "right"] as const).flatMap((side): Arm[] => {
    const [from, to] = [source.body.roles[`${side}Hand`], target.body.roles[`${side}Hand`]];
    const limb = target.rig.limbs.find((l) => l.kind === "arm" && l.end === to);
    if (from === undefined || to === undefined || !limb || source.body.plan !== "biped" || target.body.plan !== "biped") return [];
    return [{ side, from, to, fromPalm: palmOf(source, side, from), toPalm: palmOf(target, side, to), limb }];
  });
}

/** Middle of the hand: where its contact point lies, or half along its volume where nothing says where it ends. */
function palmOf(character: Character, side: Side, hand: number): readonly number[] {
  const point = character.contactPoints.find((p) => p.id === `${side}Hand` && p.joint === hand);
  if (point && Math.hypot(...point.local) > 0) return point.local;
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
    const way = rotateVecFlat(new Float64Array(3), 0, [...from.turn], 0, [0, from.size[1], 0], 0);
    const end = [0, 1, 2].map((c) => from.origin[c] + way[c]);
    return [{ from, to, start: from.origin, end, widest: Math.max(from.size[0], from.size[2]) }];
  });
}

/** How much a palm is led by its nearness to the other one, and to the body: 0..1 each. */
interface Nearness {
  readonly hands: number;
  readonly body: number;
}

function nearness(i: number, palms: readonly Float64Array[], met: readonly Met[], pose: PoseFrame, reach: number): Nearness {
  const palm = palms[i];
  const other = palms[1 - i];
  const apart = other ? Math.hypot(palm[0] - other[0], palm[1] - other[1], palm[2] - other[2]) : Number.POSITIVE_INFINITY;
  let nearest = Number.POSITIVE_INFINITY;
  for (const part of met) {
    if (!withinReach(part, pose, palm, BODY_MEETS[1] * reach)) continue;
    const { away, radius } = alongside(part.from, pose, [...palm]);
    nearest = Math.min(nearest, Math.max(0, away - radius));
  }
  return { hands: meets(apart, HANDS_MEET, reach), body: meets(nearest, BODY_MEETS, reach) };
}

const _a = /*@__PURE__*/ new Float64Array(3);
const _b = /*@__PURE__*/ new Float64Array(3);

/** Can a part's surface be so near to a place? Told by the capsule around it. */
function withinReach({ start, end, widest, from: { joint } }: Met, pose: PoseFrame, place: ArrayLike<number>, near: number): boolean {
  pose.point(_a, joint, start);
  pose.point(_b, joint, end);
  const [ux, uy, uz] = [_b[0] - _a[0], _b[1] - _a[1], _b[2] - _a[2]];
  const [px, py, pz] = [place[0] - _a[0], place[1] - _a[1], place[2] - _a[2]];
  const length2 = ux * ux + uy * uy + uz * uz;
  const t = length2 > 0 ? Math.max(0, Math.min(1, (px * ux + py * uy + pz * uz) / length2)) : 0;
  const [dx, dy, dz] = [px - t * ux, py - t * uy, pz - t * uz];
  const far = near + widest;
  return dx * dx + dy * dy + dz * dz < far * far;
}

interface Wanted {
  readonly weight: number;
  readonly place: number[];
}

function goalOf(
  i: number,
  near: Nearness,
  palms: readonly { readonly from: readonly number[]; readonly to: readonly number[] }[],
  met: readonly Met[],
  from: PoseFrame,
  to: PoseFrame,
  reach: number,
  scale: number,
): Wanted | null {
  const own = palms[i];
  const wanted: Wanted[] = [];
  const other = palms[1 - i];
  if (other) {
    const apart = own.from.map((v, c) => v - other.from[c]);
    // Each goes half of the way.
    if (near.hands >= NOTHING) wanted.push({ weight: near.hands, place: own.to.map((v, c) => (v + other.to[c]) / 2 + (apart[c] * scale) / 2) });
  }
  let [sum, place] = [0, [0, 0, 0]];
  for (const part of near.body >= NOTHING ? met : []) {
    if (!withinReach(part, from, own.from, MATTERS * reach)) continue;
    const a = alongside(part.from, from, own.from);
    const b = placed(part.to, to);
    const start = b.point(Math.max(0, Math.min(1, a.along)) * part.to.size[1]);
    const distance = Math.max(0, a.away - a.radius);
    const weight = 1 / (distance / reach + CLOSE) ** FALL;
    const out = b.radius(a.outward) + (a.away - a.radius) * scale;
    sum += weight;
    place = place.map((v, c) => v + weight * (start[c] + a.outward[c] * out));
  }
  if (sum > 0) wanted.push({ weight: near.body, place: place.map((v) => v / sum) });
  if (wanted.length === 0) return null;
  const total = wanted.reduce((w, { weight }) => w + weight, 0);
  return {
    weight: Math.max(...wanted.map((w) => w.weight)),
    place: [0, 1, 2].map((c) => wanted.reduce((s, w) => s + (w.weight * w.place[c]) / total, 0)),
  };
}

/** 1 within the nearer bound, 0 beyond the farther, smooth in between (both shares of the reach). */
function meets(distance: number, [near, far]: readonly [number, number], reach: number): number {
  const u = Math.max(0, Math.min(1, (far * reach - distance) / ((far - near) * reach)));
  return u * u * u * (u * (6 * u - 15) + 10);
}

/** A volume where its joint has it: points of its axis in the world, and how far its surface is from the axis in a direction of the world. */
function placed(
  { joint, origin, turn, size }: Volume,
  pose: PoseFrame,
): { point: (along: number) => number[]; radius: (direction: readonly number[]) => number } {
  const q = multiplyQuatFlat(new Float64Array(4), 0, pose.worldRotations, joint * 4, [...turn], 0) as Float64Array;
  const start = pose.point(new Float64Array(3), joint, origin);
  const axis = rotateVecFlat(new Float64Array(3), 0, q, 0, [0, 1, 0], 0) as Float64Array;
  const back = conjugateQuatFlat(new Float64Array(4), 0, q, 0) as Float64Array;
  const own = new Float64Array(3);
  return {
    point: (along) => [0, 1, 2].map((c) => start[c] + along * axis[c]),
    radius(direction) {
      rotateVecFlat(own, 0, back, 0, direction, 0);
      const [x, y, z] = [own[0] / size[0], (own[1] * 2) / (size[0] + size[2]), own[2] / size[2]];
      return 1 / Math.max(1e-9, Math.hypot(x, y, z));
    },
  };
}

/** Where a place in the world is as a volume has it: its share along the axis, how far it is from there and which way, and how far the surface is that way. */
function alongside(volume: Volume, pose: PoseFrame, place: readonly number[]): { along: number; away: number; outward: number[]; radius: number } {
  const here = placed(volume, pose);
  const [a, b] = [here.point(0), here.point(volume.size[1])];
  const way = b.map((v, c) => v - a[c]);
  const length2 = way.reduce((s, v) => s + v * v, 0);
  const along = length2 > 0 ? Math.max(0, Math.min(1, way.reduce((s, v, c) => s + v * (place[c] - a[c]), 0) / length2)) : 0;
  const from = a.map((v, c) => v + along * way[c]);
  const apart = place.map((v, c) => v - from[c]);
  const away = Math.hypot(...apart);
  const outward = apart.map((v) => v / Math.max(1e-9, away));
  return { along, away, outward, radius: here.radius(outward) };
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
  return (from, to) =>
    arms.flatMap((arm): PalmOver[] => {
      const there = [...from.point(new Float64Array(3), arm.from, arm.fromPalm)];
      const here = [...to.point(new Float64Array(3), arm.to, arm.toPalm)];
      const [nearest] = met
        .map((part) => ({ part, ...alongside(part.from, from, there) }))
        .map(({ part, away, radius }) => ({ part, was: away - radius }))
        .sort((a, b) => a.was - b.was);
      if (!nearest) return [];
      const { away, radius } = alongside(nearest.part.to, to, here);
      return [{ side: arm.side, from: nearest.part.from.joint, to: nearest.part.to.joint, was: nearest.was, is: away - radius }];
    });
}
