import { z } from "zod";
import { moveBody, movePlace, type RigidMove } from "../clip/roots.ts";
import type { Motion } from "../motion.ts";
import { alongCourse, type Course, cycleSeconds, hipsCourse, travelOf } from "../travel/course.ts";
import { travelFromFeet } from "../travel/fromFeet.ts";
import { rigidOf, turnedLevel } from "../travel/level.ts";
import { definePatch } from "./kind.ts";

/** The fastest that a body may be told to go, m/s. */
const FASTEST = 50;
/** A way shorter than this has no course to go along, metres. */
const NO_WAY = 0.05;

const schema = z.strictObject({
  travel: z.enum(["clip", "even", "spot", "feet"]),
  /** metres a second; null: as fast as it is */
  speed: z.number().min(0).max(FASTEST).nullable(),
  heading: z.enum(["clip", "straight"]),
  /** 0: the figure moves, 1: the ground does */
  groundShare: z.number().min(0).max(1),
});
export type TravelSettings = z.infer<typeof schema>;

export const travelPatch = definePatch<TravelSettings>({
  kind: "travel",
  title: "Travel",
  group: "time",
  description: "Takes the body's way over the ground out, evens it, gives it a speed, or puts it in from the feet; sway, surge and bob stay.",
  schema,
  defaults: { travel: "clip", speed: null, heading: "clip", groundShare: 0 },
  masked: false,
  ranged: false,
  poses: true,
  fields: {
    travel: { label: "Travel", choices: { clip: "As is", even: "Even", spot: "On the spot", feet: "From feet" } },
    speed: { label: "Speed", unit: "m/s", step: 0.01, unset: "as it is" },
    heading: { label: "Heading", choices: { clip: "As it is", straight: "Straight on" } },
    groundShare: {
      label: "Ground moves",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "How much of the travel the ground is shown to do instead of the figure",
      onlyWhen: { setting: "travel", isNot: "spot" },
    },
  },
  sees: () => "whole",
  apply(received, settings, { pause }) {
    const put = settings.travel === "feet" ? travelFromFeet(received, pause) : received;
    const strideFrames = cycleSeconds(put) * put.clip.fps;
    const travel = travelOf(hipsCourse(put.character, put.clip), strideFrames);
    const motion = settings.heading === "straight" ? movedAlong(put, straightened(travel)) : put;
    const straight = settings.heading === "straight" ? travelOf(hipsCourse(motion.character, motion.clip), strideFrames) : travel;
    const even = settings.travel === "even" || settings.speed !== null;
    const paced = even ? movedAlong(motion, pacedWay(straight, settings, motion.clip.fps, strideFrames)) : motion;
    const share = settings.travel === "spot" ? 1 : settings.groundShare;
    return share > 0 ? withGroundShare(paced, share, strideFrames) : paced;
  },
});

/** The motion with its body moved rigidly frame by frame, places of contacts along with what rests there. */
function movedAlong(motion: Motion, moveAt: (frame: number) => RigidMove | null): Motion {
  const clip = moveBody(motion.character.skeleton, motion.clip, moveAt);
  if (clip === motion.clip) return motion;
  const contacts = motion.contacts.map((c) => {
    if (c.anchor.point === null || typeof c.on === "object") return c;
    return { ...c, anchor: { ...c.anchor, point: movePlace(c.anchor.point, moveAt(Math.round((c.start + c.end) / 2))) } };
  });
  return { ...motion, clip, contacts, settled: null };
}

/** About a place, turned, and taken to another. */
function aboutPlace(x: number, z: number, yaw: number, toX: number, toZ: number): RigidMove {
  const [rx, rz] = turnedLevel(x, z, yaw);
  return rigidOf({ yaw, x: toX - rx, y: 0, z: toZ - rz });
}

/** Turns out of the way what the heading turns over strides: the body goes as it does, straight on as on its first frame. */
function straightened({ x, z, heading }: Course): (frame: number) => RigidMove {
  const way = [new Float64Array(x.length), new Float64Array(x.length)];
  way[0][0] = x[0];
  way[1][0] = z[0];
  for (let f = 1; f < x.length; f++) {
    const [dx, dz] = turnedLevel(x[f] - x[f - 1], z[f] - z[f - 1], heading[0] - (heading[f] + heading[f - 1]) / 2);
    way[0][f] = way[0][f - 1] + dx;
    way[1][f] = way[1][f - 1] + dz;
  }
  return (f) => aboutPlace(x[f], z[f], heading[0] - heading[f], way[0][f], way[1][f]);
}

/**
 * Along its own way at another pace: even, or as it is but as much faster as its mean is to be. The body turns as the way does where it then is; before the
 * start and behind the end it goes straight on. A body without a way goes where it faces.
 */
function pacedWay(travel: Course, settings: TravelSettings, fps: number, strideFrames: number): (frame: number) => RigidMove | null {
  const { x, z, heading } = travel;
  const along = alongCourse(travel);
  const last = x.length - 1;
  const whole = along[last];
  const mean = whole / (last / fps);
  const speed = settings.speed ?? mean;
  if (whole < NO_WAY && settings.speed === null) return () => null;
  if (whole < NO_WAY) return (f) => rigidOf({ yaw: 0, x: Math.sin(heading[f]) * speed * (f / fps), y: 0, z: Math.cos(heading[f]) * speed * (f / fps) });
  const wanted = (f: number) => (settings.travel === "even" ? (speed * f) / fps : (along[f] * speed) / mean);
  // Which way it goes on behind its end: as over its last stride.
  const behind = Math.max(0, Math.round(last - strideFrames));
  const [ex, ez] = [x[last] - x[behind], z[last] - z[behind]];
  const size = Math.hypot(ex, ez) || 1;
  let low = 0;
  const frameAt = (s: number) => {
    while (low > 0 && along[low] > s) low--;
    while (low + 1 < last && along[low + 1] < s) low++;
    const step = along[low + 1] - along[low];
    return low + (step > 0 ? Math.max(0, Math.min(1, (s - along[low]) / step)) : 0);
  };
  const between = (list: Float64Array, at: number) => {
    const a = Math.floor(at);
    return list[a] + (at - a) * (list[Math.min(last, a + 1)] - list[a]);
  };
  return (f) => {
    const s = wanted(f);
    const at = frameAt(Math.min(s, whole));
    const over = Math.max(0, s - whole);
    return aboutPlace(x[f], z[f], between(heading, at) - heading[f], between(x, at) + (over * ex) / size, between(z, at) + (over * ez) / size);
  };
}

/** The motion with some of its travel shown as the ground's: what the figure does and what the ground does add up to the travel. */
function withGroundShare(motion: Motion, share: number, strideFrames: number): Motion {
  const { x, z } = travelOf(hipsCourse(motion.character, motion.clip), strideFrames);
  const before = motion.groundTravel;
  const left = (list: Float64Array, own: Float64Array | undefined) => list.map((v, f) => (own?.[f] ?? 0) - share * (v - list[0] + (own?.[f] ?? 0)));
  return { ...motion, groundTravel: { x: left(x, before?.x), z: left(z, before?.z) } };
}
