import { z } from "zod";
import { partRefSchema } from "../character/parts.ts";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { moment, timed } from "../documents/fields.ts";
import { partOfName, secondsOf, settingsUpgrade } from "../documents/steps.ts";
import { PatchError } from "../formats/errors.ts";
import type { Freedom } from "../kinematics/bodyReach.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { nearestTurn } from "../math/euler.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, dotQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { settleFrame } from "../pose/editFrame.ts";
import { frameHolds, maskedFreedom, standingLimbs } from "../pose/editMotion.ts";
import { holdSchema } from "../pose/edits.ts";
import { headingOf } from "../pose/spaces.ts";
import { upgradeHolds1 } from "../pose/upgrade.ts";
import { lowPass } from "../signal/filters.ts";
import { rotationLane } from "../signal/smoothRotation.ts";
import { frameOf } from "../time/warp.ts";
import { definePatch, type PatchContext } from "./kind.ts";

const schema = z.strictObject({
  percent: z.number().min(0).max(200),
  about: z.enum(["average", "trend", "pose"]),
  trendInSeconds: z.number().min(0.2).max(10),
  /** the moment whose pose is the middle */
  poseAt: timed(moment),
  sway: z.boolean(),
  surge: z.boolean(),
  bob: z.boolean(),
  swivel: z.boolean(),
  tilt: z.boolean(),
  pitch: z.boolean(),
  /** parts whose own turning is scaled too */
  parts: z.array(partRefSchema).max(400),
  /** of those, about which of their own axes */
  partAxes: z.array(z.enum(["x", "y", "z"])).max(3),
  holds: z.array(holdSchema).max(64),
});
export type AmplitudeSettings = z.infer<typeof schema>;

