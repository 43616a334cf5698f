import type { Character } from "./characters.ts";
import { DEFAULT_STYLE, type Knot, type Plan, type Style } from "./performance.ts";
import type { Step } from "./steps.ts";

/** A path on the ground by arc length: metres along it → x, z and heading. */
export type Path = (s: number) => { readonly x: number; readonly z: number; readonly heading: number };

export const straight: Path = (s) => ({ x: 0, z: s, heading: 0 });

/** Straight on, then a bend of `angle` radians (left positive) with the given radius that starts after `lead` metres, then straight. */
export function bend(lead: number, angle: number, radius: number): Path {
  const sign = Math.sign(angle);
  const arc = Math.abs(angle) * radius;
  return (s) => {
    const u = Math.max(0, Math.min(arc, s - lead)) / radius;
    const before = Math.min(s, lead);
    const after = Math.max(0, s - lead - arc);
    const heading = sign * u;
    return {
      x: sign * radius * (1 - Math.cos(u)) + after * Math.sin(heading),
      z: before + radius * Math.sin(u) + after * Math.cos(heading),
      heading,
    };
  };
}

export interface GaitOptions {
  readonly name: string;
  readonly fps: number;
  readonly seed: number;
  readonly seconds: number;
  readonly path: Path;
  /** metres from strike to strike of the other foot, and seconds for it */
  readonly stepLength: number;
  readonly stepTime: number;
  /** share of a foot's cycle that it stands: about 0.6 walking, 0.35 running */
  readonly stance: number;
  /** between the two lines of footprints, metres */
  readonly width: number;
  readonly strikePitch: number;
  readonly liftPitch: number;
  readonly clearance: number;
  /** rise and fall of the hips, metres; positive: highest over the standing foot (a walk) */
  readonly bob: number;
  /** how far the hips swing over the standing foot, share of half the width */
  readonly shift: number;
  /** number of steps after which both feet stay; absent: on to the end of the clip */
  readonly stopAfter?: number;
  readonly crouch?: number;
  readonly style?: Partial<Style>;
  /** what the path lies on, by metres along it; level at zero if absent */
  readonly terrain?: Terrain;
}

/** Height of the ground (metres) and how it slopes up along the path (radians), by metres along the path. */
export type Terrain = (s: number) => { readonly y: number; readonly slope: number };

/** Up a slope of so many radians, all the way. */
export function slopeUp(angle: number): Terrain {
  return (s) => ({ y: Math.tan(angle) * s, slope: angle });
}

/** Up a flight of steps of that rise, a tread to every `run` metres, `count` of them after `lead` metres of level ground. */
export function flight(lead: number, run: number, rise: number, count: number): Terrain {
  return (s) => ({ y: rise * Math.max(0, Math.min(count, Math.ceil((s - lead) / run - 1e-6))), slope: 0 });
}

const NEVER = 1e3;

