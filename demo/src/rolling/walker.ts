import { framesWithin, type Made } from "./made.ts";
import { applied, cross, dot, fromAxes, type Mat, minus, plus, product, SAME, scaled, transposed, turn, unit, type Vec } from "./matrix.ts";
import { LEVEL, meanHeights, type Terrain } from "./terrain.ts";

/** A body as shares of its height, which is in metres. */
export interface RollingBody {
  readonly name: string;
  readonly height: number;
  /** ankle to ball, ball to tip, ankle over the ground */
  readonly foot: number;
  readonly toe: number;
  readonly ankle: number;
  /** legs, against usual ones */
  readonly legs: number;
  /** names of its joints, root first, in the order of `PARENTS` */
  readonly joints: readonly string[];
}

/** How it goes: metres, seconds, radians; `duty` is the share of a stride that a foot is down, `lag` how late the right foot comes. */
export interface RollingGait {
  readonly name: string;
  readonly speed: number;
  readonly stride: number;
  readonly duty: number;
  /** pitch of the foot as its heel strikes, and as its toes leave */
  readonly strike: number;
  readonly push: number;
  readonly lift: number;
  readonly width: number;
  /** how sharply it turns, 1/m */
  readonly curve: number;
  readonly bob: number;
  readonly lag: number;
}

/** What such a body does. */
export interface Rolled extends Made {
  readonly body: RollingBody;
}

export const PARENTS = [-1, 0, 1, 2, 3, 0, 5, 6, 7, 0, 9, 10, 11, 2, 13, 14, 2, 16, 17] as const;
/** thigh, shin, foot, toes of either leg */
export const LEGS = [
  [5, 6, 7, 8],
  [9, 10, 11, 12],
] as const;
const HEEL_BEHIND = 0.35;
const BALL_OVER = 0.022;
/** Legs are bent at least so far that they reach this share of their length. */
const REACH = 0.988;
/** Hips that low, as a share of the leg, are no walk any more. */
const LOWEST = 0.5;

/** Quintic step: 0 up to 0, 1 from 1 on. */
export const smooth = (u: number) => (u <= 0 ? 0 : u >= 1 ? 1 : u * u * u * (10 - 15 * u + 6 * u * u));
/** 0 at 0 and at 1, smoothly 1 between. */
export const bump = (u: number) => 16 * u * u * (1 - u) * (1 - u);

interface Step {
  /** down from, heel up from, off from: seconds */
  readonly down: number;
  readonly heelUp: number;
  readonly off: number;
  /** how long the foot rolls onto its sole */
  readonly roll: number;
  readonly place: Vec;
  readonly yaw: number;
  /** how steeply the ground under it rises */
  readonly steep: number;
}

interface FootPose {
  readonly ankle: Vec;
  readonly pitch: number;
  readonly toeBend: number;
  readonly yaw: number;
}

/** Lengths of a body's legs and feet, metres, and where each of its joints is in its parent's frame, and each bone's end in its joint's. */
export function bonesOf(body: RollingBody) {
  const { height: h } = body;
  const leg = 0.5 * h * body.legs;
  const [thigh, shin, hipWide, ankleUp, ballUp] = [0.52 * leg, 0.48 * leg, 0.055 * h, body.ankle * h, BALL_OVER * h];
  const ball: Vec = [0, ballUp - ankleUp, body.foot * h];
  const heel: Vec = [0, -ankleUp, -HEEL_BEHIND * body.foot * h];
  const hips: readonly Vec[] = [
    [hipWide, -0.03 * h, 0],
    [-hipWide, -0.03 * h, 0],
  ];
  const tip: Vec = [0, -0.5 * ballUp, body.toe * h];
  const offsets: readonly Vec[] = [
    [0, 0, 0],
    [0, 0.1 * h, 0],
    [0, 0.13 * h, 0],
    [0, 0.12 * h, 0],
    [0, 0.05 * h, 0.01 * h],
    ...hips.flatMap((hip): Vec[] => [hip, [0, -thigh, 0], [0, -shin, 0], ball]),
    ...[1, -1].flatMap((way): Vec[] => [
      [way * 0.1 * h, 0.07 * h, 0],
      [way * 0.16 * h, 0, 0],
      [way * 0.14 * h, 0, 0],
    ]),
  ];
  const ends: ReadonlyMap<number, Vec> = new Map<number, Vec>([
    [4, [0, 0.11 * h, 0]],
    [8, tip],
    [12, tip],
    [15, [0.08 * h, 0, 0]],
    [18, [-0.08 * h, 0, 0]],
  ]);
  return { thigh, shin, hipWide, ankleUp, ball, heel, hips, offsets, ends };
}

