import { FINGERS, type Role, SIDES, type Side } from "./roles.ts";

// What two open standards call the parts of a body: VRM 1.0 (https://github.com/vrm-c/vrm-specification, humanoid bones) and H-Anim (ISO/IEC 19774-1, names of joints, those of its first edition behind).

const VRM_LIMBS: Readonly<Record<string, string>> = {
  Collar: "Shoulder",
  UpperArm: "UpperArm",
  Forearm: "LowerArm",
  Hand: "Hand",
  Thigh: "UpperLeg",
  Shin: "LowerLeg",
  Foot: "Foot",
  Toe: "Toes",
};
const VRM_THUMB = ["ThumbMetacarpal", "ThumbProximal", "ThumbDistal"] as const;
const VRM_FINGER = ["Proximal", "Intermediate", "Distal"] as const;

const HANIM_LIMBS: Readonly<Record<string, readonly string[]>> = {
  Collar: ["sternoclavicular"],
  UpperArm: ["shoulder"],
  Forearm: ["elbow"],
  Hand: ["radiocarpal", "wrist"],
  Thigh: ["hip"],
  Shin: ["knee"],
  Foot: ["talocrural", "ankle"],
  Toe: ["metatarsophalangeal_2", "metatarsal", "midtarsal"],
};
const HANIM_THUMB = [
  ["carpometacarpal_1", "thumb1"],
  ["metacarpophalangeal_1", "thumb2"],
  ["carpal_interphalangeal_1", "thumb3"],
] as const;
const HANIM_FINGER = ["metacarpophalangeal", "carpal_proximal_interphalangeal", "carpal_distal_interphalangeal"] as const;
const HANIM_CENTRE: Readonly<Partial<Record<Role, readonly string[]>>> = {
  hips: ["sacroiliac", "humanoid_root", "HumanoidRoot"],
  spine: ["vl5"],
  spine2: ["vl1"],
  spine3: ["vt12"],
  chest: ["vt1"],
  neck: ["vc7"],
  neck2: ["vc4"],
  head: ["skullbase"],
};

/** What VRM 1.0 calls a part; null where it has no name for it. A trunk of three joints over the hips is spine, chest, upperChest there. */
export function vrmName(role: Role, roles: Readonly<Partial<Record<Role, number>>> = {}): string | null {
  if (role === "hips" || role === "spine" || role === "neck" || role === "head") return role;
  const high = roles.spine2 !== undefined;
  if (role === "spine2") return "chest";
  if (role === "chest") return high ? "upperChest" : "chest";
  const { side, part } = splitRole(role);
  if (!side) return null;
  const finger = fingerOf(part);
  if (!finger) return VRM_LIMBS[part] ? `${side}${VRM_LIMBS[part]}` : null;
  return finger.name === "Thumb" ? `${side}${VRM_THUMB[finger.at]}` : `${side}${finger.name}${VRM_FINGER[finger.at]}`;
}

/** What H-Anim calls a part, the name of its present edition first; empty where it has none. */
export function hanimNames(role: Role): readonly string[] {
  const centre = HANIM_CENTRE[role];
  if (centre) return centre;
  const { side, part } = splitRole(role);
  if (!side) return [];
  const l = side === "left" ? "l_" : "r_";
  const finger = fingerOf(part);
  if (!finger) return (HANIM_LIMBS[part] ?? []).map((name) => l + name);
  if (finger.name === "Thumb") return HANIM_THUMB[finger.at].map((name) => l + name);
  const number = FINGERS.indexOf(finger.name) + 1;
  const old = finger.name === "Little" ? "pinky" : finger.name.toLowerCase();
  return [`${l}${HANIM_FINGER[finger.at]}_${number}`, `${l}${old}${finger.at + 1}`];
}

/** Names of a body that speaks H-Anim are told by so many of them. */
const ENOUGH = 8;

/** Which joint is which part, in a skeleton whose joints are called as H-Anim calls them; null where they are not. */
export function hanimRoles(names: readonly string[]): Partial<Record<Role, number>> | null {
  const at = new Map(names.map((name, joint) => [name, joint]));
  const roles: Partial<Record<Role, number>> = {};
  const limbs = SIDES.flatMap((side) =>
    [...Object.keys(HANIM_LIMBS), ...FINGERS.flatMap((f) => [f, `${f}2`, `${f}3`])].map((part) => `${side}${part}` as Role),
  );
  for (const role of [...limbs, "hips", "head"] as Role[]) {
    const found = hanimNames(role).find((name) => at.has(name));
    if (found !== undefined) roles[role] = at.get(found);
  }
  return Object.keys(roles).length >= ENOUGH ? roles : null;
}

/** Roles by VRM bones: `joints` says which joint each bone is. */
export function vrmRoles(joints: ReadonlyMap<string, number>): Partial<Record<Role, number>> {
  const roles: Partial<Record<Role, number>> = {};
  const put = (role: Role, bone: string) => {
    const joint = joints.get(bone);
    if (joint !== undefined) roles[role] = joint;
  };
  for (const role of ["hips", "spine", "neck", "head"] as const) put(role, role);
  if (joints.has("upperChest")) {
    put("spine2", "chest");
    put("chest", "upperChest");
  } else put("chest", "chest");
  for (const side of SIDES) {
    for (const part of Object.keys(VRM_LIMBS)) put(`${side}${part}` as Role, `${side}${VRM_LIMBS[part]}`);
    for (const finger of FINGERS)
      ["", "2", "3"].forEach((n, i) => {
        put(`${side}${finger}${n}` as Role, finger === "Thumb" ? `${side}${VRM_THUMB[i]}` : `${side}${finger}${VRM_FINGER[i]}`);
      });
  }
  return roles;
}

function splitRole(role: Role): { side: Side | null; part: string } {
  const side = SIDES.find((s) => role.startsWith(s)) ?? null;
  return { side, part: side ? role.slice(side.length) : role };
}

function fingerOf(part: string): { name: (typeof FINGERS)[number]; at: 0 | 1 | 2 } | null {
  const name = FINGERS.find((f) => part.startsWith(f));
  if (!name) return null;
  const rest = part.slice(name.length);
  return { name, at: rest === "" ? 0 : rest === "2" ? 1 : 2 };
}
