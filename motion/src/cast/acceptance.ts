import { type LimitWay, type PastLimit, pastLimits } from "../character/limits.ts";
import { type PartRef, partOf } from "../character/parts.ts";
import type { Role, Side } from "../character/roles.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { multiplyQuatFlat, quatAngleFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { withFlatSoles } from "./flatSoles.ts";
import { castChange, castPartners } from "./onto.ts";
import { type PalmOver, palmsOver } from "./palmsOver.ts";
import { Depths, type SkinDepth, type Standing } from "./standing.ts";

/** How a cast has come out, part by part. */
export interface Acceptance {
  /** how much longer the new legs and arms are */
  readonly legScale: number;
  readonly armScale: number;
  /** where the hands' joints were nearest to each other: how far apart then, and now; null without two arms. Centimetres, at a frame */
  readonly hands: { readonly frame: number; readonly wasCm: number; readonly isCm: number; readonly wantedCm: number } | null;
  /** where a palm was nearest to its own body's surface, each side: which part, how far then, now, and how far it would be in proportion; centimetres */
  readonly touches: readonly {
    readonly side: Side;
    readonly part: PartRef;
    readonly frame: number;
    readonly wasCm: number;
    readonly isCm: number;
    readonly wantedCm: number;
  }[];
  /** what the body stands on, worst first */
  readonly standing: readonly Standing[];
  /** where its skin goes deepest through the floor; null where it has none, or none of it does */
  readonly skinDepth: SkinDepth | null;
  /** joints past what they may do, furthest first: how far, at which frame, in how many frames; null where nothing says what they may do */
  readonly limits:
    | readonly { readonly part: PartRef; readonly way: LimitWay; readonly degrees: number; readonly frame: number; readonly frames: number }[]
    | null;
  /** how far parts are turned from how their partners are, in the mean and at most, degrees; most first */
  readonly angles: readonly { readonly role: Role; readonly meanDegrees: number; readonly worstDegrees: number }[];
}

/** Frames that are looked at of long motions. */
const MOST_FRAMES = 600;

/** Compares a cast with what was cast, frame for frame. */
export function acceptanceOf(source: Motion, cast: Motion): Acceptance {
  const partner = castPartners(cast.character, source.character);
  const change = withFlatSoles(castChange(cast.character, source.character), cast, source);
  const roles = (Object.entries(cast.character.body.roles) as [Role, number][]).filter(([, joint]) => partner[joint] >= 0);
  const changes = roles.map(([, joint]) => change(joint, partner[joint]));
  const [from, to] = [new PoseFrame(source.character.skeleton, source.clip), new PoseFrame(cast.character.skeleton, cast.clip)];
  const sums = new Float64Array(roles.length);
  const worst = new Float64Array(roles.length);
  const wanted = new Float64Array(4);
  const frames = Math.min(source.clip.frameCount, cast.clip.frameCount);
  const step = Math.max(1, Math.ceil(frames / MOST_FRAMES));
  const hands = (["left", "right"] as const).map((side) => [source, cast].map((m) => m.character.body.roles[`${side}Hand`] ?? -1));
  const paired = hands.every((pair) => pair.every((joint) => joint >= 0));
  const apart = (pose: PoseFrame, a: number, b: number) => Math.hypot(...[0, 1, 2].map((c) => pose.worldPositions[a * 3 + c] - pose.worldPositions[b * 3 + c]));
  const over = palmsOver(cast.character, source.character);
  const touched = new Map<Side, PalmOver & { frame: number }>();
  const depths = new Depths(cast);
  let nearest: { frame: number; was: number; is: number } | null = null;
  let count = 0;
  for (let f = 0; f < frames; f += step) {
    from.load(source.clip, f);
    to.load(cast.clip, f);
    from.update();
    to.update();
    count++;
    roles.forEach(([, joint], i) => {
      multiplyQuatFlat(wanted, 0, from.worldRotations, partner[joint] * 4, changes[i], 0);
      const degrees = (quatAngleFlat(wanted, 0, to.worldRotations, joint * 4) * 180) / Math.PI;
      sums[i] += degrees;
      worst[i] = Math.max(worst[i], degrees);
    });
    for (const palm of over(from, to)) {
      const known = touched.get(palm.side);
      if (!known || palm.was < known.was) touched.set(palm.side, { ...palm, frame: f });
    }
    depths.look(to, f);
    if (!paired) continue;
    const was = apart(from, hands[0][0], hands[1][0]);
    if (!nearest || was < nearest.was) nearest = { frame: f, was, is: apart(to, hands[0][1], hands[1][1]) };
  }
  const arm = (m: Motion) => m.character.rig.limbs.find((l) => l.kind === "arm")?.length ?? 0;
  const leg = (m: Motion) => m.character.rig.limbs.find((l) => l.kind === "leg")?.length ?? 0;
  const armScale = arm(source) > 0 ? arm(cast) / arm(source) : 1;
  const past = pastLimits(cast.character, cast.clip);
  const worstOf = new Map<string, { first: PastLimit; frames: number }>();
  for (const event of past) {
    const key = `${event.joint} ${event.way}`;
    const known = worstOf.get(key);
    worstOf.set(key, { first: known?.first ?? event, frames: (known?.frames ?? 0) + event.end - event.start + 1 });
  }
  return {
    touches: [...touched.values()].map(({ side, to: joint, frame, was, is }) => ({
      side,
      part: partOf(cast.character, joint),
      frame,
      wasCm: 100 * was,
      isCm: 100 * is,
      wantedCm: 100 * was * armScale,
    })),
    standing: depths.standing(),
    skinDepth: depths.skinDepth(),
    limits:
      cast.character.limits.length === 0
        ? null
        : [...worstOf.values()].map(({ first, frames: count }) => ({
            part: partOf(cast.character, first.joint),
            way: first.way,
            degrees: first.value,
            frame: first.at,
            frames: count,
          })),
    legScale: leg(source) > 0 ? leg(cast) / leg(source) : 1,
    armScale,
    hands: nearest && { frame: nearest.frame, wasCm: 100 * nearest.was, isCm: 100 * nearest.is, wantedCm: 100 * nearest.was * armScale },
    angles: roles.map(([role], i) => ({ role, meanDegrees: sums[i] / count, worstDegrees: worst[i] })).sort((a, b) => b.worstDegrees - a.worstDegrees),
  };
}