/** Where a limb of two bones bends between its ends, towards `front` (law of cosines). What does not reach is straight. */
export function bentAt(from: Vec, to: Vec, upper: number, lower: number, front: Vec): Vec {
  const way = minus(to, from);
  const far = Math.hypot(...way);
  const cosine = Math.min(1, (upper * upper + far * far - lower * lower) / (2 * upper * far));
  return plus(from, plus(scaled(unit(way), upper * cosine), scaled(front, upper * Math.sqrt(Math.max(0, 1 - cosine * cosine)))));
}

/** The turn of a leg's bone that goes from one place to another, its front towards `front`. */
export function legBone(from: Vec, to: Vec, front: Vec): Mat {
  const y = unit(minus(from, to));
  const x = unit(cross(y, front));
  return fromAxes(x, y, cross(x, y));
}

/**
 * A walk or run whose feet are known exactly: each strikes with a fixed point of its heel and rolls about it, lies flat, rolls about its ball while the toes lie, and swings along a cubic
 * between. Legs hang from hips that sway, by the law of cosines. Throws RangeError where they are too short for it. It shares no computation with the other performances of the demo: what is measured on both is no peculiarity of one. `terrain` is the ground along its way: soles lie on it, and the body follows its mean.
 */
export function rolledWalk(body: RollingBody, gait: RollingGait, fps: number, seconds: number, terrain: Terrain = LEVEL): Rolled {
  const { height: h } = body;
  const frames = Math.round(seconds * fps) + 1;
  const { thigh, shin, hipWide, ankleUp, ball, heel, hips, offsets, ends } = bonesOf(body);
  const leg = thigh + shin;
  const period = gait.stride / gait.speed;
  const { curve } = gait;
  const along = (s: number): Vec => (curve === 0 ? [0, 0, s] : [(1 - Math.cos(curve * s)) / curve, 0, Math.sin(curve * s) / curve]);
  const sideways = (s: number, by: number): Vec => [by * Math.cos(curve * s), 0, -by * Math.sin(curve * s)];

  const steps = [0, 1].map((side) => {
    const out: Step[] = [];
    for (let k = -2; (k - 1) * period < seconds + period; k++) {
      const down = (k + side * (0.5 + gait.lag)) * period;
      const stand = gait.duty * period;
      // No two footfalls are spaced quite alike.
      const s = gait.speed * (down + stand / 2) + ((Math.abs(k * 31) % 7) - 3) * 0.004 * h;
      const { up, steep } = terrain(s);
      const place = plus(plus(along(s), [0, up, 0]), sideways(s, (side === 0 ? 1 : -1) * hipWide * gait.width));
      out.push({ down, heelUp: down + 0.62 * stand, off: down + stand, roll: Math.min(0.22 * stand, 0.16), place, yaw: curve * s, steep });
    }
    return out;
  });

  const standing = (step: Step, t: number): FootPose => {
    const { place, yaw, steep } = step;
    const lies = product(turn("y", yaw), turn("x", -steep));
    const about = (pivot: Vec, pitch: number): Vec =>
      minus(plus(place, applied(lies, plus(pivot, [0, ankleUp, 0]))), applied(product(lies, turn("x", -pitch)), pivot));
    if (t > step.heelUp) {
      const pitch = (-gait.push * smooth((0.9 * (t - step.heelUp)) / (step.off - step.heelUp))) / smooth(0.9);
      return { ankle: about(ball, pitch), pitch: pitch + steep, toeBend: pitch, yaw };
    }
    const pitch = t < step.down + step.roll ? gait.strike * (1 - smooth((t - step.down) / step.roll)) : 0;
    return { ankle: about(heel, pitch), pitch: pitch + steep, toeBend: 0, yaw };
  };
  const footAt = (side: number, t: number): FootPose => {
    const at = steps[side].findIndex((step) => t <= step.off);
    const step = steps[side][at];
    if (t >= step.down) return standing(step, t);
    const before = steps[side][at - 1];
    const long = step.down - before.off;
    const u = (t - before.off) / long;
    const EDGE = 1e-4;
    const [a, b] = [standing(before, before.off), standing(step, step.down)];
    const speed = (from: FootPose, to: FootPose) => scaled(minus(to.ankle, from.ankle), (0.6 * long) / EDGE);
    const [va, vb] = [speed(standing(before, before.off - EDGE), a), speed(b, standing(step, step.down + EDGE))];
    const w = u * u * (3 - 2 * u);
    const swing = plus(
      plus(scaled(a.ankle, 1 - w), scaled(b.ankle, w)),
      plus(scaled(va, u * (1 - u) * (1 - u)), plus(scaled(vb, u * u * (u - 1)), [0, gait.lift * h * bump(u), 0])),
    );
    return {
      ankle: swing,
      pitch: a.pitch + (b.pitch - a.pitch) * smooth(u) - 0.25 * bump(u) * gait.push,
      toeBend: a.toeBend * (1 - smooth(2.2 * u)),
      yaw: before.yaw + (step.yaw - before.yaw) * smooth(u),
    };
  };
  const groundAt = meanHeights(terrain, 0.5 * gait.stride);
  const hipsAt = (t: number, up: number): { place: Vec; turned: Mat } => {
    const [s, phase] = [gait.speed * t, (2 * Math.PI * t) / period];
    const level = plus(along(s), sideways(s, 0.018 * h * Math.sin(phase + 0.2)));
    const turned = product(
      turn("y", curve * s + 0.07 * Math.sin(phase + 0.4)),
      turn("x", gait.duty < 0.5 ? 0.12 : 0.03),
      turn("z", 0.04 * Math.sin(phase + 1.1)),
    );
    return { place: plus(level, [0, groundAt(s) + up + gait.bob * h * Math.cos(2 * phase + 0.6) + 0.003 * h * Math.sin(phase), 0]), turned };
  };
  const legAt = (side: number, t: number, up: number) => {
    const { place, turned } = hipsAt(t, up);
    const foot = footAt(side, t);
    const hip = plus(place, applied(turned, hips[side]));
    return { foot, hip, turned, place, way: minus(foot.ankle, hip) };
  };
  let up = leg + 0.9 * ankleUp + 0.045 * h;
  const reaches = () =>
    [0, 1].every((side) => Array.from({ length: frames }, (_, f) => Math.hypot(...legAt(side, f / fps, up).way)).every((d) => d <= REACH * (thigh + shin)));
  while (!reaches()) {
    up -= 0.004 * h;
    if (up < LOWEST * leg) throw new RangeError(`legs of ${leg.toFixed(2)} m do not reach so far: ${gait.name}, strides of ${gait.stride.toFixed(2)} m`);
  }

  const turns: Mat[][] = [];
  const roots: Vec[] = [];
  for (let f = 0; f < frames; f++) {
    const t = f / fps;
    const phase = (2 * Math.PI * t) / period;
    const local: Mat[] = PARENTS.map(() => SAME);
    const { place, turned } = hipsAt(t, up);
    local[0] = turned;
    local[1] = turn("y", -0.05 * Math.sin(phase));
    local[2] = turn("y", -0.06 * Math.sin(phase + 0.3));
    for (const [joint, way] of [
      [13, 1],
      [16, -1],
    ] as const) {
      local[joint] = product(turn("x", way * 0.35 * Math.sin(phase)), turn("z", -way * 1.3));
      local[joint + 1] = turn("y", -way * 0.3);
    }
    for (const side of [0, 1]) {
      const { foot, hip, way } = legAt(side, t, up);
      const down = unit(way);
      const ahead = applied(turn("y", 0.5 * (foot.yaw + curve * gait.speed * t)), [0, 0, 1]);
      const front = unit(minus(ahead, scaled(down, dot(ahead, down))));
      const knee = bentAt(hip, foot.ankle, thigh, shin, front);
      const [a, b] = [legBone(hip, knee, front), legBone(knee, foot.ankle, front)];
      const sole = product(turn("y", foot.yaw), turn("x", -foot.pitch));
      const [upper, lower, end, toes] = LEGS[side];
      local[upper] = product(transposed(turned), a);
      local[lower] = product(transposed(a), b);
      local[end] = product(transposed(b), sole);
      local[toes] = turn("x", foot.toeBend);
    }
    turns.push(local);
    roots.push(place);
  }
  return {
    body,
    joints: body.joints,
    parents: PARENTS,
    legs: LEGS,
    fps,
    turns,
    roots,
    offsets,
    ends,
    contacts: steps.flatMap((list, side) =>
      list.flatMap((step) => {
        const name = side === 0 ? "left" : "right";
        const heels = framesWithin(step.down, step.heelUp, fps, frames).map((span) => ({
          point: `${name}Heel`,
          at: { joint: LEGS[side][2], place: heel },
          ...span,
        }));
        const toes = framesWithin(step.down + (gait.strike > 0.02 ? step.roll : 0), step.off, fps, frames);
        return [...heels, ...toes.map((span) => ({ point: `${name}Toe`, joint: LEGS[side][3], ...span }))];
      }),
    ),
  };
}
