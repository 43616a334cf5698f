import { makeTwoBoneReach, reachTwoBone } from "@stride/motion";
import type { Character } from "./characters.ts";
import { type Performance, type Plan, PoseWriter, smoothKnots, stepsOf, trueContacts } from "./performance.ts";
import { seeded, wander } from "./random.ts";
import { footAt } from "./steps.ts";
import { about, inverse, plus, type Quat, times, turned, type Vec } from "./turn.ts";

/** Performs a plan with a quadruped: hips over the hind hooves, chest over the fore ones, spine bending between, neck nodding, tail trailing. */
export function performQuadruped(character: Character, plan: Plan): Performance {
  const { skeleton, roles } = character;
  const writer = new PoseWriter(character, plan);
  const n = writer.clip.frameCount;
  const { fps, style } = plan;
  const joint = (role: keyof typeof roles): number => roles[role] ?? 0;
  const offset = (j: number): Vec => [skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]];
  // From hips to ground, and from the cannon's head to hoof and ground.
  const restDepth = -(offset(joint("leftThigh"))[1] + offset(joint("leftShin"))[1] + offset(joint("leftFoot"))[1]) + character.ankleHeight;
  const [x, z] = smoothKnots(plan.support, n, fps, style.flow);
  const [heading] = smoothKnots(plan.heading, n, fps, 1.1);
  const [rise] = smoothKnots(plan.height, n, fps, 4);
  const random = seeded(plan.seed);
  const drift = Array.from({ length: 6 }, (_, i) => wander(random, 2.2 + 0.6 * i));
  const limbs = [
    { limb: "leftHind", upper: joint("leftThigh"), lower: joint("leftShin"), end: joint("leftFoot"), toe: joint("leftToe"), base: joint("hips") },
    { limb: "rightHind", upper: joint("rightThigh"), lower: joint("rightShin"), end: joint("rightFoot"), toe: joint("rightToe"), base: joint("hips") },
    { limb: "leftFore", upper: joint("leftUpperArm"), lower: joint("leftForearm"), end: joint("leftHand"), toe: joint("leftHandEnd"), base: joint("chest") },
    {
      limb: "rightFore",
      upper: joint("rightUpperArm"),
      lower: joint("rightForearm"),
      end: joint("rightHand"),
      toe: joint("rightHandEnd"),
      base: joint("chest"),
    },
  ] as const;
  const tracks = limbs.map(({ limb, toe, end }) => {
    // The step's pivot is the hoof's joint, as high over the ground as in the hind leg; the cannon bone above it leans through the stand.
    const ball = placeBelow(character, toe, end);
    const hoof = { ...character, ball, heel: undefined, ankleHeight: character.ankleHeight + character.ball[1] - ball[1] };
    return Array.from({ length: n }, (_, f) => footAt(hoof, stepsOf(plan, limb), f / fps));
  });
  const reach = makeTwoBoneReach();
  for (let f = 0; f < n; f++) {
    const t = f / fps;
    const lead = (a: number, b: number) => {
      const d = plus(tracks[a][f].ankle, tracks[b][f].ankle, -1);
      return d[0] * Math.sin(heading[f]) + d[2] * Math.cos(heading[f]);
    };
    const hindLead = lead(0, 1);
    const foreLead = lead(2, 3);
    const turn = times(about("y", heading[f] - 0.25 * hindLead), about("z", 0.12 * hindLead * style.sway * 10), about("x", 0.02 * Math.sin(4 * Math.PI * t)));
    const hips: Vec = [x[f], restDepth * 0.9 + rise[f], z[f]];
    const worlds = new Map<number, Quat>([[joint("hips"), turn]]);
    const locals = new Map<number, Quat>();
    const bend = (0.25 * hindLead + 0.2 * foreLead) / 3;
    for (const role of ["spine", "spine2", "chest"] as const) locals.set(joint(role), about("y", bend));
    const nod = 0.07 * Math.abs(foreLead) * 3 - 0.08 + 0.03 * drift[0](t);
    locals.set(joint("neck"), times(about("x", nod), about("y", 0.06 * drift[1](t))));
    locals.set(joint("neck2"), about("x", -0.6 * nod));
    locals.set(joint("head"), times(about("x", 0.1 - 0.5 * nod), about("y", 0.1 * drift[2](t))));
    (["tail", "tail2", "tail3"] as const).forEach((role, i) => {
      const lag = Math.max(0, f - Math.round((i + 1) * 0.07 * fps));
      const swing = tracks[0][lag].ankle[1] - tracks[1][lag].ankle[1];
      locals.set(joint(role), times(about("y", 1.1 * swing + 0.12 * drift[3](t - i * 0.1)), about("x", 0.15)));
    });
    // Legs reach from the joints they hang on; the trunk's world transforms follow from what is written so far.
    writer.write(f, hips, worlds, locals);
    limbs.forEach(({ upper, lower, end, base }, i) => {
      const foot = tracks[i][f];
      const start = plus(worldPosition(character, writer, base, hips), turned(writer.worldOf(base), placeBelow(character, upper, base)));
      const lean = times(about("y", heading[f]));
      const knee = plus(start, turned(lean, offset(lower)));
      const ankle = plus(knee, turned(lean, offset(end)));
      const fore = limbs[i].limb.endsWith("Fore");
      reachTwoBone(reach, [...start], 0, [...knee], 0, [...ankle], 0, [...start], [...foot.ankle], [...turned(lean, [fore ? -1 : 1, 0, 0])]);
      worlds.set(upper, times(Array.from(reach.upper) as unknown as Quat, lean));
      worlds.set(lower, times(Array.from(reach.lower) as unknown as Quat, lean));
      worlds.set(end, foot.turn);
      locals.set(limbs[i].toe, times(inverse(about("x", foot.pitch)), about("x", 0.5 * Math.max(0, foot.pitch))));
    });
    writer.write(f, hips, worlds, locals);
  }
  return { character, clip: writer.clip, contacts: trueContacts(character, plan) };
}

/** Place of a joint in the frame of one above it, while the joints between do not turn. */
function placeBelow({ skeleton }: Character, joint: number, above: number): Vec {
  let place: Vec = [0, 0, 0];
  for (let j = joint; j !== above; j = skeleton.parents[j])
    place = plus(place, [skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]]);
  return place;
}

function worldPosition(character: Character, writer: PoseWriter, joint: number, hips: Vec): Vec {
  const { parents, offsets } = character.skeleton;
  if (parents[joint] < 0) return hips;
  const parent = parents[joint];
  return plus(
    worldPosition(character, writer, parent, hips),
    turned(writer.worldOf(parent), [offsets[joint * 3], offsets[joint * 3 + 1], offsets[joint * 3 + 2]]),
  );
}
