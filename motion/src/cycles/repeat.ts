import type { Character } from "../character/character.ts";
import { legLengthOf } from "../character/legLength.ts";
import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import { splinedClip } from "../clip/spline.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { quinticStep } from "../math/ramp.ts";
import type { Mirror } from "../mirror/mirror.ts";
import { mirroredClip } from "../mirror/mirrorClip.ts";
import { headingOf } from "../pose/spaces.ts";
import { afterMove, inverseMove, type LevelMove, movePower, NO_MOVE, rigidOf, turnedLevel, wrapped } from "../travel/level.ts";
import { closedClip, type Stretch } from "./close.ts";

/** What is repeated: a stretch of frames (not rounded), and whether only half of it is authored. */
export interface CyclePlan {
  readonly from: number;
  readonly to: number;
  /** the half that the other one is made of as its mirror image */
  readonly half: null | "first" | "second";
  /** frames on both sides of the seam over which the ends are brought together; null: all */
  readonly over: number | null;
  /** the movement from one repeat to the next, where it is known already */
  readonly move?: LevelMove;
}

/** A turn of the heading from one cycle to the next below the first figure is no turn, from the second on it is one, radians; in between partly. */
const TURNS = [(4 * Math.PI) / 180, (8 * Math.PI) / 180] as const;
/** The same for its way over the ground and its rise, shares of leg length. */
const TRAVELS = [0.03, 0.08] as const;
const RISES = [0.05, 0.1] as const;

function believed(size: number, [none, all]: readonly [number, number]): number {
  return quinticStep((Math.abs(size) - none) / (all - none));
}

/** Place (x, z; height) and heading of the hips on a (fractional) frame. */
function placeOf(character: Character, clip: Clip, frame: number): { x: number; y: number; z: number; heading: number } {
  const pose = new PoseFrame(character.skeleton, clip);
  pose.load(splinedClip(clip, Float64Array.of(frame)), 0);
  const o = character.rig.hips * 3;
  const p = pose.worldPositions;
  return { x: p[o], y: p[o + 1], z: p[o + 2], heading: headingOf(pose, character.rig) };
}

/** A cycle that closes: how it goes on from one repeat to the next, and its frames at any phase. */
export interface Cycle {
  /** frames (not rounded) of one cycle */
  readonly length: number;
  /** the movement from one repeat to the next */
  readonly move: LevelMove;
  /** The poses at these phases, frames since the start of the first repeat; those behind it travelled as often. */
  at(frames: Float64Array): Clip;
}

/**
 * One cycle of a clip whose end is its start again, travelled: its ends brought together, travel (and a turn of the heading, and a rise) kept apart. With
 * `half` only half of it is taken, and the other half is its mirror image, so that a lopsided gait becomes even.
 */
