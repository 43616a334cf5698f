import { fromToQuatFlat } from "../math/quat.ts";
import { childrenOf, type Skeleton } from "../skeleton/skeleton.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Role } from "./roles.ts";
import type { SurfaceTable } from "./surfaceTable.ts";

/**
 * One carved volume of a body: a tapered solid that rides on a joint. In the joint's frame it begins at `origin`, runs along `turn`·(+Y) for
 * size[1] and is size[0] and size[2] wide to either side (metres).
 */
export interface Volume {
  readonly joint: number;
  readonly side: "left" | "right" | "middle";
  readonly origin: readonly [number, number, number];
  readonly turn: readonly [number, number, number, number];
  readonly size: readonly [number, number, number];
  /** where the mesh is, for a body with a skin; else its surface is an ellipse around it */
  readonly table?: SurfaceTable;
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

/** Shortest bone that gets a volume, metres. */
const SHORTEST = 1e-4;

/**
 * Volumes for any skeleton: a tapered one along every bone (from joint to child), widths by the part it is; head, hands and feet as parts of
 * their own. Joints without a role get thin sticks. Lengths are the skeleton's, so nothing floats. `height` is the body's, metres.
 */
export function volumesOf(skeleton: Skeleton, body: BodyMap, height: number): Volume[] {
  const roleOf = new Map<number, Role>();
  for (const [role, joint] of Object.entries(body.roles) as [Role, number][]) roleOf.set(joint, role);
  const children = childrenOf(skeleton);
  const volumes: Volume[] = [];
  const offset = (j: number): readonly number[] => [skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]];
  const add = (joint: number, to: readonly number[], role: Role | undefined, share = 1) => {
    const length = Math.hypot(...to);
    if (length < SHORTEST) return;
    const [across, deep] = widthOf(role, height, length);
    const turn = fromToQuatFlat([0, 0, 0, 1], 0, 0, 1, 0, to[0], to[1], to[2]) as number[];
    const side = role?.startsWith("left") ? "left" : role?.startsWith("right") ? "right" : "middle";
    volumes.push({ joint, side, origin: [0, 0, 0], turn: [turn[0], turn[1], turn[2], turn[3]], size: [across * share, length, deep * share] });
  };
  skeleton.names.forEach((_, joint) => {
    const role = roleOf.get(joint);
    if (role === "head" && body.plan === "biped") {
      // An egg above the neck, whatever the skeleton's own head bone says.
      volumes.push({
        joint,
        side: "middle",
        origin: [0, -0.01 * height, 0.008 * height],
        turn: [0, 0, 0, 1],
        size: [0.05 * height, 0.135 * height, 0.058 * height],
      });
      return;
    }
    const tips = skeleton.tips.filter((t) => t.joint === joint);
    for (const child of children[joint]) {
      const childRole = roleOf.get(child);
      // From the trunk outwards to a limb there is a stub only: the limb's own volume starts there.
      const stub = (role === "hips" && /Thigh$/.test(childRole ?? "")) || (/^(chest|spine)/.test(role ?? "") && /(Collar|UpperArm)$/.test(childRole ?? ""));
      if (stub) add(joint, offset(child), `${childRole?.startsWith("left") ? "left" : "right"}Collar` as Role, 1.1);
      else add(joint, offset(child), role);
    }
    for (const tip of tips) add(joint, tip.offset, role);
    if (children[joint].length === 0 && tips.length === 0 && skeleton.parents[joint] >= 0) {
      add(
        joint,
        offset(joint).map((v) => v * 0.35),
        role,
      );
    }
  });
  return volumes;
}

function widthOf(role: Role | undefined, height: number, length: number): [number, number] {
  if (!role) return [Math.min(0.009 * height, 0.3 * length), Math.min(0.009 * height, 0.3 * length)];
  const found = WIDTHS.find(([pattern]) => pattern.test(role));
  return found ? [found[1] * height, found[2] * height] : [0.012 * height, 0.012 * height];
}

/** Thigh and shin as a share of standing height: Drillis & Contini 1966, as tabled by Winter (memory); four-legged bodies by eye. */
const LEG_SHARE = { biped: 0.491, quadruped: 0.5 } as const;
/** For bodies without known legs, metres. */
const STAND_IN_HEIGHT = 1.6;

/** Standing height from the leg bones, or a stand-in for other bodies, metres. */
export function standingHeight(skeleton: Skeleton, body: BodyMap): number {
  const length = (role: Role) => {
    const j = body.roles[role];
    return j === undefined ? 0 : Math.hypot(skeleton.offsets[j * 3], skeleton.offsets[j * 3 + 1], skeleton.offsets[j * 3 + 2]);
  };
  const leg = length("leftShin") + length("leftFoot");
  return leg === 0 ? STAND_IN_HEIGHT : leg / LEG_SHARE[body.plan];
}