export const amplitudePatch = definePatch<AmplitudeSettings>({
  kind: "amplitude",
  title: "Amplitude",
  group: "correct",
  description: "Makes a movement larger or smaller about its own average, its trend or a pose.",
  schema,
  defaults: {
    percent: 100,
    about: "average",
    trendInSeconds: 1.2,
    poseAt: 0,
    sway: false,
    surge: false,
    bob: false,
    swivel: false,
    tilt: false,
    pitch: false,
    parts: [],
    partAxes: ["x", "y", "z"],
    holds: [],
  },
  masked: true,
  poses: true,
  holds: true,
  fields: {
    percent: { label: "Size of the movement", unit: "%", step: 1 },
    about: {
      label: "About its",
      choices: { pose: "a pose" },
      help: "Its average over the range, a slow trend that it swings about, or the pose at a frame",
    },
    trendInSeconds: {
      label: "Trend over",
      unit: "s",
      step: 0.1,
      help: "Swings quicker than this are scaled, slower ones are the trend",
      onlyWhen: { setting: "about", is: "trend" },
    },
    poseAt: { label: "Pose of frame", unit: "f", step: 1, inFrames: true, onlyWhen: { setting: "about", is: "pose" } },
    sway: { label: "Hips sway, side to side" },
    surge: { label: "Hips surge, back and forth" },
    bob: { label: "Hips bob, up and down" },
    swivel: { label: "Hips swivel, about the vertical" },
    tilt: { label: "Hips tilt, side to side" },
    pitch: { label: "Hips pitch, forward and back" },
    parts: { label: "Parts", help: "Parts whose own turning is scaled too" },
  },
  fromFrames: settingsUpgrade({
    poseFrame: (v, fps) => ({ poseAt: secondsOf(v, fps) }),
    parts: (v) => ({ parts: Array.isArray(v) ? v.map(partOfName) : v }),
    holds: (v) => ({ holds: upgradeHolds1(v) }),
  }),
  sees: () => "whole",
  /**
   * x' = c + s·(x − c) for every chosen quantity, c its average, trend or pose value. The hips' travel is read along the way they go (or
   * where the trend heads), their turning as heading, then tilt and pitch; other joints about their mean rotation. What is scaled is
   * locked, so that holds are met by whatever is left free.
   */
  apply(motion: Motion, settings: AmplitudeSettings, context: PatchContext): Motion {
    const scaled = settings.percent / 100;
    const any = settings.sway || settings.surge || settings.bob || settings.swivel || settings.tilt || settings.pitch || settings.parts.length > 0;
    if (scaled === 1 || !any || !context.weights.some((w) => w > 0)) return motion;
    const last = motion.clip.frameCount - 1;
    const poseFrame = Math.round(frameOf(settings.poseAt, motion.clip.fps));
    if (settings.about === "pose" && poseFrame > last)
      throw new PatchError(context.id, context.name, "poseAt", `frame ${poseFrame} lies behind the last frame ${last}; choose one of 0–${last}`);
    const { rig, skeleton } = motion.character;
    const about: Middle = { about: settings.about, trendInSeconds: settings.trendInSeconds, poseFrame };
    const hips = hipsCourse(motion);
    const middle = centres(hips, about, context, motion.clip.fps);
    const parts = settings.parts.map((part) => context.part(part, "parts")).filter((joint) => joint !== rig.hips);
    const partCentres = parts.map((joint) => rotationCentres(motion.clip, joint, about, context));
    const holds = frameHolds(settings.holds, context);
    const standing = standingLimbs(motion);
    const { clip } = motion;
    const draft = ClipDraft.of(clip);
    const frame = new PoseFrame(skeleton, clip);
    const before = new PoseFrame(skeleton, clip);
    const axes = new Float64Array(9);
    const allowed = maskedFreedom(skeleton, rig, context.joints);
    const freedom: Freedom = {
      axes,
      // Held parts are met by the axes that are not scaled.
      move: [settings.sway ? 0 : allowed.move[0], settings.bob ? 0 : allowed.move[1], settings.surge ? 0 : allowed.move[2]],
      hipsTurn: [settings.pitch ? 0 : allowed.hipsTurn[0], settings.swivel ? 0 : allowed.hipsTurn[1], settings.tilt ? 0 : allowed.hipsTurn[2]],
      locked: new Set([...allowed.locked, ...parts]),
    };
    const q = new Float64Array(4);
    const turn = new Float64Array(4);
    for (let f = 0; f < clip.frameCount; f++) {
      const w = context.weights[f];
      if (w === 0) continue;
      before.load(motion.clip, f);
      frame.copyFrom(before);
      const by = (scaled - 1) * w;
      writeAxes(axes, middle.way[f]);
      const move = [0, 0, 0];
      for (const [i, used] of [settings.sway, settings.bob, settings.surge].entries()) {
        if (!used) continue;
        let off = 0;
        for (let c = 0; c < 3; c++) off += axes[i * 3 + c] * (hips.place[f * 3 + c] - middle.place[f * 3 + c]);
        for (let c = 0; c < 3; c++) move[c] += by * off * axes[i * 3 + c];
      }
      if (move[0] !== 0 || move[1] !== 0 || move[2] !== 0) frame.moveWorld(rig.mover, move[0], move[1], move[2]);
      if (settings.swivel || settings.tilt || settings.pitch) {
        const yaw = hips.yaw[f] + (settings.swivel ? by * (hips.yaw[f] - middle.yaw[f]) : 0);
        leanScaled(q, hips.lean, middle.lean, f, settings.pitch ? by : 0, settings.tilt ? by : 0);
        axisAngleQuatFlat(turn, 0, 0, 1, 0, yaw);
        multiplyQuatFlat(q, 0, turn, 0, q, 0);
        frame.setWorld(rig.hips, q);
      }
      parts.forEach((joint, i) => {
        partScaled(q, before.rotations, joint * 4, partCentres[i], f, by, settings.partAxes);
        frame.setLocal(joint, q);
      });
      frame.update();
      settleFrame(frame, before, rig, [], holds, standing(f), freedom);
      frame.store(draft, f, context.joints);
    }
    return { ...motion, clip: draft.done() };
  },
});

/** What a movement is scaled about. */
interface Middle {
  readonly about: AmplitudeSettings["about"];
  readonly trendInSeconds: number;
  readonly poseFrame: number;
}

/** The hips a frame: place [3], heading, and what is left of their rotation without the heading [4]. */
interface HipsCourse {
  readonly place: Float64Array;
  readonly yaw: Float64Array;
  readonly lean: Float64Array;
}

