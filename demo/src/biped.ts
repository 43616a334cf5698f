import { makeTwoBoneReach, reachTwoBone, smoothEnvelope } from "@stride/motion";
import type { Character } from "./characters.ts";
import { type Performance, type Plan, PoseWriter, smoothKnots, stepsOf, trueContacts } from "./performance.ts";
import { seeded, wander } from "./random.ts";
import { footAt } from "./steps.ts";
import { about, plus, type Quat, times, turned, type Vec } from "./turn.ts";

/** Legs are never taken straighter than this share of their length. */
const FULLEST = 0.988;

/**
 * Performs a plan with a biped: feet on their steps, hips over the support, pelvis and chest counter-turning with the stride, arms
 * against the legs, head level; a little seeded wander keeps the rest alive.
 */
export function performBiped(character: Character, plan: Plan): Performance {
  const { skeleton, roles } = character;
  const writer = new PoseWriter(character, plan);
  const n = writer.clip.frameCount;
  const { style, fps } = plan;
  const joint = (role: keyof typeof roles): number => roles[role] ?? 0;
  const offset = (j: number): Vec => [skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]];
  const l1 = Math.hypot(...offset(joint("leftShin")));
  const l2 = Math.hypot(...offset(joint("leftFoot")));
  const stand = (l1 + l2) * 0.975 + character.ankleHeight - offset(joint("leftThigh"))[1];

  const [x, z] = smoothKnots(plan.support, n, fps, style.flow);
  const [heading] = smoothKnots(plan.heading, n, fps, 1.1);
  const [rise] = smoothKnots(plan.height, n, fps, 5);
  const sides = ["left", "right"] as const;
  const steps = { left: stepsOf(plan, "left"), right: stepsOf(plan, "right") };
  const random = seeded(plan.seed);
  const drift = Array.from({ length: 8 }, (_, i) => wander(random, 2.6 + 0.7 * i));

  const feet = sides.map((side) => Array.from({ length: n }, (_, f) => footAt(character, steps[side], f / fps)));
  const pelvisTurn = (f: number): Quat => {
    const ahead = strideOf(f);
    const sway = swayOf(f);
    return times(about("y", heading[f] - style.twist * ahead), about("x", style.lean * 0.4), about("z", style.sway * sway));
  };
  const strideOf = (f: number) => {
    const a = feet[0][f].ankle;
    const b = feet[1][f].ankle;
    return ((a[0] - b[0]) * Math.sin(heading[f]) + (a[2] - b[2]) * Math.cos(heading[f])) / (l1 + l2);
  };
  const swayOf = (f: number) => {
    const mid = [(feet[0][f].ankle[0] + feet[1][f].ankle[0]) / 2, (feet[0][f].ankle[2] + feet[1][f].ankle[2]) / 2];
    return Math.max(-1, Math.min(1, ((x[f] - mid[0]) * Math.cos(heading[f]) - (z[f] - mid[1]) * Math.sin(heading[f])) / 0.06));
  };
  // Hips sink by the smallest smooth amount at which both legs reach.
  const sink = smoothEnvelope(
    Array.from({ length: n }, (_, f) => {
      const turn = pelvisTurn(f);
      return Math.max(
        ...sides.map((side, s) => {
          const hip = plus([x[f], stand + rise[f], z[f]], turned(turn, offset(joint(`${side}Thigh`))));
          const foot = feet[s][f].ankle;
          const flat = Math.hypot(hip[0] - foot[0], hip[2] - foot[2]);
          const reach = Math.sqrt(Math.max(0, ((l1 + l2) * FULLEST) ** 2 - flat * flat));
          return Math.max(0, hip[1] - foot[1] - reach);
        }),
      );
    }),
    Math.round(0.07 * fps),
  );

  const reach = makeTwoBoneReach();
  for (let f = 0; f < n; f++) {
    const t = f / fps;
    const ahead = strideOf(f);
    const turn = pelvisTurn(f);
    const hips: Vec = [x[f], stand + rise[f] - sink[f], z[f]];
    const worlds = new Map<number, Quat>([[joint("hips"), turn]]);
    const locals = new Map<number, Quat>();
    // Spine: undo the pelvis' turn and roll, and carry the chest the other way.
    const life = style.life;
    const yaw = (style.twist * 1.9 * ahead + 0.02 * life * drift[0](t)) / 3;
    const roll = (-style.sway * 1.1 * swayOf(f)) / 3;
    const bend = (style.lean + 0.012 * life * Math.sin(2 * Math.PI * 0.27 * t)) / 3;
    for (const role of ["spine", "spine2", "chest"] as const) locals.set(joint(role), times(about("y", yaw), about("x", bend), about("z", roll)));
    locals.set(joint("neck"), times(about("y", -0.5 * style.twist * ahead + 0.05 * life * drift[1](t)), about("x", -0.5 * style.lean)));
    locals.set(
      joint("head"),
      times(about("y", -0.4 * style.twist * ahead + 0.06 * life * drift[2](t)), about("x", -0.8 * style.lean + 0.025 * life * drift[3](t))),
    );
    sides.forEach((side, s) => {
      const sign = side === "left" ? 1 : -1;
      const swing = -sign * ahead * style.armSwing + 0.03 * life * drift[4 + s](t);
      locals.set(joint(`${side}Collar`), about("y", -0.06 * sign * swing * 2));
      locals.set(joint(`${side}UpperArm`), times(about("x", -swing), about("z", -sign * (Math.PI / 2 - style.armsOut))));
      locals.set(joint(`${side}Forearm`), about("y", -sign * (style.elbow + 0.5 * Math.max(0, swing) + 0.03 * life * drift[6](t))));
      locals.set(joint(`${side}Hand`), about("z", -sign * (0.08 + 0.05 * life * drift[7](t))));
      for (const finger of ["Thumb", "Index", "Middle", "Ring", "Little"] as const) {
        ([finger, `${finger}2`, `${finger}3`] as const).forEach((part, i) => {
          const j = roles[`${side}${part}`];
          const curl = finger === "Thumb" ? 0.12 : 0.2 + 0.09 * i + (finger === "Little" ? 0.08 : 0) + 0.02 * drift[(i + s) % 8](t);
          if (j !== undefined) locals.set(j, about("z", -sign * curl));
        });
      }
      const foot = feet[s][f];
      const hip = plus(hips, turned(turn, offset(joint(`${side}Thigh`))));
      const base = times(about("y", (heading[f] + foot.heading) / 2), about("x", -0.25));
      const bent = times(base, about("x", 0.5));
      const knee = plus(hip, turned(base, offset(joint(`${side}Shin`))));
      const ankle = plus(knee, turned(bent, offset(joint(`${side}Foot`))));
      const hinge = turned(base, [1, 0, 0]);
      reachTwoBone(reach, [...hip], 0, [...knee], 0, [...ankle], 0, [...hip], [...foot.ankle], [...hinge]);
      worlds.set(joint(`${side}Thigh`), times(Array.from(reach.upper) as unknown as Quat, base));
      worlds.set(joint(`${side}Shin`), times(Array.from(reach.lower) as unknown as Quat, bent));
      worlds.set(joint(`${side}Foot`), foot.turn);
      const toe = roles[`${side}Toe`];
      if (toe !== undefined) locals.set(toe, about("x", foot.toeBend));
    });
    writer.write(f, hips, worlds, locals);
  }
  return { character, clip: writer.clip, contacts: trueContacts(character, plan) };
}
