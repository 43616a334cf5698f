import type { JointTrack } from "../contacts/tracks.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { conjugateQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, slerpQuatFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";

/** Where a limb's end is from a frame on: place in the world and rotation. */
export interface Rest {
  readonly position: ArrayLike<number>;
  readonly rotation: ArrayLike<number>;
}

/** Shares of a step over which it goes over from the motion's own swing to the way to its landing. */
const LEAVES = [0, 0.55] as const;
/** A step shorter than this share of the motion's is lifted no lower than that share would have it. */
const LEAST_SHARE = 0.25;
/** How high a step that the motion has not is lifted: share of its length, and metres at least. */
const LIFT_SHARE = 0.12;
const LEAST_LIFT = 0.02;
/** Steps shorter than this are none: the end glides into its place, metres. */
const NO_STEP = 0.008;

/**
 * A limb's end that swings once more and then rests: up to `lift` its own course, from `land` on its rest, and between them a step from the one to the other that begins as the
 * motion's own swing does and comes in with no speed left. Its height over the line between both, and what the end turns on the way, are those of the motion's swing (frames
 * lift..swung of `course`), as much smaller as the step is shorter. Positions [frame][3], rotations [frame][4].
 */
export function steppedCourse(
  course: JointTrack,
  {
    lift,
    land,
    swung,
    rest,
    ground,
    soleHeight,
  }: {
    readonly lift: number;
    readonly land: number;
    readonly swung: number;
    readonly rest: Rest;
    readonly ground: Ground;
    /** how high the end's joint is over the ground where it rests, metres */
    readonly soleHeight: number;
  },
): { readonly positions: Float64Array; readonly rotations: Float64Array } {
  const n = course.frameCount;
  const positions = Float64Array.from(course.positions);
  const rotations = Float64Array.from(course.rotations);
  const from = course.positions.slice(lift * 3, lift * 3 + 3);
  const q0 = Float64Array.from(course.rotations.subarray(lift * 4, lift * 4 + 4));
  const end = Math.min(n - 1, Math.max(lift + 1, swung));
  const own = course.positions.subarray(end * 3, end * 3 + 3);
  const length = level(from, rest.position);
  const ownLength = level(from, own);
  const share = stepShare(course, lift, end, rest);
  const bump = swingHeight(course, lift, end);
  const height = ownLength > NO_STEP ? share * bump : length > NO_STEP ? Math.max(LEAST_LIFT, LIFT_SHARE * length) : 0;
  const span = land - lift;
  const [q, d, v] = [new Float64Array(4), new Float64Array(4), new Float64Array(3)];
  const turned = (dst: Float64Array, u: number) => {
    // What the motion's own swing turns beyond the straight way between its ends, by `share`.
    const f = lift + u * (end - lift);
    const low = Math.min(end, Math.floor(f));
    slerpQuatFlat(d, 0, course.rotations, low * 4, course.rotations, Math.min(end, low + 1) * 4, f - low);
    slerpQuatFlat(q, 0, course.rotations, lift * 4, course.rotations, end * 4, quinticStep(u));
    conjugateQuatFlat(q, 0, q, 0);
    multiplyQuatFlat(d, 0, d, 0, q, 0);
    logQuatFlat(v, 0, d, 0);
    // Full at the start, where it is the motion itself; gone when the end lands.
    const scale = bendScale(share, u) * (1 - quinticStep((u - 0.5) / 0.5));
    for (let i = 0; i < 3; i++) v[i] *= scale;
    expQuatFlat(d, 0, v, 0);
    slerpQuatFlat(q, 0, q0, 0, rest.rotation as Float64Array, 0, quinticStep(u));
    multiplyQuatFlat(dst, 0, d, 0, q, 0);
  };
  const rotation = new Float64Array(4);
  for (let f = lift + 1; f < n; f++) {
    const u = Math.min(1, (f - lift) / span);
    if (u >= 1) {
      for (let i = 0; i < 3; i++) positions[f * 3 + i] = rest.position[i];
      for (let i = 0; i < 4; i++) rotations[f * 4 + i] = rest.rotation[i];
      continue;
    }
    const s = quinticStep(u);
    const w = quinticStep((u - LEAVES[0]) / (LEAVES[1] - LEAVES[0]));
    const way = [0, 1, 2].map((i) => from[i] + s * (rest.position[i] - from[i]));
    // sin² rises and comes down without speed at either end.
    way[1] += height * Math.sin(Math.PI * u) ** 2;
    const at = Math.min(n - 1, f);
    for (let i = 0; i < 3; i++) positions[f * 3 + i] = (1 - w) * course.positions[at * 3 + i] + w * way[i];
    const least = groundHeight(ground, positions[f * 3], positions[f * 3 + 2]) + soleHeight * Math.min(1, 2 * u);
    if (u > 0.5 && positions[f * 3 + 1] < least) positions[f * 3 + 1] = least;
    turned(rotation, u);
    slerpQuatFlat(rotations, f * 4, course.rotations, at * 4, rotation, 0, w);
  }
  return { positions, rotations };
}

function level(p: ArrayLike<number>, q: ArrayLike<number>): number {
  return Math.hypot(q[0] - p[0], q[2] - p[2]);
}

/** How long a step to a rest is, as a share of the motion's own from one frame to another; 1 where it has none. */
export function stepShare({ positions, frameCount }: JointTrack, lift: number, swung: number, { position }: Rest): number {
  const end = Math.min(frameCount - 1, Math.max(lift + 1, swung));
  const from = positions.subarray(lift * 3, lift * 3 + 3);
  const own = level(from, positions.subarray(end * 3, end * 3 + 3));
  return own > NO_STEP ? Math.min(1.2, Math.max(LEAST_SHARE, level(from, position) / own)) : 1;
}

/** How much of what the motion's own swing bends is left so far into a step: all at its start, by the step's share further on. */
export function bendScale(share: number, u: number): number {
  return share + (1 - share) * (1 - quinticStep(u / LEAVES[1]));
}

/** How far a limb's end rises over the straight line between where a swing begins and where it ends, metres. */
function swingHeight({ positions }: JointTrack, lift: number, land: number): number {
  let most = 0;
  for (let f = lift; f <= land; f++) {
    const u = (f - lift) / Math.max(1, land - lift);
    most = Math.max(most, positions[f * 3 + 1] - (positions[lift * 3 + 1] + u * (positions[land * 3 + 1] - positions[lift * 3 + 1])));
  }
  return most;
}