/** Alternating steps along a path, already under way when the clip starts. */
export function gaitPlan(o: GaitOptions): Plan {
  const steps: Step[] = [];
  const support: Knot[] = [];
  const heading: Knot[] = [];
  const height: Knot[] = [];
  const standTime = o.stance * 2 * o.stepTime;
  const first = -3;
  const last = o.stopAfter ?? Math.ceil(o.seconds / o.stepTime) + 3;
  for (let i = first; i <= last; i++) {
    const side = i % 2 === 0 ? "left" : "right";
    const closing = o.stopAfter !== undefined && i === last;
    const s = (closing ? i - 1 : i) * o.stepLength;
    const at = o.path(s);
    const half = (side === "left" ? 1 : -1) * (o.width / 2);
    const stays = o.stopAfter !== undefined && i >= last - 1;
    const strike = i * o.stepTime;
    const { y, slope } = o.terrain?.(s) ?? { y: 0, slope: 0 };
    const nextY = o.terrain?.(closing || stays ? s : s + o.stepLength).y ?? 0;
    steps.push({
      limb: side,
      y,
      slope,
      x: at.x + half * Math.cos(at.heading),
      z: at.z - half * Math.sin(at.heading),
      heading: at.heading + (side === "left" ? 0.08 : -0.08),
      strike,
      flat: strike + 0.14 * standTime,
      heelOff: stays ? NEVER : strike + 0.56 * standTime,
      toeOff: stays ? NEVER : strike + standTime,
      strikePitch: closing ? 0.08 : o.strikePitch,
      liftPitch: o.liftPitch,
      clearance: o.clearance,
    });
    const middle = strike + standTime / 2;
    const lateral = half * o.shift * (stays ? 0.2 : 1);
    const ahead = o.path(s + (stays ? 0 : 0.1 * o.stepLength));
    support.push({ t: middle, values: [ahead.x + lateral * Math.cos(at.heading), ahead.z - lateral * Math.sin(at.heading)] });
    heading.push({ t: middle, values: [at.heading] });
    const crouch = -(o.crouch ?? 0);
    height.push({ t: middle, values: [y + crouch + (stays ? 0 : o.bob)] });
    if (!stays) height.push({ t: middle + o.stepTime / 2, values: [(y + nextY) / 2 + crouch - o.bob] });
  }
  return { name: o.name, seconds: o.seconds, fps: o.fps, seed: o.seed, steps, support, heading, height, style: { ...DEFAULT_STYLE, ...o.style } };
}

/** Standing, the weight going from leg to leg; `shuffle` seconds after the start the right foot takes a small step. */
export function idlePlan(name: string, fps: number, seed: number, seconds: number, width: number, shuffle: number | undefined): Plan {
  const rest = { strike: -NEVER, flat: -NEVER, heelOff: NEVER, toeOff: NEVER, strikePitch: 0.05, liftPitch: 0.35, clearance: 0.04 };
  const right = { limb: "right" as const, x: -width / 2, z: -0.03, heading: -0.18 };
  const steps: Step[] = [{ ...rest, limb: "left", x: width / 2, z: 0, heading: 0.15 }];
  if (shuffle === undefined) steps.push({ ...rest, ...right });
  else {
    steps.push({ ...rest, ...right, heelOff: shuffle, toeOff: shuffle + 0.22 });
    steps.push({ ...rest, ...right, x: -width / 2 - 0.07, z: 0.09, strike: shuffle + 0.6, flat: shuffle + 0.68 });
  }
  const support: Knot[] = [];
  const height: Knot[] = [];
  const heading: Knot[] = [];
  for (let t = -1, i = 0; t < seconds + 2; t += 1.15 + 0.25 * (i % 3), i++) {
    const nearStep = shuffle !== undefined && t > shuffle - 0.9 && t < shuffle + 0.9;
    const side = nearStep ? 1 : i % 2 === 0 ? 1 : -1;
    support.push({ t, values: [side * width * 0.3, 0.035 + 0.012 * (i % 3)] });
    height.push({ t, values: [i % 2 === 0 ? -0.012 : -0.024] });
    heading.push({ t, values: [side * 0.07] });
  }
  return { name, seconds, fps, seed, steps, support, heading, height, style: { ...DEFAULT_STYLE, flow: 0.8, life: 1.6, lean: 0.03 } };
}

/** Steps to the left: the left foot leads, the right closes. */
export function sideStepPlan(name: string, fps: number, seed: number, count: number): Plan {
  const steps: Step[] = [];
  const support: Knot[] = [];
  const time = 0.55;
  const length = 0.34;
  const base = { heading: 0, strikePitch: 0.02, liftPitch: 0.3, clearance: 0.05 };
  for (let i = -1; i < count; i++) {
    for (const [k, limb] of (["left", "right"] as const).entries()) {
      const lead = k === 0;
      const swing = 0.4;
      const strike = i < 0 ? -NEVER : (2 * i + k) * time + swing + 0.3;
      const leave = i + 1 >= count ? NEVER : (2 * (i + 1) + k) * time + 0.3;
      const x = (i + 1) * length + (lead ? 0.1 : -0.1);
      steps.push({ ...base, limb, x, z: lead ? 0 : 0.02, strike, flat: i < 0 ? -NEVER : strike + 0.03, heelOff: leave - 0.12, toeOff: leave });
      support.push({ t: i < 0 ? -1 + k * 0.1 : strike + 0.1, values: [(i + 1) * length + (lead ? 0.03 : 0), 0.05] });
    }
  }
  const flat: Knot[] = [{ t: 0, values: [-0.03] }];
  return {
    name,
    seconds: 2 * count * time + 1,
    fps,
    seed,
    steps,
    support,
    heading: [{ t: 0, values: [0] }],
    height: flat,
    style: { ...DEFAULT_STYLE, flow: 1.1 },
  };
}

