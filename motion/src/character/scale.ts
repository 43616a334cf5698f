import type { Clip } from "../clip/clip.ts";
import { jointTracks } from "../contacts/tracks.ts";
import { axisOf } from "../signal/filters.ts";
import { median, quantile } from "../signal/robust.ts";
import { boneLength, pathLength, type Skeleton } from "../skeleton/skeleton.ts";
import { type BodyMap, mapBody } from "./bodyMap.ts";
import { meanDirection, type StanceSamples, sampleStances } from "./stance.ts";

const PEOPLE_ONLY = 0.0254 / 0.45;
/** Units that motion files come in: metres per unit, and how unusual each is (cost in log-size). The last is the scale of an old public capture database. */
const UNITS: readonly (readonly [number, number])[] = [
  [1, 0],
  [0.01, 0],
  [0.001, 0.1],
  [0.0254, 0.2],
  [0.3048, 0.35],
  [0.1, 0.4],
  [PEOPLE_ONLY, 0.25],
];

/** Expected height of a standing leg (hip joint to sole), and of a head's joint over the hips, metres: of 1.7 m (Drillis & Contini 1966, as tabled by Winter; memory). */
const TYPICAL_LEG = 0.53 * 1.7;
const TYPICAL_TRUNK = 0.36 * 1.7;
/** People of the old database are grown up: no further from the usual than this (logarithm). */
const GROWN = 0.25;

/** Legs within about 30° of an axis stand along it; a share of the frames that is more than chance. */
const STANDS = 0.87;
const EVER = 0.1;

/** Metres per unit and the vertical axis, guessed from the length of the legs and which way they stand in the clip. */
export function guessScaleAndUp(skeleton: Skeleton, clip: Clip): { unitScale: number; upAxis: "y" | "z" } {
  const { roles } = mapBody(skeleton, clip);
  const samples = sampleStances(skeleton, clip);
  let upAxis: "y" | "z";
  const stand = [0, 0, 0];
  const rest = [0, 0, 0];
  const standing: number[][] = [];
  for (const side of ["left", "right"] as const) {
    const thigh = roles[`${side}Thigh`];
    const shin = roles[`${side}Shin`];
    const foot = roles[`${side}Foot`];
    if (thigh === undefined || shin === undefined || foot === undefined) continue;
    const toFoot = meanDirection(samples, foot, thigh);
    toFoot.forEach((v, i) => {
      stand[i] += v;
    });
    for (let f = 0; f < samples.count; f++) {
      const at = (j: number) => (f * samples.pointCount + j) * 3;
      standing.push([0, 1, 2].map((i) => samples.positions[at(thigh) + i] - samples.positions[at(foot) + i]));
    }
    for (let j = foot; j >= 0 && j !== thigh; j = skeleton.parents[j]) for (let i = 0; i < 3; i++) rest[i] += skeleton.offsets[j * 3 + i];
  }
  // The pose at rest has the say if the body ever stands along it: someone who falls lies for most of a clip.
  const restAxis = Math.abs(rest[2]) > Math.abs(rest[1]) ? 2 : 1;
  const stood = standing.filter((v) => Math.abs(v[restAxis]) > STANDS * Math.hypot(...v)).length;
  const built = Math.abs(rest[restAxis]) > STANDS * Math.hypot(...rest);
  const axis = Math.abs(stand[2]) > Math.abs(stand[1]) ? 2 : 1;
  if (built && (stood >= EVER * standing.length || (axis !== restAxis && liesOrSwims(samples, roles.hips ?? 0, Math.hypot(...rest), restAxis, axis))))
    upAxis = restAxis === 2 ? "z" : "y";
  else upAxis = axis === 2 ? "z" : "y";
  // Only now that it is known which way is up can it be told how many legs it stands on.
  const body = mapBody(skeleton, clip, {}, upAxis === "z" ? 2 : 1);
  const leg = legLength(skeleton, body) ?? skeletonSize(skeleton) * 0.5;
  const four = body.plan === "quadruped";
  const stride = four ? strideOf(skeleton, clip, body, leg, upAxis === "z" ? 2 : 1) : undefined;
  const trunk = trunkLength(skeleton, body);
  const [tall, typical] = trunk === undefined ? [leg, TYPICAL_LEG] : [leg + trunk, TYPICAL_LEG + TYPICAL_TRUNK];
  let unitScale = 1;
  let lowest = Number.POSITIVE_INFINITY;
  for (const [scale, unusual] of UNITS) {
    const size = Math.log((leg * scale) / (four ? TYPICAL_HIND_LEG : TYPICAL_LEG));
    const pace = stride === undefined ? 0 : Math.log(stride.seconds / (stride.pendulum * Math.sqrt(leg * scale)));
    // The old database holds people only.
    const animal = scale === PEOPLE_ONLY ? Number.POSITIVE_INFINITY : ((size / SIZES) ** 2 + (pace / PACES) ** 2) / 2 + UNUSUAL_FOR_ANIMALS * unusual;
    // Children, and figures with short legs, are commoner than giants: the trunk has its say.
    const person = Math.log((tall * scale) / typical);
    const people = scale === PEOPLE_ONLY && Math.abs(person) > GROWN ? Number.POSITIVE_INFINITY : Math.abs(person) + unusual;
    const cost = four ? animal : people;
    if (cost < lowest) {
      lowest = cost;
      unitScale = scale;
    }
  }
  return { unitScale, upAxis };
}

