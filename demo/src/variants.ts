import type { Role } from "@stride/motion";
import { buildBiped, type Character } from "./characters.ts";
import type { Plan } from "./performance.ts";
import { bend, gaitPlan, idlePlan, jumpPlan, sideStepPlan, straight } from "./plans.ts";

/** Bodies and movements of several sizes and rates. */
export const TEST_BODIES: readonly { readonly character: Character; readonly scale: number; readonly fps: number }[] = [
  { character: buildBiped("tall", "Tall", { height: 1.95, breadth: 1.2, fingers: false, toes: true }), scale: 1.12, fps: 60 },
  { character: buildBiped("usual", "Usual", { height: 1.72, breadth: 1, fingers: true, toes: true }), scale: 1, fps: 30 },
  { character: buildBiped("small", "Small, without toes", { height: 1.2, breadth: 1.1, fingers: false, toes: false }), scale: 0.72, fps: 120 },
];

export function testPlans(scale: number, fps: number): Plan[] {
  const walk = { seed: 3, path: straight, width: 0.17, strikePitch: 0.35, liftPitch: 0.75, clearance: 0.04, bob: 0.012, shift: 0.42 };
  return [
    gaitPlan({ ...walk, name: "walk", fps, seconds: 4, stepLength: 0.7 * scale, stepTime: 0.52, stance: 0.61 }),
    gaitPlan({
      ...walk,
      name: "run",
      fps,
      seconds: 3,
      stepLength: 1.25 * scale,
      stepTime: 0.34,
      stance: 0.34,
      strikePitch: 0.15,
      liftPitch: 1,
      clearance: 0.16 * scale,
      bob: -0.03 * scale,
      width: 0.1,
      style: { flow: 2.6, lean: 0.15 },
    }),
    gaitPlan({
      ...walk,
      name: "turn and stop",
      fps,
      seconds: 4.6,
      path: bend(1.1 * scale, -1.4, 0.8),
      stepLength: 0.58 * scale,
      stepTime: 0.55,
      stance: 0.63,
      stopAfter: 6,
    }),
    sideStepPlan("side steps", fps, 5, 4),
    jumpPlan("jump", fps, 6, 0.6 * scale),
    idlePlan("idle", fps, 7, 6, 0.24, 3),
  ];
}

/** Ways in which files name the parts of a body. An empty string leaves the joint's number as its only name. */
export const NAMING_STYLES: Readonly<Record<string, (role: Role, joint: number) => string>> = {
  camel: (role) => upperFirst(role),
  sideSuffix: (role) => (isSided(role) ? `${part(role).toLowerCase()}_${role.startsWith("left") ? "l" : "r"}` : role.toLowerCase()),
  spacedPrefix: (role) => `Rig01 ${isSided(role) ? `${role.startsWith("left") ? "L" : "R"} ${TRADE[part(role)] ?? part(role)}` : upperFirst(role)}`,
  namespaced: (role) =>
    `porter:${isSided(role) ? (role.startsWith("left") ? "Left" : "Right") : ""}${TRADE_SHORT[part(role)] ?? (isSided(role) ? part(role) : upperFirst(role))}`,
  jointNames: (role) => (isSided(role) ? `${role.startsWith("left") ? "Left" : "Right"}${JOINT_WORDS[part(role)] ?? part(role)}` : upperFirst(role)),
  numbers: (_role, joint) => `Bone${String(joint).padStart(3, "0")}`,
};

const TRADE: Readonly<Record<string, string>> = { Collar: "Clavicle", UpperArm: "UpperArm", Forearm: "Forearm", Shin: "Calf", Toe: "Toe0" };
const TRADE_SHORT: Readonly<Record<string, string>> = { Collar: "Shoulder", UpperArm: "Arm", Forearm: "ForeArm", Thigh: "UpLeg", Shin: "Leg", Toe: "ToeBase" };
const JOINT_WORDS: Readonly<Record<string, string>> = {
  UpperArm: "Shoulder",
  Forearm: "Elbow",
  Hand: "Wrist",
  Thigh: "Hip",
  Shin: "Knee",
  Foot: "Ankle",
  Toe: "Toes",
};

function isSided(role: Role): boolean {
  return role.startsWith("left") || role.startsWith("right");
}

function part(role: Role): string {
  return role.replace(/^(left|right)/, "");
}

function upperFirst(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** The same body under other names. */
export function renamed(character: Character, style: (role: Role, joint: number) => string): Character {
  const names = [...character.skeleton.names];
  for (const [role, joint] of Object.entries(character.roles) as [Role, number][]) names[joint] = style(role, joint);
  return { ...character, skeleton: { ...character.skeleton, names } };
}
