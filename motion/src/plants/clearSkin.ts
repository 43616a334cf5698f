import type { FootSkin } from "../character/footSkin.ts";
import type { Clip } from "../clip/clip.ts";
import type { Ground } from "../ground/ground.ts";
import { expQuatFlat } from "../math/quat.ts";
import { runningMean, smoothEnvelope } from "../signal/filters.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { FootPose } from "./footPose.ts";
import type { FootTargets } from "./footTargets.ts";

/** What a foot's skin is kept out of, and how much at each frame (0..1). */
export interface Clearing {
  readonly ground: Ground;
  readonly weights: Float64Array;
  /** the body's height, metres */
  readonly height: number;
}

/** What is deeper, share of the body's height, stands inside something, and is left there. */
const INSIDE = 0.08;
/** A foot is turned no further than this, radians: beyond that it is raised. */
const FURTHEST = (20 * Math.PI) / 180;
/** Turns are evened over so long to either side, lifts and bends come and go within so long, seconds. */
const EVEN_SECONDS = 0.03;
const COME_SECONDS = 0.06;
/** Over this long what a foot turns about goes over from ball to heel, seconds. */
const OVER_SECONDS = 0.08;
/** Skin is looked at so often, times a second: between, feet are where they are on either side. */
const LOOKS_A_SECOND = 120;
/** Turns are found so often, times a second. */
const TURNS_A_SECOND = 60;
/** Turns and bends below this are none, radians. */
const NOTHING = 1e-4;

/**
 * A leg's targets changed so that no skin of the foot is in the ground: it is turned about its ball (at the height of its heel while it rests on that alone; a hoof about its own joint) by the least turn about level axes, toes bend,
 * and what is still in the ground then is raised. What rests stays where it is but for that. Returns what its toe or hoof is turned by, [frame][4] in its own frame, null where it is not; targets of frames whose skin is out of the
 * ground keep their bits. `clip` says how toes are turned in their feet.
 */
export function clearSkin(foot: FootSkin, targets: FootTargets, skeleton: Skeleton, clip: Clip, { ground, weights, height }: Clearing): Float64Array | null {
  const { frameCount: n, fps } = clip;
  const pose = new FootPose(foot, targets, skeleton, clip, ground, INSIDE * height);
  const half = (seconds: number) => Math.max(1, Math.round(seconds * fps));
  const step = Math.max(1, Math.floor(fps / LOOKS_A_SECOND));
  const apart = Math.max(1, Math.floor(fps / TURNS_A_SECOND));
  const course = () => new Float64Array(n);
  const [turnsX, turnsZ, bends, lacks] = [course(), course(), course(), course()];
  const found = new Float64Array(3);
  const deep = new Uint8Array(n);
  for (let f = 0; f < n; f += step) {
    if (weights[f] === 0 || !pose.near(f)) continue;
    pose.load(f);
    pose.measure();
    if (pose.footDepth <= 0 && pose.toeDepth <= 0) continue;
    const last = Math.min(n, f + step);
    deep.fill(1, f, last);
    if ((foot.hoof ? pose.toeDepth : pose.footDepth) <= 0) continue;
    // Turns are evened over more than lies between: every so many looks one is found.
    if (f % apart !== 0 && f > 0 && (turnsX[f - 1] !== 0 || turnsZ[f - 1] !== 0)) {
      turnsX.fill(turnsX[f - 1], f, last);
      turnsZ.fill(turnsZ[f - 1], f, last);
      continue;
    }
    pose.turnNeeded(found);
    const size = Math.hypot(found[0], found[1]);
    const kept = weights[f] * (size > FURTHEST ? FURTHEST / size : 1);
    turnsX.fill(kept * found[0], f, last);
    turnsZ.fill(kept * found[1], f, last);
  }
  if (!deep.includes(1)) return null;
  const [x, z] = [turnsX, turnsZ].map((list) => runningMean(list, half(EVEN_SECONDS)));
  // Where it stands on the tip of its toe, that stays where it is whatever turns and bends.
  const tips = foot.tip && targets.onTip.includes(1) ? smoothEnvelope(targets.onTip, half(COME_SECONDS)) : null;
  const tipPlaces = new Float64Array(tips ? n * 3 : 0);
  tips?.forEach((share, f) => {
    if (share === 0) return;
    pose.load(f);
    pose.tipAt(tipPlaces, f * 3);
  });
  const over = runningMean(targets.onHeel, half(OVER_SECONDS));
  const turned = new Float64Array(n * 4);
  for (let f = 0; f < n; f++) {
    turned[f * 4 + 3] = 1;
    if (Math.abs(x[f]) + Math.abs(z[f]) < NOTHING) continue;
    deep[f] = 1;
    if (foot.hoof) pose.hoofTurn(turned, f, x[f], z[f]);
    else pose.turn(f, x[f], z[f], over[f]);
  }
  for (let f = 0; f < n; f += step) {
    if (deep[f] === 0 || weights[f] === 0 || !pose.near(f)) continue;
    pose.load(f);
    const last = Math.min(n, f + step);
    if (foot.hoof) pose.bend(turned.subarray(f * 4, f * 4 + 4));
    pose.measure();
    if (foot.bend && pose.toeDepth > 0) bends.fill(weights[f] * pose.bendNeeded(), f, last);
    lacks.fill(weights[f] * Math.max(0, pose.footDepth, pose.toeDepth), f, last);
  }
  if (foot.bend && bends.some((bend) => bend > 0)) {
    const { hinge } = foot.bend;
    smoothEnvelope(bends, half(COME_SECONDS)).forEach((bend, f) => {
      if (bend > NOTHING) expQuatFlat(turned, f * 4, [bend * hinge[0], bend * hinge[1], bend * hinge[2]], 0);
    });
    for (let f = 0; f < n; f += step) {
      if (turned[f * 4 + 3] === 1 || weights[f] === 0 || !pose.near(f)) continue;
      pose.load(f);
      pose.bend(turned.subarray(f * 4, f * 4 + 4));
      pose.measure();
      lacks.fill(weights[f] * Math.max(0, pose.footDepth, pose.toeDepth), f, Math.min(n, f + step));
    }
  }
  const tip = new Float64Array(3);
  tips?.forEach((share, f) => {
    if (share === 0) return;
    pose.load(f);
    pose.bend(turned.subarray(f * 4, f * 4 + 4));
    pose.tipAt(tip, 0);
    for (const c of [0, 2]) targets.positions[f * 3 + c] += share * (tipPlaces[f * 3 + c] - tip[c]);
  });
  const raised = smoothEnvelope(lacks, half(COME_SECONDS));
  for (let f = 0; f < n; f++) targets.positions[f * 3 + 1] += raised[f];
  return foot.toe >= 0 ? turned : null;
}
