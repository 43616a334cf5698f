import { identityRest, type Role, type Side, type Skeleton } from "@stride/motion";

/** A demo body: skeleton with the roles of its joints known by construction. */
export interface Character {
  readonly id: string;
  readonly name: string;
  readonly plan: "biped" | "quadruped";
  readonly skeleton: Skeleton;
  readonly roles: Readonly<Partial<Record<Role, number>>>;
  /** ankle (or fetlock) to sole when standing flat, metres */
  readonly ankleHeight: number;
  /** heel in the foot's frame, on the ground; a hoof has none */
  readonly heel: readonly [number, number, number] | undefined;
  /** joint (or end of the foot) that it rolls about when the heel lifts, in the foot's frame: it may lie above the ground */
  readonly ball: readonly [number, number, number];
}

export interface BipedBuild {
  readonly height: number;
  /** shoulder and hip breadth against an average body */
  readonly breadth: number;
  readonly fingers: boolean;
  readonly toes: boolean;
  readonly footLength?: number;
  /** height of the joint that the foot rolls about over the ground, share of body height */
  readonly ballLift?: number;
}

export interface QuadrupedBuild {
  /** shoulder height, metres */
  readonly withers: number;
  /** height of the hoof's joint over the ground, metres */
  readonly hoofLift?: number;
  /** is there a blade bone above the fore leg, and a pastern between cannon and hoof? */
  readonly blade?: boolean;
  readonly pastern?: boolean;
}

class Builder {
  readonly names: string[] = [];
  readonly parents: number[] = [];
  readonly offsets: number[] = [];
  readonly roles: Partial<Record<Role, number>> = {};
  readonly tips: { joint: number; offset: [number, number, number] }[] = [];

  add(name: string, parent: number, offset: readonly [number, number, number], role?: Role): number {
    const joint = this.names.length;
    this.names.push(name);
    this.parents.push(parent);
    this.offsets.push(...offset);
    if (role) this.roles[role] = joint;
    return joint;
  }

  tip(joint: number, offset: readonly [number, number, number]): void {
    this.tips.push({ joint, offset: [...offset] });
  }

  skeleton(): Skeleton {
    return {
      names: this.names,
      parents: Int16Array.from(this.parents),
      offsets: Float64Array.from(this.offsets),
      restRotations: identityRest(this.names.length),
      tips: this.tips,
    };
  }
}

/**
 * A biped in T-pose, +Y up, facing +Z. Segment lengths as shares of body height from Drillis & Contini (1966) as tabled by Winter
 * (memory): thigh 0.245, shin 0.246, ankle 0.039, upper arm 0.186, forearm 0.146, hand 0.108, foot 0.152.
 */
export function buildBiped(id: string, name: string, build: BipedBuild): Character {
  const h = build.height;
  const b = new Builder();
  const ankle = 0.039 * h;
  const foot = (build.footLength ?? 0.152) * h;
  const heelBehind = 0.25 * foot;
  const ballAhead = 0.48 * foot;
  const ball = [0, -ankle + (build.ballLift ?? 0.008) * h, ballAhead] as const;
  const hips = b.add("Hips", -1, [0, 0, 0], "hips");
  const spine = b.add("Spine", hips, [0, 0.06 * h, 0], "spine");
  const spine2 = b.add("SpineMid", spine, [0, 0.075 * h, 0], "spine2");
  const chest = b.add("Chest", spine2, [0, 0.08 * h, 0], "chest");
  const neck = b.add("Neck", chest, [0, 0.085 * h, 0], "neck");
  const head = b.add("Head", neck, [0, 0.055 * h, 0.008 * h], "head");
  b.tip(head, [0, 0.115 * h, 0]);
  for (const side of ["left", "right"] as const) {
    const s = side === "left" ? 1 : -1;
    const label = (part: string) => `${side === "left" ? "Left" : "Right"}${part}`;
    const collar = b.add(label("Collar"), chest, [s * 0.02 * h, 0.06 * h, 0], `${side}Collar`);
    const upper = b.add(label("UpperArm"), collar, [s * 0.092 * h * build.breadth, 0, 0], `${side}UpperArm`);
    const fore = b.add(label("Forearm"), upper, [s * 0.186 * h, 0, 0], `${side}Forearm`);
    const hand = b.add(label("Hand"), fore, [s * 0.146 * h, 0, 0], `${side}Hand`);
    if (build.fingers) addFingers(b, side, s, hand, h, label);
    else b.tip(hand, [s * 0.1 * h, 0, 0]);
  }
  for (const side of ["left", "right"] as const) {
    const s = side === "left" ? 1 : -1;
    const label = (part: string) => `${side === "left" ? "Left" : "Right"}${part}`;
    const thigh = b.add(label("Thigh"), hips, [s * 0.052 * h * build.breadth, -0.02 * h, 0], `${side}Thigh`);
    const shin = b.add(label("Shin"), thigh, [0, -0.245 * h, 0], `${side}Shin`);
    const footJoint = b.add(label("Foot"), shin, [0, -0.246 * h, 0], `${side}Foot`);
    if (build.toes) {
      const toe = b.add(label("Toe"), footJoint, ball, `${side}Toe`);
      b.tip(toe, [0, Math.min(0, -ankle - ball[1]) * 0.75, foot - heelBehind - ballAhead]);
    } else b.tip(footJoint, ball);
  }
  return { id, name, plan: "biped", skeleton: b.skeleton(), roles: b.roles, ankleHeight: ankle, heel: [0, -ankle, -heelBehind], ball };
}