/** How far over zero the lowest joint of a body lies that rests on the ground, and further along an axis than any body stands up: shares of its legs. */
const LIES_AT = [-0.06, 0.35] as const;
const STANDS_AT = [-0.15, 0.25] as const;
const RISES = 1.2;
/** Share of the frames: a spike may throw a leg through the ground. */
const MOSTLY = 0.9;

/**
 * Is a body that is built along one axis, and stretched out along another all through, one that lies or swims rather than one that stands in a world where the other is up? It lies
 * where all of it is just over zero along the one that it was built along, be it on its hands and toes. Else it stands where its lowest joints are at zero along the other; unless
 * it goes along that by more than its own legs.
 */
function liesOrSwims({ positions, count, pointCount }: StanceSamples, hips: number, leg: number, built: 1 | 2, other: 1 | 2): boolean {
  const lowest = (axis: number) =>
    Float64Array.from({ length: count }, (_, f) => {
      let low = Number.POSITIVE_INFINITY;
      for (let p = 0; p < pointCount; p++) low = Math.min(low, positions[(f * pointCount + p) * 3 + axis]);
      return low / leg;
    });
  const within = (value: number, [least, most]: readonly [number, number]) => value >= least && value <= most;
  if (lowest(built).filter((v) => within(v, LIES_AT)).length >= MOSTLY * count) return true;
  if (within(median(lowest(other)), STANDS_AT)) return false;
  const heights = Array.from({ length: count }, (_, f) => positions[(f * pointCount + hips) * 3 + other] / leg);
  return Math.max(...heights) - Math.min(...heights) > RISES;
}

/** Mean length of the legs from hip to sole, in the skeleton's units; undefined for a body without. */
function legLength(skeleton: Skeleton, { roles }: BodyMap): number | undefined {
  const lengths = (["left", "right"] as const).flatMap((side) => {
    const [thigh, foot] = [roles[`${side}Thigh`], roles[`${side}Foot`]];
    // Hip to ankle, and the ankle's height on top.
    return thigh === undefined || foot === undefined ? [] : [(pathLength(skeleton, foot, thigh) / (0.245 + 0.246)) * 0.53];
  });
  return lengths.length === 0 ? undefined : lengths.reduce((a, b) => a + b, 0) / lengths.length;
}

/** Way from hips to head along its bones, in the skeleton's units; undefined for a body without. */
function trunkLength(skeleton: Skeleton, { roles }: BodyMap): number | undefined {
  return roles.head === undefined || roles.hips === undefined ? undefined : pathLength(skeleton, roles.head, roles.hips);
}

/** Animals come in many sizes, and stride at more or less than the usual pace of theirs: 1 σ of the logarithms of both. How usual a unit is says more. */
const TYPICAL_HIND_LEG = 0.65;
const SIZES = 0.6;
const PACES = 0.2;
const UNUSUAL_FOR_ANIMALS = 5;
/**
 * A leg swings like a pendulum: a stride takes about so many seconds times the root of the leg's length along its bones in metres. Dogs and horses walk with 0.85 s at
 * 0.5 m of height and 1.2 s at 1.3 m, and trot with 0.45 s and 0.72 s (usual figures; memory); slow ones are commoner than quick ones.
 */
const WALKING = 1.4;
const TROTTING = 0.7;
/** … and canters and gallops, in which the hind feet swing nearly together, with 0.35 s and 0.6 s, animated ones more slowly (usual figures; memory). */
const LEAPING = 0.65;
/** Correlation of feet that swing by turns, at most, and from which on they swing together: a canter's are 0.28 of a stride apart, cos 2π·0.28 = −0.19. */
const BY_TURNS = -0.8;
const LEAPS = -0.3;
/** Passes of a foot under its hip that make a stride believable, and how far it must go beyond the middle of its way, as a share of it. */
const LEAST_PASSES = 3;
const BEYOND = 0.25;
/** A body that ends so many of its legs' lengths from where it began goes; a foot is low in this share of the frames. */
const GOES = 0.5;
const LOW = 0.3;
/** A body whose feet swing less far than this share of its legs stands, and shifts its weight. */
const LEAST_SWING = 0.25;

/** How long a stride takes, and the seconds that it would take at one metre of leg. */
interface Stride {
  readonly seconds: number;
  readonly pendulum: number;
}

/**
 * The stride of a body on four legs, by how often each hind foot passes under its hip along the body's own way ahead, and its gait: hind feet that swing together leap; else the fore feet
 * go with them by a quarter of a stride later in a walk, at the same time or just against each other in a trot or an amble. One that goes backwards walks, however its feet go
 * together. Undefined where feet do not pass, or the body's parts are not known.
 */