function hipsCourse(motion: Motion): HipsCourse {
  const { clip } = motion;
  const { rig, skeleton } = motion.character;
  const n = clip.frameCount;
  const place = new Float64Array(n * 3);
  const yaw = new Float64Array(n);
  const lean = new Float64Array(n * 4);
  const frame = new PoseFrame(skeleton, clip);
  const q = new Float64Array(4);
  for (let f = 0; f < n; f++) {
    frame.load(clip, f);
    for (let c = 0; c < 3; c++) place[f * 3 + c] = frame.worldPositions[rig.hips * 3 + c];
    yaw[f] = nearestTurn(headingOf(frame, rig), f > 0 ? yaw[f - 1] : 0);
    axisAngleQuatFlat(q, 0, 0, 1, 0, -yaw[f]);
    multiplyQuatFlat(lean, f * 4, q, 0, frame.worldRotations, rig.hips * 4);
    if (f > 0 && dotQuatFlat(lean, f * 4, lean, f * 4 - 4) < 0) for (let c = 0; c < 4; c++) lean[f * 4 + c] *= -1;
  }
  return { place, yaw, lean };
}

interface Centres extends HipsCourse {
  /** heading of the way that sway and surge are read along */
  readonly way: Float64Array;
}

/** Net travel below this is standing about: the way is then the mean heading. Metres. */
const TRAVELS = 0.5;

function centres(hips: HipsCourse, settings: Middle, context: Pick<PatchContext, "start" | "end">, fps: number): Centres {
  const n = hips.yaw.length;
  const { start, end } = context;
  const count = end - start + 1;
  if (settings.about === "trend") {
    const cutoff = 1 / (2 * settings.trendInSeconds);
    const slow = (values: Float64Array, offset: number, stride: number) => lowPass(values, n, offset, stride, fps, cutoff);
    const place = new Float64Array(n * 3);
    for (let c = 0; c < 3; c++) slow(hips.place, c, 3).forEach((v, f) => place.fill(v, f * 3 + c, f * 3 + c + 1));
    const lean = new Float64Array(n * 4);
    for (let c = 0; c < 4; c++) slow(hips.lean, c, 4).forEach((v, f) => lean.fill(v, f * 4 + c, f * 4 + c + 1));
    for (let f = 0; f < n; f++) normalizeQuatFlat(lean, f * 4);
    const yaw = slow(hips.yaw, 0, 1);
    return { place, lean, yaw, way: yaw };
  }
  const place = new Float64Array(n * 3);
  const lean = new Float64Array(4);
  const at = settings.poseFrame;
  const mean = (values: Float64Array, offset: number, stride: number) => {
    let sum = 0;
    for (let f = start; f <= end; f++) sum += values[f * stride + offset];
    return sum / count;
  };
  const pose = settings.about === "pose";
  const dx = hips.place[end * 3] - hips.place[start * 3];
  const dz = hips.place[end * 3 + 2] - hips.place[start * 3 + 2];
  const yaw = pose ? hips.yaw[at] : mean(hips.yaw, 0, 1);
  const way = Math.hypot(dx, dz) > TRAVELS ? Math.atan2(dx, dz) : yaw;
  for (let c = 0; c < 4; c++) lean[c] = pose ? hips.lean[at * 4 + c] : mean(hips.lean, c, 4);
  normalizeQuatFlat(lean, 0);
  // Along the way the average is an even travel: a straight line through the frames, by least squares.
  const sway = [Math.cos(way), -Math.sin(way)];
  const ahead = [Math.sin(way), Math.cos(way)];
  const along = (f: number, d: readonly number[]) => hips.place[f * 3] * d[0] + hips.place[f * 3 + 2] * d[1];
  let meanSway = 0;
  let meanAhead = 0;
  let product = 0;
  let squares = 0;
  const middleFrame = (start + end) / 2;
  for (let f = start; f <= end; f++) {
    meanSway += along(f, sway) / count;
    meanAhead += along(f, ahead) / count;
    squares += (f - middleFrame) ** 2;
  }
  for (let f = start; f <= end; f++) product += (f - middleFrame) * (along(f, ahead) - meanAhead);
  const speed = squares > 0 ? product / squares : 0;
  const height = pose ? hips.place[at * 3 + 1] : mean(hips.place, 1, 3);
  const side = pose ? along(at, sway) : meanSway;
  for (let f = 0; f < n; f++) {
    const onward = pose ? along(at, ahead) : meanAhead + speed * (f - middleFrame);
    place[f * 3] = side * sway[0] + onward * ahead[0];
    place[f * 3 + 1] = height;
    place[f * 3 + 2] = side * sway[1] + onward * ahead[1];
  }
  return {
    place,
    yaw: new Float64Array(n).fill(yaw),
    lean: Float64Array.from({ length: n * 4 }, (_, i) => lean[i % 4]),
    way: new Float64Array(n).fill(way),
  };
}