/** From a stand: crouch, leap forward with both feet, land, rise. */
export function jumpPlan(name: string, fps: number, seed: number, distance: number): Plan {
  const leave = 1;
  const flight = 0.42;
  const land = leave + flight;
  const steps: Step[] = (["left", "right"] as const).flatMap((limb) => {
    const x = limb === "left" ? 0.11 : -0.11;
    const base = { limb, x, heading: limb === "left" ? 0.06 : -0.06, liftPitch: 0.6, clearance: 0.12 };
    return [
      { ...base, z: 0, strike: -NEVER, flat: -NEVER, heelOff: leave - 0.18, toeOff: leave, strikePitch: 0 },
      { ...base, z: distance, strike: land, flat: land + 0.06, heelOff: NEVER, toeOff: NEVER, strikePitch: 0.15 },
    ];
  });
  const support: Knot[] = [
    { t: 0, values: [0, 0.04] },
    { t: leave - 0.15, values: [0, 0.1] },
    { t: land + 0.1, values: [0, distance - 0.02] },
    { t: land + 0.5, values: [0, distance + 0.04] },
  ];
  const height: Knot[] = [
    { t: 0, values: [-0.02] },
    { t: 0.3, values: [-0.02] },
    { t: leave - 0.25, values: [-0.24] },
    { t: leave + 0.03, values: [0.05] },
    { t: leave + flight / 2, values: [0.19] },
    { t: land, values: [0.02] },
    { t: land + 0.22, values: [-0.22] },
    { t: land + 0.7, values: [-0.03] },
  ];
  return { name, seconds: 2.6, fps, seed, steps, support, heading: [{ t: 0, values: [0] }], height, style: { ...DEFAULT_STYLE, flow: 2.5, lean: 0.12 } };
}

type Quarter = "leftHind" | "leftFore" | "rightHind" | "rightFore";

/** Diagonal legs together. */
export const TROT: Readonly<Record<Quarter, number>> = { leftHind: 0, rightFore: 0, rightHind: 0.5, leftFore: 0.5 };
const LATERAL: Readonly<Record<Quarter, number>> = { leftHind: 0, leftFore: 0.25, rightHind: 0.5, rightFore: 0.75 };

/** Where a four-legged body's hooves stand: along it from the hips and out from its middle, metres; and its size against the goat's. */
function quarters({ roles, skeleton, ankleHeight }: Character) {
  const offsetZ = (from: number, to: number) => {
    let z = 0;
    for (let j = to; j >= 0 && j !== from; j = skeleton.parents[j]) z += skeleton.offsets[j * 3 + 2];
    return z;
  };
  const hips = roles.hips ?? 0;
  const size = ankleHeight / (0.29 * 0.78);
  return {
    along: { Hind: offsetZ(hips, roles.leftFoot ?? 0), Fore: offsetZ(hips, roles.leftHand ?? 0) },
    half: { Hind: 0.1 * size, Fore: 0.09 * size },
    size,
  };
}