function strideOf(skeleton: Skeleton, clip: Clip, { roles }: BodyMap, leg: number, up: 1 | 2): Stride | undefined {
  const joints = (["Thigh", "Foot", "UpperArm", "Hand"] as const).flatMap((part) => [roles[`left${part}`], roles[`right${part}`]]);
  if (joints.some((joint) => joint === undefined)) return undefined;
  const tracks = jointTracks(skeleton, clip, joints as number[]).map(({ positions }) => positions);
  const [leftHip, rightHip, left, right, leftShoulder, rightShoulder, leftFore, rightFore] = tracks;
  const level = up === 2 ? [0, 1] : [0, 2];
  // The level way that the body looks, [frame][2].
  const looks = new Float64Array(clip.frameCount * 2);
  for (let f = 0; f < clip.frameCount; f++) {
    const [x, y] = level.map((i) => leftShoulder[f * 3 + i] + rightShoulder[f * 3 + i] - leftHip[f * 3 + i] - rightHip[f * 3 + i]);
    const long = Math.hypot(x, y) || 1;
    looks[f * 2] = x / long;
    looks[f * 2 + 1] = y / long;
  }
  /** How far a joint is ahead of another, from the middle of its way. */
  const swing = (joint: Float64Array, from: Float64Array) => {
    const [first, second] = level;
    const values = new Float64Array(clip.frameCount);
    for (let f = 0, o = 0; f < clip.frameCount; f++, o += 3)
      values[f] = looks[f * 2] * (joint[o + first] - from[o + first]) + looks[f * 2 + 1] * (joint[o + second] - from[o + second]);
    const [least, most] = [quantile(values, 0.05), quantile(values, 0.95)];
    return { values: values.map((v) => v - (least + most) / 2), spread: most - least };
  };
  const hind = [swing(left, leftHip), swing(right, rightHip)];
  if (hind.some(({ spread }) => spread < LEAST_SWING * leg)) return undefined;
  let [passes, seconds] = [0, 0];
  for (const { values, spread } of hind) {
    const at: number[] = [];
    let side = 0;
    values.forEach((_, f) => {
      // A spike of one frame is no pass.
      const v = median(values.subarray(Math.max(0, f - 1), f + 2));
      const now = v > BEYOND * spread ? 1 : v < -BEYOND * spread ? -1 : side;
      if (now !== side && side !== 0) at.push(f);
      side = now;
    });
    if (at.length < LEAST_PASSES) continue;
    // The same way twice is a stride: a foot stands for longer than it swings, or less long.
    const whole = at.length - 1 - ((at.length - 1) % 2);
    passes += whole;
    seconds += (at[whole] - at[0]) / clip.fps;
  }
  if (passes === 0) return undefined;
  const stride = (2 * seconds) / passes;
  const alike = correlation(hind[0].values, hind[1].values);
  const leaps = Math.min(1, Math.max(0, (alike - BY_TURNS) / (LEAPS - BY_TURNS)));
  const last = (clip.frameCount - 1) * 3;
  const ahead = level.reduce((sum, i, k) => sum + (leftHip[last + i] - leftHip[i]) * looks[k], 0);
  const past = (a: Float64Array, b: Float64Array) => a.map((v, f) => v - b[f]);
  const fore = past(swing(leftFore, leftShoulder).values, swing(rightFore, rightShoulder).values);
  // On the spot low feet say it: they go ahead under a body that goes backwards.
  const back = Math.abs(ahead) > GOES * leg ? ahead < 0 : hind.reduce((sum, { values }, i) => sum + whileLow(values, axisOf([left, right][i], up, 3)), 0) > 0;
  const together = back ? 0 : Math.abs(correlation(past(hind[0].values, hind[1].values), fore));
  const byTurns = WALKING + (TROTTING - WALKING) * together;
  return { seconds: stride, pendulum: byTurns + (LEAPING - byTurns) * leaps };
}

/** How far a course goes over the frames on which another is low. */
function whileLow(values: Float64Array, height: Float64Array): number {
  const low = quantile(height, LOW);
  let sum = 0;
  for (let f = 1; f < values.length; f++) if (height[f] <= low && height[f - 1] <= low) sum += values[f] - values[f - 1];
  return sum;
}

/** Correlation of two courses about zero, −1..1; 0 where one does not move. */
function correlation(a: Float64Array, b: Float64Array): number {
  let [aa, ab, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    aa += a[i] * a[i];
    ab += a[i] * b[i];
    bb += b[i] * b[i];
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}

/** Longest way from a root to a leaf, for skeletons without legs. */
function skeletonSize(skeleton: Skeleton): number {
  const reach = skeleton.names.map(() => 0);
  skeleton.parents.forEach((parent, joint) => {
    reach[joint] = parent < 0 ? 0 : reach[parent] + boneLength(skeleton, joint);
  });
  return Math.max(1e-6, ...reach);
}
