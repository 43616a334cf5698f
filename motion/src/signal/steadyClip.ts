import { type Clip, ClipDraft, flatTrack, type Track } from "../clip/clip.ts";
import { quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import { framesOf, heldAgain, newFrames } from "./holds.ts";
import { courseNoise, steadiedCourse } from "./smoothCourse.ts";
import { laneNoise, rotationLane, steadiedLane } from "./smoothRotation.ts";

/**
 * Noise above which a joint counts as trembling, degrees (1 σ), at so many frames a second and fewer, and at so many and more: with few of them corners of quick movements look like it.
 */
const TREMBLES = [
  [30, 0.1],
  [60, 0.03],
] as const;
/** … and for which the smoothing is as wide as it gets. */
const SHAKES = (0.4 * Math.PI) / 180;
/** … and a place, metres along each axis. */
const STIRS = 0.0004;
/** Half-width of the smoothing, seconds, for a little noise and for a degree of it: the widest, where nothing but noise would be lost. */
const NARROW = 0.07;
const WIDE = 0.13;

/** A joint's rotations, or its places, as they come and steadied; null where they do not tremble. */
type Steadied = { readonly fps: number; readonly lane: Float64Array; readonly smooth: Float64Array } | { readonly fps: number; readonly lane: null };

/** What was made of a track last: tracks are never changed, and most patches leave most of them as they are. */
const KNOWN = new WeakMap<Track, Steadied>();

/** The same at a rate, radians. */
function tremblesAt(fps: number): number {
  const [[slow, most], [quick, least]] = TREMBLES;
  const share = Math.min(1, Math.max(0, (fps - slow) / (quick - slow)));
  return ((most + share * (least - most)) * Math.PI) / 180;
}

function halfFor(share: number, fps: number): number {
  return Math.max(2, Math.round((NARROW + (WIDE - NARROW) * Math.min(1, share)) * fps));
}

/** A course smoothed by what it shows that is new, where it goes by steps: it keeps its holds. */
function byNewFrames(
  course: Float64Array,
  stride: number,
  { frameCount, fps }: Clip,
  smooth: (course: Float64Array, frameCount: number, fps: number) => Float64Array,
): Float64Array {
  const kept = newFrames(course, stride);
  if (!kept) return smooth(course, frameCount, fps);
  return heldAgain(smooth(framesOf(course, stride, kept), kept.length, (fps * kept.length) / frameCount), stride, kept, frameCount);
}

/** Places of a slot as they come and steadied; null where they do not tremble. */
function steadiedPlaces(clip: Clip, slot: number): Steadied {
  const track = clip.positions[slot];
  const known = KNOWN.get(track);
  if (known?.fps === clip.fps) return known;
  const lane = flatTrack(track, 3);
  const noise = courseNoise(lane);
  const made: Steadied =
    noise < STIRS
      ? { fps: clip.fps, lane: null }
      : {
          fps: clip.fps,
          lane,
          smooth: byNewFrames(lane, 3, clip, (of, frames, fps) => steadiedCourse(of, frames, halfFor(noise / (4 * STIRS), fps), noise)),
        };
  KNOWN.set(track, made);
  return made;
}

function steadiedTrack(clip: Clip, joint: number): Steadied {
  const track = clip.rotations[joint];
  const known = KNOWN.get(track);
  if (known?.fps === clip.fps) return known;
  const lane = rotationLane(clip, joint);
  const noise = laneNoise(lane, clip.frameCount);
  const made: Steadied =
    noise < tremblesAt(clip.fps)
      ? { fps: clip.fps, lane: null }
      : { fps: clip.fps, lane, smooth: byNewFrames(lane, 4, clip, (of, frames, fps) => steadiedLane(of, frames, halfFor(noise / SHAKES, fps), noise)) };
  KNOWN.set(track, made);
  return made;
}

/** The clip with those rotations and places of some joints smoothed that tremble, as far as the weights say; the very clip where none does. Everything else keeps its bits. */
export function steadiedClip(clip: Clip, joints: Iterable<number>, weightAt: (frame: number) => number = () => 1): Clip {
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  let changed = false;
  for (const joint of joints) {
    const steadied = steadiedTrack(clip, joint);
    if (steadied.lane === null) continue;
    const { lane, smooth } = steadied;
    changed = true;
    for (let f = 0; f < clip.frameCount; f++) {
      const weight = weightAt(f);
      if (weight === 0 || quatAngleFlat(smooth, f * 4, lane, f * 4) < 1e-7) continue;
      slerpQuatFlat(q, 0, lane, f * 4, smooth, f * 4, weight);
      draft.setRotation(joint, f, q);
    }
  }
  const wanted = new Set(joints);
  const p = new Float64Array(3);
  clip.positionJoints.forEach((joint, slot) => {
    const steadied = wanted.has(joint) ? steadiedPlaces(clip, slot) : null;
    if (!steadied || steadied.lane === null) return;
    const { lane, smooth } = steadied;
    changed = true;
    for (let f = 0; f < clip.frameCount; f++) {
      const weight = weightAt(f);
      if (weight === 0) continue;
      for (let i = 0; i < 3; i++) p[i] = lane[f * 3 + i] + weight * (smooth[f * 3 + i] - lane[f * 3 + i]);
      draft.setPosition(slot, f, p);
    }
  });
  return changed ? draft.done() : clip;
}