function addFingers(b: Builder, side: Side, s: number, hand: number, h: number, label: (part: string) => string): void {
  const spread = { Thumb: 0.02, Index: 0.014, Middle: 0.004, Ring: -0.006, Little: -0.015 } as const;
  for (const finger of ["Thumb", "Index", "Middle", "Ring", "Little"] as const) {
    const thumb = finger === "Thumb";
    const reach = thumb ? 0.018 : 0.052;
    const segment = thumb ? 0.018 : finger === "Little" ? 0.014 : 0.018;
    const first = b.add(label(finger), hand, [s * reach * h, thumb ? -0.008 * h : 0, spread[finger] * h], `${side}${finger}`);
    const second = b.add(label(`${finger}2`), first, [s * segment * h, 0, thumb ? 0.008 * h : 0], `${side}${finger}2`);
    const third = b.add(label(`${finger}3`), second, [s * segment * 0.8 * h, 0, 0], `${side}${finger}3`);
    b.tip(third, [s * segment * 0.7 * h, 0, 0]);
  }
}

/** A quadruped with a tail, at rest facing +Z. */
export function buildQuadruped(id: string, name: string, build: QuadrupedBuild): Character {
  const h = build.withers;
  const lift = build.hoofLift ?? 0;
  const b = new Builder();
  const hips = b.add("Hips", -1, [0, 0, 0], "hips");
  const loin = b.add("Loin", hips, [0, 0.02 * h, 0.3 * h], "spine");
  const back = b.add("Back", loin, [0, 0, 0.32 * h], "spine2");
  const chest = b.add("Chest", back, [0, -0.02 * h, 0.3 * h], "chest");
  const neck = b.add("Neck", chest, [0, 0.12 * h, 0.14 * h], "neck");
  const neck2 = b.add("NeckUpper", neck, [0, 0.2 * h, 0.15 * h], "neck2");
  const head = b.add("Head", neck2, [0, 0.17 * h, 0.1 * h], "head");
  b.tip(head, [0, -0.08 * h, 0.26 * h]);
  const tail = b.add("Tail", hips, [0, 0.06 * h, -0.14 * h], "tail");
  const tail2 = b.add("Tail2", tail, [0, 0.03 * h, -0.1 * h], "tail2");
  const tail3 = b.add("Tail3", tail2, [0, 0.01 * h, -0.09 * h], "tail3");
  b.tip(tail3, [0, -0.02 * h, -0.08 * h]);
  for (const side of ["left", "right"] as const) {
    const s = side === "left" ? 1 : -1;
    const label = (part: string) => `${side === "left" ? "Left" : "Right"}${part}`;
    const blade = build.blade ? b.add(label("Blade"), chest, [s * 0.09 * h, 0.02 * h, -0.02 * h]) : undefined;
    const shoulder =
      blade === undefined
        ? b.add(label("ForeUpper"), chest, [s * 0.13 * h, -0.1 * h, 0.06 * h], `${side}UpperArm`)
        : b.add(label("ForeUpper"), blade, [s * 0.04 * h, -0.12 * h, 0.08 * h], `${side}UpperArm`);
    const elbow = b.add(label("ForeLower"), shoulder, [0, -0.29 * h, -0.1 * h], `${side}Forearm`);
    const carpus = b.add(label("ForeCannon"), elbow, [0, -0.32 * h, 0.06 * h], `${side}Hand`);
    const pastern = build.pastern ? b.add(label("ForePastern"), carpus, [0, -0.17 * h + lift, 0]) : carpus;
    const hoof = b.add(label("ForeHoof"), pastern, [0, build.pastern ? -0.07 * h : -0.24 * h + lift, 0.02 * h], `${side}HandEnd`);
    b.tip(hoof, [0, 0, 0.07 * h]);
  }
  for (const side of ["left", "right"] as const) {
    const s = side === "left" ? 1 : -1;
    const label = (part: string) => `${side === "left" ? "Left" : "Right"}${part}`;
    const thigh = b.add(label("Thigh"), hips, [s * 0.12 * h, -0.06 * h, -0.02 * h], `${side}Thigh`);
    const shin = b.add(label("Shin"), thigh, [0, -0.32 * h, 0.1 * h], `${side}Shin`);
    const hock = b.add(label("Hock"), shin, [0, -0.3 * h, -0.17 * h], `${side}Foot`);
    const pastern = build.pastern ? b.add(label("Pastern"), hock, [0, -0.21 * h + lift, 0.01 * h]) : hock;
    const hoof = b.add(label("Hoof"), pastern, [0, build.pastern ? -0.08 * h : -0.29 * h + lift, (build.pastern ? 0.03 : 0.04) * h], `${side}Toe`);
    b.tip(hoof, [0, 0, 0.07 * h]);
  }
  return { id, name, plan: "quadruped", skeleton: b.skeleton(), roles: b.roles, ankleHeight: 0.29 * h, heel: undefined, ball: [0, -0.29 * h + lift, 0.04 * h] };
}

export const INA = buildBiped("ina", "Ina", { height: 1.72, breadth: 1, fingers: true, toes: true });
export const OSK = buildBiped("osk", "Osk", { height: 1.86, breadth: 1.22, fingers: false, toes: true, footLength: 0.17 });
export const PIM = buildQuadruped("pim", "Pim", { withers: 0.78 });