/** Left, up and forward of a heading. */
function writeAxes(axes: Float64Array, way: number): void {
  axes.set([Math.cos(way), 0, -Math.sin(way), 0, 1, 0, Math.sin(way), 0, Math.cos(way)]);
}

/** dst = lean with its difference from the centre scaled about x (pitch) and z (tilt). */
function leanScaled(dst: Float64Array, lean: Float64Array, centre: Float64Array, f: number, pitchBy: number, tiltBy: number): void {
  const v = new Float64Array(3);
  conjugateQuatFlat(dst, 0, centre, f * 4);
  multiplyQuatFlat(dst, 0, dst, 0, lean, f * 4);
  logQuatFlat(v, 0, dst, 0);
  v[0] *= 1 + pitchBy;
  v[2] *= 1 + tiltBy;
  expQuatFlat(dst, 0, v, 0);
  multiplyQuatFlat(dst, 0, centre, f * 4, dst, 0);
}

/** [frame][4]: the rotation that a joint swings about. */
function rotationCentres(clip: Clip, joint: number, settings: Middle, context: PatchContext): Float64Array {
  const n = clip.frameCount;
  const lane = rotationLane(clip, joint);
  const out = new Float64Array(n * 4);
  if (settings.about === "trend") {
    for (let c = 0; c < 4; c++) lowPass(lane, n, c, 4, clip.fps, 1 / (2 * settings.trendInSeconds)).forEach((v, f) => out.fill(v, f * 4 + c, f * 4 + c + 1));
  } else {
    for (let c = 0; c < 4; c++) {
      let value = 0;
      if (settings.about === "pose") value = lane[settings.poseFrame * 4 + c];
      else for (let f = context.start; f <= context.end; f++) value += lane[f * 4 + c];
      for (let f = 0; f < n; f++) out[f * 4 + c] = value;
    }
  }
  for (let f = 0; f < n; f++) normalizeQuatFlat(out, f * 4);
  return out;
}

function partScaled(dst: Float64Array, rotations: Float64Array, o: number, centre: Float64Array, f: number, by: number, axes: readonly string[]): void {
  const v = new Float64Array(3);
  conjugateQuatFlat(dst, 0, centre, f * 4);
  multiplyQuatFlat(dst, 0, dst, 0, rotations, o);
  logQuatFlat(v, 0, dst, 0);
  ["x", "y", "z"].forEach((axis, c) => {
    if (axes.includes(axis)) v[c] *= 1 + by;
  });
  expQuatFlat(dst, 0, v, 0);
  multiplyQuatFlat(dst, 0, centre, f * 4, dst, 0);
}

/** How far the hips and chosen parts move over a range: centimetres and degrees from least to most. */
export interface MotionRange {
  readonly swayCm: number;
  readonly surgeCm: number;
  readonly bobCm: number;
  readonly swivelDegrees: number;
}

/** Range of the hips' movement about their average over frames start..end. */
export function rangeOfMotion(motion: Motion, start: number, end: number): MotionRange {
  const hips = hipsCourse(motion);
  const middle = centres(hips, { about: "average", trendInSeconds: 1, poseFrame: 0 }, { start, end }, motion.clip.fps);
  const axes = new Float64Array(9);
  writeAxes(axes, middle.way[0]);
  const spread = (read: (f: number) => number) => {
    let least = Number.POSITIVE_INFINITY;
    let most = Number.NEGATIVE_INFINITY;
    for (let f = start; f <= end; f++) {
      const v = read(f);
      least = Math.min(least, v);
      most = Math.max(most, v);
    }
    return most - least;
  };
  const off = (f: number, i: number) => [0, 1, 2].reduce((sum, c) => sum + axes[i * 3 + c] * (hips.place[f * 3 + c] - middle.place[f * 3 + c]), 0);
  return {
    swayCm: spread((f) => off(f, 0)) * 100,
    bobCm: spread((f) => off(f, 1)) * 100,
    surgeCm: spread((f) => off(f, 2)) * 100,
    swivelDegrees: (spread((f) => hips.yaw[f]) * 180) / Math.PI,
  };
}
