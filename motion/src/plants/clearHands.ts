import type { HandSkin } from "../character/handSkin.ts";
import { placeOf } from "../character/skinExtremes.ts";
import { type Clip, readPosition, readRotation } from "../clip/clip.ts";
import { groundHeight } from "../ground/ground.ts";
import { positionSlots } from "../kinematics/forward.ts";
import { expQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { quinticStep } from "../math/ramp.ts";
import { runningMean, smoothEnvelope } from "../signal/filters.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import type { Clearing } from "./clearSkin.ts";
import type { EndTargets } from "./footTargets.ts";

/** Skin that is less deep is out of the ground, metres. */
const SKIMS = 0.001;
/** What is deeper, share of the body's height, stands inside something, and is left there. */
const INSIDE = 0.15;
/** A hand whose palm faces no further from the ground than the first is turned, beyond the second it lies on its back, radians: it is raised, not turned over. */
const TURNED_OVER = [(80 * Math.PI) / 180, (130 * Math.PI) / 180] as const;
/** Turns are evened over so long to either side, lifts come and go within so long, seconds. */
const EVEN_SECONDS = 0.06;
const COME_SECONDS = 0.1;
/** Turns below this are none, radians. */
const NOTHING = 1e-5;
/** Steps in which the least share of a turn is looked for. */
const HALVINGS = 7;

/** How near the ground a hand has to come for its skin to be looked at. */
export function comesLow({ reach }: HandSkin, { positions }: Pick<EndTargets, "positions">, { ground }: Pick<Clearing, "ground">): boolean {
  for (let o = 0; o < positions.length; o += 3) if (positions[o + 1] - groundHeight(ground, positions[o], positions[o + 2]) < reach) return true;
  return false;
}

/**
 * A hand's targets changed so that none of its skin is in the ground: it is turned about its palm towards lying flat on it, by the least share of that turn with which hand and fingers are out of the ground, and raised by what is still in it.
 * `clip` says how its fingers are bent. Targets of frames whose skin is out of the ground keep their bits.
 */
export function clearHand(hand: HandSkin, targets: EndTargets, skeleton: Skeleton, clip: Clip, clearing: Clearing): void {
  const { frameCount: n, fps } = clip;
  const { weights } = clearing;
  const pose = new HandPose(hand, targets, skeleton, clip, clearing);
  const half = (seconds: number) => Math.max(1, Math.round(seconds * fps));
  const turns = [0, 1, 2].map(() => new Float64Array(n));
  const way = new Float64Array(3);
  let any = false;
  for (let f = 0; f < n; f++) {
    if (weights[f] === 0 || !pose.near(f)) continue;
    pose.load(f);
    if (pose.depth(NO_TURN) <= 0) continue;
    any = true;
    if (!pose.towardsFlat(way)) continue;
    const share = pose.leastShare(way);
    for (let c = 0; c < 3; c++) turns[c][f] = weights[f] * share * way[c];
  }
  if (!any) return;
  const even = turns.map((list) => runningMean(list, half(EVEN_SECONDS)));
  const lacks = new Float64Array(n);
  for (let f = 0; f < n; f++) {
    for (let c = 0; c < 3; c++) way[c] = even[c][f];
    const turns = Math.hypot(...way) > NOTHING;
    if (!turns && (weights[f] === 0 || !pose.near(f))) continue;
    pose.load(f);
    lacks[f] = weights[f] * Math.max(0, pose.depth(way));
    if (turns) pose.turn(f, way);
  }
  const raised = smoothEnvelope(lacks, half(COME_SECONDS));
  for (let f = 0; f < n; f++) targets.positions[f * 3 + 1] += raised[f];
}

const NO_TURN = new Float64Array(3);

/** A hand as its targets have it, a frame at a time. */
class HandPose {
  /** places and rotations of hand and fingers in the hand's frame, [joint of the skeleton] */
  private readonly positions: Float64Array;
  private readonly rotations: Float64Array;
  private readonly slots: Int16Array;
  /** places of the skin in the hand's frame, from the palm [place][3] */
  private readonly places: Float64Array;
  private readonly palm = new Float64Array(3);
  private readonly turned = new Float64Array(4);
  private readonly q = new Float64Array(4);
  private readonly v = new Float64Array(3);

  constructor(
    private readonly hand: HandSkin,
    private readonly targets: EndTargets,
    private readonly skeleton: Skeleton,
    private readonly clip: Clip,
    private readonly clearing: Clearing,
  ) {
    this.positions = new Float64Array(skeleton.names.length * 3);
    this.rotations = new Float64Array(skeleton.names.length * 4);
    this.rotations[hand.hand * 4 + 3] = 1;
    this.slots = positionSlots(clip);
    this.places = new Float64Array(hand.places.length * 3);
  }

  /** Can anything of the hand be near the ground at a frame? */
  near(f: number): boolean {
    const { positions: p } = this.targets;
    const { ground } = this.clearing;
    return ground.shapes.length > 0 || p[f * 3 + 1] - groundHeight(ground, p[f * 3], p[f * 3 + 2]) <= this.hand.reach;
  }

  /** Takes up a frame. */
  load(f: number): void {
    const { hand, targets, skeleton, clip, slots, positions, rotations, v, q } = this;
    const o = f * 3;
    for (let c = 0; c < 4; c++) this.turned[c] = targets.rotations[f * 4 + c];
    rotateVecFlat(this.palm, 0, this.turned, 0, hand.palm, 0);
    for (let c = 0; c < 3; c++) this.palm[c] += targets.positions[o + c];
    for (const joint of hand.fingers) {
      const above = skeleton.parents[joint];
      if (slots[joint] >= 0) readPosition(clip, slots[joint], f, v, 0);
      else for (let c = 0; c < 3; c++) v[c] = skeleton.offsets[joint * 3 + c];
      rotateVecFlat(v, 0, rotations, above * 4, v, 0);
      for (let c = 0; c < 3; c++) positions[joint * 3 + c] = positions[above * 3 + c] + v[c];
      readRotation(clip, joint, f, q, 0);
      multiplyQuatFlat(rotations, joint * 4, rotations, above * 4, q, 0);
    }
    hand.places.forEach((place, i) => {
      placeOf(v, place, positions, rotations);
      for (let c = 0; c < 3; c++) this.places[i * 3 + c] = v[c] - hand.palm[c];
    });
  }

  /** How deep the deepest place is with the hand turned about its palm by a rotation vector in the world, metres; 0 or less: none is in the ground, or the hand is inside something. */
  depth(way: Float64Array): number {
    const { q, v, palm, turned, places } = this;
    const { ground, height } = this.clearing;
    multiplyQuatFlat(q, 0, expQuatFlat(q, 0, way, 0), 0, turned, 0);
    let most = Number.NEGATIVE_INFINITY;
    for (let o = 0; o < places.length; o += 3) {
      rotateVecFlat(v, 0, q, 0, places, o);
      most = Math.max(most, groundHeight(ground, palm[0] + v[0], palm[2] + v[2]) - palm[1] - v[1] - SKIMS);
    }
    return most > INSIDE * height ? 0 : most;
  }

  /** The turn that lays the palm onto the ground (a share of it, the more the hand lies on its back), a rotation vector in the world; false where there is none. */
  towardsFlat(out: Float64Array): boolean {
    const { v, turned, hand } = this;
    rotateVecFlat(v, 0, turned, 0, hand.faces, 0);
    const angle = Math.acos(Math.max(-1, Math.min(1, -v[1])));
    if (angle > TURNED_OVER[1] || angle < 1e-4) return false;
    const share = quinticStep(Math.max(0, Math.min(1, (TURNED_OVER[1] - angle) / (TURNED_OVER[1] - TURNED_OVER[0]))));
    // Square to where the palm faces and to straight down.
    const size = Math.hypot(v[0], v[2]);
    out[0] = (share * angle * v[2]) / size;
    out[1] = 0;
    out[2] = (-share * angle * v[0]) / size;
    return true;
  }

  /** The least share of a turn with which nothing is in the ground; all of it where something always is. */
  leastShare(way: Float64Array): number {
    const part = new Float64Array(3);
    const deep = (share: number) => {
      for (let c = 0; c < 3; c++) part[c] = share * way[c];
      return this.depth(part);
    };
    if (deep(1) > 0) return 1;
    let [low, high] = [0, 1];
    for (let i = 0; i < HALVINGS; i++) {
      const middle = (low + high) / 2;
      if (deep(middle) > 0) low = middle;
      else high = middle;
    }
    return high;
  }

  /** Turns the hand at a frame about its palm. */
  turn(f: number, way: Float64Array): void {
    const { targets, palm, hand, q, v } = this;
    multiplyQuatFlat(targets.rotations, f * 4, expQuatFlat(q, 0, way, 0), 0, targets.rotations, f * 4);
    rotateVecFlat(v, 0, targets.rotations, f * 4, hand.palm, 0);
    for (let c = 0; c < 3; c++) targets.positions[f * 3 + c] = palm[c] - v[c];
  }
}