export function closedCycle(character: Character, clip: Clip, plan: CyclePlan): Cycle {
  const leg = legLengthOf(character);
  const { skeleton } = character;
  const middle = (plan.from + plan.to) / 2;
  const [start, end] = plan.half === null ? [plan.from, plan.to] : plan.half === "first" ? [plan.from, middle] : [middle, plan.to];
  const [a, b] = [placeOf(character, clip, start), placeOf(character, clip, end)];
  const mirror: Mirror = { normal: [Math.cos(a.heading), 0, -Math.sin(a.heading)], x: a.x, z: a.z };
  const turn = wrapped(b.heading - a.heading);
  const yaw = plan.half === null ? turn * believed(turn, TURNS) : turn;
  const [rx, rz] = turnedLevel(a.x, a.z, yaw);
  const level = Math.hypot(b.x - a.x, b.z - a.z);
  const share = plan.half === null ? believed(level, [TRAVELS[0] * leg, TRAVELS[1] * leg]) : 1;
  // Of a half the whole's rise: hips that are higher half-way come down again.
  const rise = plan.half === null ? b.y - a.y : (placeOf(character, clip, plan.to).y - placeOf(character, clip, plan.from).y) / 2;
  // Without travel the body stays where it is, turned about its own place.
  const move: LevelMove = plan.move ?? {
    yaw,
    x: a.x + share * (b.x - a.x) - rx,
    y: rise * believed(rise, [RISES[0] * leg, RISES[1] * leg]),
    z: a.z + share * (b.z - a.z) - rz,
  };
  const moved = (list: Clip, by: LevelMove) => {
    const rigid = rigidOf(by);
    return moveBody(skeleton, list, () => rigid);
  };
  const reflected = (list: Clip) => mirroredClip(character, list, mirror);
  const stretch: Stretch = {
    start,
    end,
    over: plan.over,
    later: (list) => moved(plan.half === null ? list : reflected(list), move),
    earlier: (list) => {
      const back = moved(list, inverseMove(move));
      return plan.half === null ? back : reflected(back);
    },
  };
  const length = plan.to - plan.from;
  const whole = plan.half === null ? move : { ...afterHalves(move, mirror), y: 2 * move.y };
  const authored = end - start;
  return {
    length,
    move: whole,
    at(frames) {
      const within = frames.map((f) => f - authored * segmentOf(f, authored));
      const closed = closedClip(
        splinedClip(
          clip,
          within.map((f) => f + start),
        ),
        clip,
        stretch,
        (f) => within[f],
      );
      const odd = plan.half === null ? null : reflected(closed);
      const segment = (f: number) => segmentOf(frames[f], authored);
      const cycleOf = (f: number) => (plan.half === null ? segment(f) : Math.floor(segment(f) / 2));
      const isOdd = (f: number) => plan.half !== null && segment(f) % 2 !== 0;
      const placed = (list: Clip, wanted: (f: number) => boolean, first: LevelMove) =>
        moveBody(skeleton, list, (f) => (wanted(f) ? rigidOf(afterMove(first, movePower(whole, cycleOf(f)))) : null));
      const even = placed(closed, (f) => !isOdd(f), NO_MOVE);
      return odd ? picked(even, placed(odd, isOdd, move), isOdd) : even;
    },
  };
}

/** Which repeat of a stretch a frame lies in; the frame at a seam ends the one before it. */
function segmentOf(frame: number, length: number): number {
  return Math.max(0, Math.ceil(frame / length - 1e-9) - 1);
}

/** From one cycle to the next where each half is the mirror image of the other: H after the mirror, twice. */
function afterHalves(half: LevelMove, { normal, x, z }: Mirror): LevelMove {
  // M = H·S·H·S with S the mirror: S·H·S turns the other way, and takes H's way of the mirror's place seen in it.
  const place = (px: number, pz: number): [number, number] => {
    const along = 2 * ((px - x) * normal[0] + (pz - z) * normal[2]);
    return [px - along * normal[0], pz - along * normal[2]];
  };
  const [ox, oz] = place(0, 0);
  const [tx, tz] = turnedLevel(ox, oz, half.yaw);
  const [qx, qz] = place(tx + half.x, tz + half.z);
  return afterMove({ yaw: -half.yaw, x: qx, y: 0, z: qz }, { ...half, y: 0 });
}

/** A clip's frames, or another's where that is wanted. */
function picked(clip: Clip, other: Clip, wanted: (frame: number) => boolean): Clip {
  const size = (track: Float32Array, frames: number) => track.length / frames;
  const mix = (list: Clip["rotations"], others: Clip["rotations"]) =>
    list.map((track, lane) => {
      let first = 0;
      return track.map((chunk, c) => {
        const frames = Math.min(64, clip.frameCount - first);
        const per = size(chunk, frames);
        const out = chunk.slice();
        for (let f = 0; f < frames; f++) if (wanted(first + f)) out.set(others[lane][c].subarray(f * per, (f + 1) * per), f * per);
        first += frames;
        return out;
      });
    });
  return { ...clip, rotations: mix(clip.rotations, other.rotations), positions: mix(clip.positions, other.positions) };
}