/** A four-legged body that stands and shifts its weight a little; no hoof leaves its place. */
export function quadrupedStand(
  character: Character,
  o: { readonly name: string; readonly fps: number; readonly seed: number; readonly seconds: number },
): Plan {
  const { along, half, size } = quarters(character);
  const rest = { strike: -NEVER, flat: -NEVER, heelOff: NEVER, toeOff: NEVER, strikePitch: 0.05, liftPitch: 0.3, clearance: 0.05 * size, heading: 0 };
  const ahead: Readonly<Record<Quarter, number>> = { leftHind: -0.05, rightHind: 0.03, leftFore: 0.02, rightFore: -0.03 };
  const steps = (Object.keys(ahead) as Quarter[]).map((limb): Step => {
    const end = limb.endsWith("Hind") ? "Hind" : "Fore";
    return { ...rest, limb, x: (limb.startsWith("left") ? 1 : -1) * half[end], z: along[end] + ahead[limb] * size };
  });
  const support: Knot[] = [];
  for (let t = -1, i = 0; t < o.seconds + 2; t += 1.3 + 0.2 * (i % 3), i++)
    support.push({ t, values: [0.012 * size * (i % 2 === 0 ? 1 : -1), 0.008 * size * ((i % 3) - 1)] });
  const level = [-1, o.seconds + 2];
  return {
    ...o,
    steps,
    support,
    heading: level.map((t) => ({ t, values: [0] })),
    height: level.map((t) => ({ t, values: [-0.012 * size] })),
    style: { ...DEFAULT_STYLE, flow: 1, life: 1.2 },
  };
}

/**
 * A quadruped's walk in lateral sequence: hind, then fore of the same side a quarter of a cycle later (Hildebrand, Science 150, 1965;
 * memory), each hoof down for `duty` of the cycle.
 */
export function quadrupedWalk(
  character: Character,
  o: {
    readonly name: string;
    readonly fps: number;
    readonly seed: number;
    readonly seconds: number;
    readonly stride: number;
    readonly cycle: number;
    readonly duty: number;
    readonly path: Path;
    readonly phases?: Readonly<Record<Quarter, number>>;
    /** height of the swing, metres for a goat */
    readonly clearance?: number;
  },
): Plan {
  const { along, half, size } = quarters(character);
  const phases = o.phases ?? LATERAL;
  const steps: Step[] = [];
  for (const limb of Object.keys(phases) as Quarter[]) {
    const end = limb.endsWith("Hind") ? "Hind" : "Fore";
    for (let i = -2; i * o.cycle < o.seconds + 2; i++) {
      const strike = (i + phases[limb]) * o.cycle;
      // Half of its stand is behind the hip or shoulder, half before.
      const s = ((strike + (o.duty * o.cycle) / 2) / o.cycle) * o.stride + along[end];
      const at = o.path(s);
      const side = (limb.startsWith("left") ? 1 : -1) * half[end];
      steps.push({
        limb,
        x: at.x + side * Math.cos(at.heading),
        z: at.z - side * Math.sin(at.heading),
        heading: at.heading,
        strike,
        flat: strike + 0.12 * o.duty * o.cycle,
        heelOff: strike + 0.35 * o.duty * o.cycle,
        toeOff: strike + o.duty * o.cycle,
        strikePitch: 0.22,
        liftPitch: 0.5,
        clearance: (o.clearance ?? 0.07) * size,
      });
    }
  }
  const support: Knot[] = [];
  const heading: Knot[] = [];
  const height: Knot[] = [];
  for (let t = -2 * o.cycle; t < o.seconds + o.cycle; t += o.cycle / 4) {
    const at = o.path((t / o.cycle) * o.stride);
    const quarter = Math.round((t / o.cycle) * 4);
    const sway = 0.014 * size * Math.sin((2 * Math.PI * t) / o.cycle);
    support.push({ t, values: [at.x + sway * Math.cos(at.heading), at.z - sway * Math.sin(at.heading)] });
    heading.push({ t, values: [o.path((t / o.cycle) * o.stride + 0.35 * size).heading] });
    height.push({ t, values: [(quarter % 2 === 0 ? -0.016 : -0.004) * size] });
  }
  return { name: o.name, seconds: o.seconds, fps: o.fps, seed: o.seed, steps, support, heading, height, style: { ...DEFAULT_STYLE, flow: 2 } };
}
