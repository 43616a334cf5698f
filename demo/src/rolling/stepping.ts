import { applied, type Mat, plus, product, SAME, scaled, turn, type Vec } from "./matrix.ts";
import { between, during, sideOf, wave } from "./moves.ts";
import type { Act, FootPose } from "./perform.ts";
import { bonesOf, bump, type RollingBody, smooth } from "./walker.ts";

/** A flat foot that stands from one moment to another, seconds: how far it was lifted on the way there and its toes hung down (heights, radians), or how far under the hip it hung. */
interface Stand {
  readonly from: number;
  readonly to: number;
  readonly at: Vec;
  readonly yaw?: number;
  readonly lift?: number;
  readonly tip?: number;
  readonly hung?: Vec;
}

interface Trunk {
  readonly hips: Vec;
  readonly turned?: Mat;
  readonly spine?: Mat;
}

/** How high a body flies from one moment to another, of the highest. */
const flight = (t: number, from: number, to: number) => bump(Math.max(0, Math.min(1, (t - from) / (to - from))));

/** Jumps, from and onto boxes too, a kick, and steps to the side, back and about: flat feet that stand by turns or at once. */
export function stepping(body: RollingBody): Act[] {
  const { height: h } = body;
  const { thigh, shin, hipWide, ball, hips: sockets, ankleUp } = bonesOf(body);
  const up = ankleUp + 0.985 * (thigh + shin) - sockets[0][1];
  /** Where the ball of a foot is, so far aside, ahead and up, in heights. */
  const foot = (side: number, aside = 0, ahead = 0, over = 0): Vec => [
    sideOf(side) * hipWide * 1.2 + aside * h,
    ankleUp + ball[1] + over * h,
    ahead * h + ball[2],
  ];
  const both = (stands: (side: number) => readonly Stand[]) => [stands(0), stands(1)];
  const footAt = (stands: readonly Stand[], side: number, t: number, { hips, turned = SAME }: Trunk): FootPose => {
    const next = stands.findIndex((stand) => t <= stand.to);
    const at = next < 0 ? stands.length - 1 : next;
    const { from, at: place, yaw = 0, lift = 0.06, tip = 0.4, hung } = stands[at];
    const before = t < from ? stands[at - 1] : null;
    if (!before) return { ball: place, sole: turn("y", yaw), toes: 0, knee: applied(turn("y", yaw), [0, 0, 1]) };
    const u = (t - before.to) / (from - before.to);
    const turnedBy = turn("y", (before.yaw ?? 0) + (yaw - (before.yaw ?? 0)) * smooth(u));
    const swings = plus(between(before.at, place, smooth(u)), [0, lift * h * bump(u), 0]);
    const hangs = hung ? plus(plus(hips, applied(turned, sockets[side])), scaled(hung, h)) : swings;
    return {
      ball: between(swings, hangs, smooth(u / 0.35) * (1 - smooth((u - 0.65) / 0.35))),
      sole: product(turnedBy, turn("x", tip * bump(u))),
      toes: 0,
      knee: applied(turnedBy, [0, 0, 1]),
    };
  };
  const act = (name: string, seconds: number, stands: readonly (readonly Stand[])[], trunk: (t: number) => Trunk): Act => ({
    name,
    byFeet: true,
    seconds,
    rests: stands.flatMap((list, side) =>
      list.flatMap(({ from, to }) =>
        ["Toe", "Heel"].map((part) => [(side === 0 ? "left" : "right") + part, Math.max(0, from), Math.min(seconds, to)] as const),
      ),
    ),
    pose: (t) => ({ turned: SAME, ...trunk(t), feet: (side) => footAt(stands[side], side, t, trunk(t)) }),
  });
  /** Stands by turns: from and to as shares of a stride of so many seconds, the n-th of a foot where `at` says. */
  const byTurns = (seconds: number, stride: number, [from, to]: readonly [number, number], at: (side: number, step: number) => Omit<Stand, "from" | "to">) =>
    both((side) =>
      Array.from({ length: Math.ceil(seconds / stride) + 2 }, (_, i): Stand => {
        const step = i + side / 2;
        return { from: Math.max(0, (step - 1 + from) * stride), to: (step - 1 + to) * stride, ...at(side, step) };
      }),
    );
  const low = (t: number, ...moments: readonly number[]) => moments.reduce((sum, at) => sum + during(t, at, at + 0.06, 0.3), 0);
  const stands = up - 0.02 * h;
  const leap = (far: number, over: number, hung: Vec) =>
    both((side) => [
      { from: 0, to: 1.2, at: foot(side, 0, 0, Math.max(0, -over)) },
      { from: 1.7 + 0.02 * side, to: 3.5, at: foot(side, 0, far, Math.max(0, over)), hung },
    ]);
  const TURN = 0.9;

  return [
    act(
      "jumping on the spot",
      4,
      both((side) => [
        { from: 0, to: 1.2, at: foot(side) },
        { from: 1.65, to: 2.2, at: foot(side, 0.01), hung: [0, -0.4, 0.08] },
        { from: 2.65, to: 4, at: foot(side, 0.02), hung: [0, -0.4, 0.08] },
      ]),
      (t) => ({ hips: [0, stands - 0.12 * h * low(t, 0.85, 1.9, 2.95) + 0.15 * h * (flight(t, 1.2, 1.65) + flight(t, 2.2, 2.65)), 0] }),
    ),
    act("a long jump", 3.5, leap(0.6, 0, [0, -0.43, 0.06]), (t) => ({
      hips: [
        0,
        stands - 0.15 * h * low(t, 0.85, 2.02) + 0.18 * h * flight(t, 1.2, 1.7),
        h * (0.06 * smooth((t - 0.8) / 0.5) + 0.48 * smooth((t - 1.05) / 0.85) + 0.06 * smooth((t - 1.65) / 0.4)),
      ],
      spine: turn("x", 0.4 * during(t, 0.8, 2.1, 0.4)),
    })),
    act("jumping off a box", 3.5, leap(0.4, -0.35, [0, -0.44, 0.05]), (t) => ({
      hips: [0, stands + 0.35 * h * (1 - smooth((t - 1.2) / 0.5)) - 0.13 * h * low(t, 0.85, 1.95), 0.4 * h * smooth((t - 1) / 0.75)],
    })),
    act("jumping onto a box", 3.5, leap(0.4, 0.25, [0, -0.3, 0.1]), (t) => ({
      hips: [
        0,
        stands + 0.25 * h * smooth((t - 1.18) / 0.5) + 0.1 * h * flight(t, 1.2, 1.7) - 0.15 * h * low(t, 0.85, 2.05),
        0.4 * h * smooth((t - 1.1) / 0.75),
      ],
    })),
    act(
      "kicking",
      3,
      [
        [{ from: 0, to: 3, at: foot(0) }],
        [
          { from: 0, to: 1, at: foot(1) },
          { from: 1.8, to: 3, at: foot(1), hung: [0.02, -0.2, 0.4], tip: 0.1 },
        ],
      ],
      (t) => ({ hips: [hipWide * 0.9 * during(t, 1, 1.8, 0.6), up - 0.03 * h, 0.01 * h * wave(t, 2)] }),
    ),
    act(
      "stepping aside",
      3.9,
      byTurns(3.9, 0.9, [0.25, 0.85], (side, step) => ({ at: foot(side, 0.25 * (step - side / 2)), lift: 0.05, tip: 0.15 })),
      (t) => ({ hips: [0.25 * h * (t / 0.9 + 0.28), up - 0.04 * h, 0] }),
    ),
    act(
      "walking backwards",
      4,
      byTurns(4, 1, [0.35, 1], (side, step) => ({ at: foot(side, 0, -0.3 * step), lift: 0.05, tip: 0.3 })),
      (t) => ({ hips: [0.01 * h * wave(t, 1), up - 0.03 * h, -0.3 * h * (t + 0.18)] }),
    ),
    act(
      "turning about",
      3.5,
      byTurns(3.5, 0.7, [0.3, 1], (side, step) => ({ at: applied(turn("y", TURN * step), foot(side)), yaw: TURN * step, lift: 0.04, tip: 0.2 })),
      (t) => ({ hips: [0, up - 0.04 * h, 0.01 * h * wave(t, 0.7)], turned: turn("y", TURN * (t / 0.7 + 0.1)) }),
    ),
  ];
}
