import type { Clip } from "../clip/clip.ts";
import { type JointTrack, jointTrack, pointTrack, restOffset } from "../contacts/tracks.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { median } from "../signal/robust.ts";
import { pathLength, restWorld, type Skeleton, tipOf } from "../skeleton/skeleton.ts";
import type { Leg } from "./contactPoints.ts";

type Place = readonly [number, number, number];

/** Slopes of a ground along x and z, tangents. */
type Slopes = { readonly slopeX: number; readonly slopeZ: number };

/** A place of a foot or hoof that rests on the ground. */
export interface SolePoint {
  readonly id: string;
  /** in the frame of the leg's end joint, metres */
  readonly local: readonly [number, number, number];
  /** is it a joint or an end of the skeleton? The foot rolls about those; others are estimates, and lie on the ground by definition */
  readonly modelled: boolean;
  /** of an estimated one: how still it keeps on what the foot rolls about, metres (median); undefined until that is known */
  readonly rolls?: number;
  /** where the foot has been seen to roll about it, so exactly that it tells how thick the sole is; undefined where that does not show */
  readonly rolledAt?: Place;
  /** its height over the ground while it rests, metres */
  readonly clearance: number;
}

/** The points of a leg that rest on the ground, and the track they ride on. */
export interface Sole {
  readonly leg: Leg;
  readonly track: JointTrack;
  /** frames at which the foot was not seen: its pose was filled in from those around */
  readonly unseen: ReadonlySet<number>;
  readonly points: readonly SolePoint[];
  /** from the heel to the toe, in the end joint's frame: level where the foot lies flat; null for a leg that stands on one point */
  readonly along: readonly [number, number, number] | null;
  /** frames on which the foot stands flat, as far as is known */
  readonly flat: readonly number[];
  /** the vertical in the end joint's frame on those */
  readonly upLocal: readonly [number, number, number];
  /** thigh and shin, metres: the scale of the leg */
  readonly legLength: number;
  /** how far above the ground its lowest modelled joint should be by usual proportions, metres */
  readonly expected: number;
}

/** Ankle height as a share of body height, and leg (thigh + shin) likewise: Drillis & Contini 1966, as tabled by Winter (memory). */
const ANKLE_SHARE = 0.039;
const LEG_SHARE = 0.491;
const FOOT_SHARE = 0.152;

/**
 * Builds the sole of a leg from its slow, low frames: where "up" is in the foot, and where it rests. A foot rolls about its toe joint, or the
 * end of a foot without one, which may lie above the ground by a thickness that the clip shows later; its heel is an estimate. Where the `hips` are [frame][3] tells on which frames it can stand.
 */
export function buildSole(skeleton: Skeleton, clip: Clip, leg: Leg, unseen: ReadonlySet<number> = new Set(), hips: Float64Array | null = null): Sole {
  const track = jointTrack(skeleton, clip, leg.end);
  const legLength = pathLength(skeleton, leg.lower, leg.upper) + pathLength(skeleton, leg.end, leg.lower);
  const bodyHeight = legLength / LEG_SHARE;
  const front: readonly [number, number, number] | undefined = leg.toe >= 0 ? restOffset(skeleton, leg.toe, leg.end) : tipOf(skeleton, leg.end);
  const flat = flatFrames(track, clip.fps, front ?? [0, 0, 0], (f) => !hips || hips[f * 3 + 1] - track.positions[f * 3 + 1] >= UNDER_HIPS * legLength);
  const seen = meanLocal(track, flat, [0, 1, 0]);
  const built = leg.parts.length > 1 && front ? builtUp(skeleton, leg, front) : null;
  // A foot that is never flat in a clip, on its toes or on its instep, is as flat as it was built.
  const upLocal = built && dot(built, seen) < NEVER_FLAT ? built : seen;
  if (leg.parts.length === 1) {
    // A leg whose own end lies as low as what goes on from it stands on that end.
    const low = leg.toe < 0 && (!front || -dot(front, upLocal) < AS_LOW * legLength);
    return {
      leg,
      track,
      unseen,
      points: [{ id: leg.parts[0], local: low || !front ? [0, 0, 0] : front, modelled: true, clearance: 0 }],
      along: null,
      flat,
      upLocal,
      legLength,
      expected: 0,
    };
  }
  const drop = front ? -(front[0] * upLocal[0] + front[1] * upLocal[1] + front[2] * upLocal[2]) : ANKLE_SHARE * bodyHeight;
  const forward = forwardOf(front, upLocal, drop) ?? standInForward(upLocal);
  const reach = front ? Math.hypot(front[0] + drop * upLocal[0], front[1] + drop * upLocal[1], front[2] + drop * upLocal[2]) : 0.6 * FOOT_SHARE * bodyHeight;
  const at = (along: number): [number, number, number] => [
    forward[0] * along - upLocal[0] * drop,
    forward[1] * along - upLocal[1] * drop,
    forward[2] * along - upLocal[2] * drop,
  ];
  const [heelPart, toePart] = leg.parts;
  return {
    leg,
    track,
    unseen,
    points: [
      { id: heelPart, local: at(-HEEL_BEHIND * reach), modelled: false, clearance: 0 },
      { id: toePart, local: front ?? at(reach), modelled: front !== undefined, clearance: 0 },
    ],
    along: [0, 1, 2].map((i) => (1 + HEEL_BEHIND) * reach * forward[i]) as unknown as [number, number, number],
    flat,
    upLocal,
    legLength,
    expected: Math.max(0, ANKLE_SHARE * bodyHeight - drop),
  };
}

