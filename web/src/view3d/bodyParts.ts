import { type BodyMap, childrenOf, type Role, type Skeleton } from "@stride/motion";
import { Matrix4, Quaternion, Vector3 } from "three";

/** One carved volume: rides on `joint`, placed by `local` in its frame (a unit tapered solid along +Y, from 0 to 1). */
export interface BodyPart {
  readonly joint: number;
  readonly local: Matrix4;
  readonly side: "left" | "right" | "middle";
}

/** Half widths of a bone's volume as shares of body height: across (x) and front to back (z). */
const WIDTHS: readonly (readonly [RegExp, number, number])[] = [
  [/Thigh$/, 0.046, 0.048],
  [/Shin$/, 0.033, 0.035],
  [/Foot$/, 0.024, 0.02],
  [/Toe$/, 0.024, 0.013],
  [/UpperArm$/, 0.027, 0.028],
  [/Forearm$/, 0.022, 0.022],
  [/Hand$/, 0.021, 0.012],
  [/HandEnd$/, 0.018, 0.012],
  [/Collar$/, 0.026, 0.026],
  [/(Thumb|Index|Middle|Ring|Little)\d?$/, 0.0055, 0.0055],
  [/^neck/, 0.028, 0.03],
  [/^head$/, 0.045, 0.052],
  [/^hips$/, 0.082, 0.056],
  [/^(spine|chest)/, 0.086, 0.057],
  [/^tail/, 0.016, 0.016],
];

/**
 * A wooden lay figure for any skeleton: a tapered volume along every bone (from joint to child), widths by the part it is; head, hands
 * and feet as parts of their own. Joints without a role get thin sticks. Lengths are the skeleton's, so nothing floats.
 */
export function buildBody(skeleton: Skeleton, body: BodyMap): { parts: BodyPart[]; height: number } {
  const roleOf = new Map<number, Role>();
  for (const [role, joint] of Object.entries(body.roles) as [Role, number][]) roleOf.set(joint, role);
  const height = bodyHeight(skeleton, body);
  const children = childrenOf(skeleton);
  const parts: BodyPart[] = [];
  const offset = (j: number) => new Vector3(skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]);
  const add = (joint: number, to: Vector3, role: Role | undefined, share = 1) => {
    const length = to.length();
    if (length < 1e-4) return;
    const [wx, wz] = widthOf(role, height, length);
    const turn = new Quaternion().setFromUnitVectors(new Vector3(0, 1, 0), to.clone().normalize());
    const side = role?.startsWith("left") ? "left" : role?.startsWith("right") ? "right" : "middle";
    const local = new Matrix4().compose(new Vector3(), turn, new Vector3(wx * share, length, wz * share));
    parts.push({ joint, local, side });
  };
  skeleton.names.forEach((_, joint) => {
    const role = roleOf.get(joint);
    if (role === "head" && body.plan === "biped") {
      // An egg above the neck, whatever the skeleton's own head bone says.
      const local = new Matrix4().compose(
        new Vector3(0, -0.01 * height, 0.008 * height),
        new Quaternion(),
        new Vector3(0.05 * height, 0.135 * height, 0.058 * height),
      );
      parts.push({ joint, local, side: "middle" });
      return;
    }
    const tips = skeleton.tips.filter((t) => t.joint === joint);
    for (const child of children[joint]) {
      const childRole = roleOf.get(child);
      // From the trunk outwards to a limb there is a stub only: the limb's own volume starts there.
      const stub = (role === "hips" && /Thigh$/.test(childRole ?? "")) || (/^(chest|spine)/.test(role ?? "") && /(Collar|UpperArm)$/.test(childRole ?? ""));
      if (stub) {
        add(joint, offset(child), `${childRole?.startsWith("left") ? "left" : "right"}Collar` as Role, 1.1);
        continue;
      }
      add(joint, offset(child), role);
    }
    for (const tip of tips) add(joint, new Vector3(...tip.offset), role);
    if (children[joint].length === 0 && tips.length === 0 && skeleton.parents[joint] >= 0) add(joint, offset(joint).multiplyScalar(0.35), role);
  });
  return { parts, height };
}

function widthOf(role: Role | undefined, height: number, length: number): [number, number] {
  if (!role) return [Math.min(0.009 * height, 0.3 * length), Math.min(0.009 * height, 0.3 * length)];
  const found = WIDTHS.find(([pattern]) => pattern.test(role));
  return found ? [found[1] * height, found[2] * height] : [0.012 * height, 0.012 * height];
}

/** Standing height from the leg bones (thigh and shin are 0.491 of it; Drillis & Contini 1966), or a stand-in for other bodies. */
function bodyHeight(skeleton: Skeleton, body: BodyMap): number {
  const length = (role: Role) => {
    const j = body.roles[role];
    return j === undefined ? 0 : Math.hypot(skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]);
  };
  const leg = length("leftShin") + length("leftFoot");
  if (leg === 0) return 1.6;
  return body.plan === "biped" ? leg / 0.491 : leg / 0.5;
}
