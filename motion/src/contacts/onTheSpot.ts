import type { Character } from "../character/character.ts";
import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import { axisOf, runningMean, slopes } from "../signal/filters.ts";
import { median, quantile } from "../signal/robust.ts";
import { PointTracks } from "./pointTracks.ts";

/** A foot is low in this share of its frames at least, even in a run, and as high as in swing in as many. */
const LOW_SHARE = 0.3;
/** Feet are seen over so much to either side, seconds: what trembles goes in all directions. */
const SEEN_OVER = 0.03;
/** A ground that passes slower than this is none that a body walks over, m/s for a leg of 0.9 m. */
const LEAST_PASSING = 0.25;
/** A body that goes by itself at more than this share of it does not go on the spot. */
const STAYS = 0.2;
/** So many of the frames on which feet are low they go with the ground, within so much of its speed; while they are high they go against it at so much of it at least. */
const MOSTLY = 0.6;
const ALIKE = 0.35;
const AGAINST = 0.5;

/** How the ground passes under feet while they are low: its level velocity, x and z, m/s, how much of those frames go with it, and how fast feet go against it while they are high, m/s. */
interface Passing {
  readonly velocity: readonly [number, number];
  readonly steady: number;
  readonly against: number;
}

/**
 * The level velocity at which the ground passes under a body that walks on the spot: the middle one of its feet's while they are low. Feet in
 * stance all go with the ground; in swing they are high, and go against it.
 */
export function passingGround(tracks: PointTracks): Passing {
  const { fps } = tracks.clip;
  const half = Math.round(SEEN_OVER * fps);
  const low: [number, number][] = [];
  const high: [number, number][] = [];
  for (const point of tracks.points.filter((p) => p.bears)) {
    const course = tracks.course(point.id);
    if (!course) continue;
    const height = axisOf(course, 1, 3);
    const [least, most] = [quantile(height, LOW_SHARE), quantile(height, 1 - LOW_SHARE)];
    const [vx, vz] = [0, 2].map((axis) => slopes(runningMean(axisOf(course, axis, 3), half), fps));
    height.forEach((h, f) => {
      if (h <= least) low.push([vx[f], vz[f]]);
      if (h >= most) high.push([vx[f], vz[f]]);
    });
  }
  if (low.length === 0) return { velocity: [0, 0], steady: 0, against: 0 };
  const velocity: [number, number] = [median(low.map((v) => v[0])), median(low.map((v) => v[1]))];
  const speed = Math.hypot(...velocity);
  const steady = low.filter(([x, z]) => Math.hypot(x - velocity[0], z - velocity[1]) < ALIKE * speed).length / low.length;
  const against = speed > 0 ? -median(high.map(([x, z]) => (x * velocity[0] + z * velocity[1]) / speed)) : 0;
  return { velocity, steady, against };
}

/**
 * The even way [frame][2], metres, that a body which walks or runs on the spot would have gone over still ground; null for one that goes by itself, or whose feet do not all
 * go one way while they are low and back while they are high.
 */
export function wayOnTheSpot({ skeleton, body, contactPoints }: Character, clip: Clip): Float64Array | null {
  const tracks = new PointTracks(skeleton, clip, contactPoints);
  const { velocity, steady, against } = passingGround(tracks);
  const speed = Math.hypot(...velocity);
  const hips = tracks.joint(body.roles.hips ?? 0).positions;
  const last = (clip.frameCount - 1) * 3;
  const own = Math.hypot(hips[last] - hips[0], hips[last + 2] - hips[2]) / ((clip.frameCount - 1) / clip.fps);
  const leg = legOf(hips, tracks);
  if (!(speed > LEAST_PASSING * Math.sqrt(leg / 0.9)) || own > STAYS * speed || steady < MOSTLY || against < AGAINST * speed) return null;
  return Float64Array.from({ length: clip.frameCount * 2 }, (_, i) => (-velocity[i & 1] * (i >> 1)) / clip.fps);
}

/** How high hips go over the lowest point, metres. */
function legOf(hips: Float64Array, tracks: PointTracks): number {
  const heights = tracks.points.filter((p) => p.bears).map((p) => quantile(axisOf(tracks.course(p.id) ?? hips, 1, 3), 0.05));
  return Math.max(0.01, median(axisOf(hips, 1, 3)) - Math.min(...heights));
}

/** A clip with the whole body taken along a level way [frame][2], metres. */
export function takenAlong({ skeleton }: Pick<Character, "skeleton">, clip: Clip, way: Float64Array): Clip {
  return moveBody(skeleton, clip, (f) => ({ shift: [way[f * 2], 0, way[f * 2 + 1]], turn: null }));
}