/** Cosine of how far a foot is from flat that is taken never to be (35°), of how level its way forward is as it was built (60°), and how upright the leg. */
const NEVER_FLAT = 0.82;
const FLAT_BUILT = 0.5;
const UPRIGHT_BUILT = 0.87;

/** The vertical in the end joint's frame as the body was built, where it was built standing on flat feet. */
function builtUp(skeleton: Skeleton, leg: Leg, front: readonly [number, number, number]): [number, number, number] | null {
  const { positions, rotations } = restWorld(skeleton);
  const rise = [0, 1, 2].map((i) => positions[leg.upper * 3 + i] - positions[leg.end * 3 + i]);
  const v = new Float64Array(3);
  rotateVecFlat(v, 0, rotations, leg.end * 4, front, 0);
  if (rise[1] < UPRIGHT_BUILT * Math.hypot(...rise) || Math.abs(v[1]) > FLAT_BUILT * Math.hypot(...v)) return null;
  rotateVecFlat(v, 0, conjugateQuatFlat(new Float64Array(4), 0, rotations, leg.end * 4), 0, [0, 1, 0], 0);
  return [v[0], v[1], v[2]];
}

/** How much lower the tip of a leg must lie than its end for the leg to stand on the tip, as a share of the leg. */
const AS_LOW = 0.05;

function dot(a: readonly number[], b: readonly number[]): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/** The heel lies behind the ankle by about this share of the way from ankle to ball. */
const HEEL_BEHIND = 0.42;

/** A leg whose end is less than this share of it under the hips carries nothing: the body lies, or has its feet up. */
const UNDER_HIPS = 0.25;

/** The slowest of the end joint's lower frames; where it stands on less than half of those, of the frames on which it does. */
function flatFrames(track: JointTrack, fps: number, front: readonly [number, number, number], stands: (frame: number) => boolean): number[] {
  const n = track.frameCount;
  const ball = pointTrack(track, [...front]);
  const step = Math.max(1, Math.round(fps / 30));
  const speed = new Float64Array(n);
  const height = new Float64Array(n);
  for (let f = 0; f < n; f++) {
    const a = Math.max(0, f - step) * 3;
    const b = Math.min(n - 1, f + step) * 3;
    speed[f] = apart(track.positions, a, b) + apart(ball, a, b);
    height[f] = track.positions[f * 3 + 1] + ball[f * 3 + 1];
  }
  const slowest = (frames: readonly number[]) => {
    const middle = median(frames.map((f) => height[f]));
    const lower = frames.filter((f) => height[f] <= middle + 1e-9).sort((a, b) => speed[a] - speed[b]);
    return lower.slice(0, Math.max(3, Math.round(0.15 * frames.length)));
  };
  const all = Array.from({ length: n }, (_, f) => f);
  const flat = slowest(all);
  const standing = all.filter(stands);
  return standing.length === 0 || flat.filter(stands).length >= flat.length / 2 ? flat : slowest(standing);
}

/** Distance of two places of a course [frame][3], by where they start in it. */
function apart(course: Float64Array, a: number, b: number): number {
  const [dx, dy, dz] = [course[b] - course[a], course[b + 1] - course[a + 1], course[b + 2] - course[a + 2]];
  return Math.sqrt(dx * dx + dy * dy + dz * dz);
}

/** A direction of the world in a joint's frame, mean over some frames. */
function meanLocal(track: JointTrack, frames: readonly number[], direction: readonly number[]): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  const q = new Float64Array(4);
  const v = new Float64Array(3);
  for (const f of frames) {
    conjugateQuatFlat(q, 0, track.rotations, f * 4);
    rotateVecFlat(v, 0, q, 0, direction, 0);
    for (let i = 0; i < 3; i++) sum[i] += v[i];
  }
  const length = Math.hypot(...sum) || 1;
  return [sum[0] / length, sum[1] / length, sum[2] / length];
}

/** What a sole's lowest joint should be over ground of such slopes (tangents), metres: a foot lies along the ground, and its thickness is measured across it. Where its heel has been seen to roll tells it, be it on the likeliest slope. */
export function expectedOver({ track, flat, points, legLength, expected }: Sole, sure: Slopes, likeliest: Slopes): number {
  const [heel, toe] = points;
  const up = ({ slopeX, slopeZ }: Slopes) => meanLocal(track, flat, [-slopeX, 1, -slopeZ]);
  if (toe?.modelled && heel.rolledAt)
    return Math.max(
      0,
      dot(
        [0, 1, 2].map((i) => toe.local[i] - (heel.rolledAt as Place)[i]),
        up(likeliest),
      ),
    );
  if (!toe?.modelled || (sure.slopeX === 0 && sure.slopeZ === 0)) return expected;
  return Math.max(0, (ANKLE_SHARE / LEG_SHARE) * legLength + dot(toe.local, up(sure)));
}

function forwardOf(front: readonly [number, number, number] | undefined, up: readonly number[], drop: number): [number, number, number] | undefined {
  if (!front) return undefined;
  const v: [number, number, number] = [front[0] + drop * up[0], front[1] + drop * up[1], front[2] + drop * up[2]];
  const length = Math.hypot(...v);
  return length > 1e-4 ? [v[0] / length, v[1] / length, v[2] / length] : undefined;
}

/** Without a toe: +Z (the way a body at rest faces), made level. */
function standInForward(up: readonly number[]): [number, number, number] {
  const d = up[2];
  const v = [-d * up[0], -d * up[1], 1 - d * up[2]];
  const length = Math.hypot(v[0], v[1], v[2]) || 1;
  return [v[0] / length, v[1] / length, v[2] / length];
}
