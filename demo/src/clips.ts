import type { Clip } from "@stride/motion";
import { performBiped } from "./biped.ts";
import { type Character, INA, OSK, PIM } from "./characters.ts";
import { addFaults, type Faults } from "./faults.ts";
import type { Performance, Plan } from "./performance.ts";
import { bend, flight, gaitPlan, idlePlan, quadrupedStand, quadrupedWalk, slopeUp, straight } from "./plans.ts";
import { performQuadruped } from "./quadruped.ts";
import { apron, argument, davit, slipOnTheIce } from "./scenes.ts";
import type { Step } from "./steps.ts";

/** A clip of the demo: the true performance, and the same with the faults of a capture. */
export interface DemoClip {
  readonly id: string;
  readonly title: string;
  readonly tags: readonly string[];
  readonly truth: Performance;
  readonly clip: Clip;
  /** the steps it was made from, their times exact; what is no gait has none */
  readonly steps?: readonly Step[];
}

const roleJoint = (character: Character, role: keyof Character["roles"]): number => character.roles[role] ?? 0;

/** The clips of Saltgate Harbour. Always the same, on every machine. */
export function demoClips(): DemoClip[] {
  return [
    nightShift(),
    turnAndStop(),
    idle(),
    lateForTheFerry(),
    dockPatrol(),
    pimWalk(),
    coilOfRope(),
    downTheGangway(),
    upTheQuaySteps(),
    ...scenes(),
    ...companions(),
  ];
}

/** What is no gait: a swing, a fall, and hands that go where they should not. */
function scenes(): DemoClip[] {
  const captured = (id: string, title: string, tags: readonly string[], truth: Performance, clip: Clip, faults: Faults): DemoClip => ({
    id,
    title,
    tags,
    truth,
    clip: { ...addFaults(clip, faults), name: id },
  });
  const swing = davit();
  const fall = slipOnTheIce();
  const belly = apron();
  return [
    captured("porter-hanging-from-the-davit", "Porter, hanging from the davit", ["swing"], swing, swing.clip, { seed: 108 }),
    captured("porter-slip-on-the-ice", "Porter, slip on the ice", ["fall", "capture"], fall, fall.clip, { seed: 109, jitter: 0.06 }),
    captured("porter-hands-through-the-apron", "Porter, hands through the apron", ["idle", "hands"], belly.truth, belly.clip, { seed: 110 }),
  ];
}

/** Clips to be mixed, joined and settled in: two arguments of different temper, a slower walk, and the goat at rest. */
function companions(): DemoClip[] {
  const walk = gaitPlan({
    name: "porter-unhurried-walk",
    fps: 30,
    seed: 22,
    seconds: 5,
    path: straight,
    stepLength: 0.54,
    stepTime: 0.66,
    stance: 0.64,
    width: 0.19,
    strikePitch: 0.24,
    liftPitch: 0.6,
    clearance: 0.03,
    bob: 0.012,
    shift: 0.5,
    style: { armSwing: 0.28, lean: -0.02, sway: 0.05 },
  });
  const stand = quadrupedStand(PIM, { name: "goat-standing-at-the-bollard", fps: 30, seed: 25, seconds: 3 });
  const spoken = (id: string, title: string, tags: readonly string[], truth: Performance, seed: number): DemoClip => ({
    id,
    title,
    tags,
    truth,
    clip: { ...addFaults(truth.clip, { seed, jitter: 0.05 }), name: id },
  });
  return [
    make("porter-unhurried-walk", "Porter, unhurried walk", ["walk"], INA, walk, { seed: 113, travel: 0.95, jitter: 0.06 }),
    spoken("porter-angry-argument", "Porter, angry argument", ["talk", "arms"], argument("porter-angry-argument", 23, 5, 1), 114),
    spoken("porter-calm-talk", "Porter, calm talk", ["talk", "arms"], argument("porter-calm-talk", 24, 6, 0.3), 115),
    make("goat-standing-at-the-bollard", "Pim, standing at the bollard", ["stand", "quadruped"], PIM, stand, { seed: 116, jitter: 0.04 }),
  ];
}

/** Ina walks crouched, as if under a load. */
function coilOfRope(): DemoClip {
  const plan = gaitPlan({
    name: "porter-crouched-walk",
    fps: 30,
    seed: 17,
    seconds: 4.2,
    path: straight,
    stepLength: 0.5,
    stepTime: 0.58,
    stance: 0.64,
    width: 0.2,
    strikePitch: 0.16,
    liftPitch: 0.5,
    clearance: 0.04,
    bob: 0.01,
    shift: 0.45,
    crouch: 0.11,
    style: { lean: 0.2, armSwing: 0.3, elbow: 0.55, twist: 0.12 },
  });
  return make("porter-crouched-walk", "Porter, crouched walk", ["walk", "crouch"], INA, plan, { seed: 107, travel: 1.06, jitter: 0.06 });
}

function make(id: string, title: string, tags: readonly string[], character: Character, plan: Plan, faults: Faults): DemoClip {
  const truth = character.plan === "biped" ? performBiped(character, plan) : performQuadruped(character, plan);
  return { id, title, tags, truth, clip: { ...addFaults(truth.clip, faults), name: id }, steps: plan.steps };
}

/** Ina walks too fast for her feet, 2 cm over a tilted floor; a toe twists for six frames, a wrist jumps once. */
function nightShift(): DemoClip {
  const plan = gaitPlan({
    name: "porter-night-shift-walk",
    fps: 30,
    seed: 11,
    seconds: 4.4,
    path: straight,
    stepLength: 0.66,
    stepTime: 0.55,
    stance: 0.61,
    width: 0.17,
    strikePitch: 0.32,
    liftPitch: 0.72,
    clearance: 0.035,
    bob: 0.013,
    shift: 0.42,
  });
  return make("porter-night-shift-walk", "Porter, night shift walk", ["walk", "capture"], INA, plan, {
    seed: 101,
    travel: 1.12,
    floorHeight: 0.09,
    floorTilt: [0.9, -0.5],
    jitter: 0.12,
    noisy: [[88, 93, roleJoint(INA, "rightToe"), 9]],
    pops: [[72, roleJoint(INA, "leftHand"), 34]],
  });
}

function turnAndStop(): DemoClip {
  const plan = gaitPlan({
    name: "porter-turn-and-stop",
    fps: 60,
    seed: 12,
    seconds: 4.6,
    path: bend(1.1, Math.PI / 2, 0.75),
    stepLength: 0.58,
    stepTime: 0.52,
    stance: 0.63,
    width: 0.18,
    strikePitch: 0.26,
    liftPitch: 0.62,
    clearance: 0.035,
    bob: 0.011,
    shift: 0.45,
    stopAfter: 6,
  });
  return make("porter-turn-and-stop", "Porter, turn and stop", ["walk", "turn", "stop"], INA, plan, {
    seed: 102,
    travel: 0.9,
    drift: [0.03, -0.02],
    floorHeight: -0.05,
    jitter: 0.08,
  });
}

function idle(): DemoClip {
  const plan = idlePlan("porter-waiting-weight-shift", 30, 13, 7, 0.24, 3.6);
  const fingers = (["rightIndex", "rightMiddle", "rightRing", "rightLittle", "rightIndex2", "rightMiddle2", "rightRing2", "rightLittle2"] as const).map(
    (role) => roleJoint(INA, role),
  );
  return make("porter-waiting-weight-shift", "Porter, waiting, weight shift", ["idle"], INA, plan, {
    seed: 103,
    drift: [0.016, 0.01],
    floorHeight: 0.09,
    jitter: 0.15,
    dropped: [[96, 131, fingers]],
  });
}

function lateForTheFerry(): DemoClip {
  const plan = gaitPlan({
    name: "porter-late-for-the-ferry",
    fps: 60,
    seed: 14,
    seconds: 3,
    path: straight,
    stepLength: 1.08,
    stepTime: 0.36,
    stance: 0.36,
    width: 0.11,
    strikePitch: 0.12,
    liftPitch: 0.95,
    clearance: 0.14,
    bob: -0.03,
    shift: 0.3,
    style: { flow: 2.6, lean: 0.16, armSwing: 0.9, elbow: 1.35, twist: 0.16, sway: 0.05 },
  });
  return make("porter-late-for-the-ferry", "Porter, late for the ferry", ["jog", "flight"], INA, plan, {
    seed: 104,
    travel: 1.09,
    floorHeight: -0.04,
    jitter: 0.1,
  });
}

function dockPatrol(): DemoClip {
  const plan = gaitPlan({
    name: "diver-dock-patrol",
    fps: 30,
    seed: 15,
    seconds: 5,
    path: bend(2.2, -0.5, 2.5),
    stepLength: 0.56,
    stepTime: 0.74,
    stance: 0.66,
    width: 0.26,
    strikePitch: 0.2,
    liftPitch: 0.5,
    clearance: 0.06,
    bob: 0.016,
    shift: 0.55,
    crouch: 0.025,
    style: { flow: 1.2, armSwing: 0.4, armsOut: 0.32, elbow: 0.42, twist: 0.13, sway: 0.09, lean: 0.09 },
  });
  return make("diver-dock-patrol", "Diver, dock patrol", ["walk", "heavy"], OSK, plan, { seed: 105, travel: 1.14, floorHeight: -0.05, jitter: 0.1 });
}

/** Down the harbour's gangway, which slopes by 8°. */
function downTheGangway(): DemoClip {
  const plan = gaitPlan({
    name: "porter-down-the-gangway",
    fps: 30,
    seed: 18,
    seconds: 4,
    path: straight,
    terrain: slopeUp((-8 * Math.PI) / 180),
    stepLength: 0.58,
    stepTime: 0.54,
    stance: 0.63,
    width: 0.17,
    strikePitch: 0.24,
    liftPitch: 0.6,
    clearance: 0.045,
    bob: 0.012,
    shift: 0.42,
    crouch: 0.02,
  });
  return make("porter-down-the-gangway", "Porter, down the gangway", ["walk", "slope"], INA, plan, { seed: 111, travel: 1.09, jitter: 0.08 });
}

/** Up the short flight of steps at the quay: three of 17 cm, then on along the top. */
function upTheQuaySteps(): DemoClip {
  const step = 0.56;
  const plan = gaitPlan({
    name: "porter-up-the-quay-steps",
    fps: 30,
    seed: 19,
    seconds: 4.6,
    path: straight,
    terrain: flight(2.5 * step, step, 0.17, 3),
    stepLength: step,
    stepTime: 0.6,
    stance: 0.64,
    width: 0.17,
    strikePitch: 0.14,
    liftPitch: 0.6,
    clearance: 0.06,
    bob: 0.012,
    shift: 0.42,
    crouch: 0.02,
  });
  return make("porter-up-the-quay-steps", "Porter, up the quay steps", ["walk", "steps"], INA, plan, { seed: 112, travel: 1.1, jitter: 0.08 });
}

function pimWalk(): DemoClip {
  const plan = quadrupedWalk(PIM, { name: "goat-down-the-quay", fps: 30, seed: 16, seconds: 4, stride: 0.6, cycle: 0.86, duty: 0.66, path: straight });
  return make("goat-down-the-quay", "Pim, down the quay", ["walk", "quadruped"], PIM, plan, { seed: 106, travel: 1.1, floorHeight: -0.04, jitter: 0.08 });
}
