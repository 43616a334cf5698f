import { type FourLegged, HOOF_UP, type HoofPose, LEGS, POINTS, posedOnFour, SHOULDERS } from "./fourBones.ts";
import { framesWithin, type Made } from "./made.ts";
import { applied, dot, type Mat, minus, plus, SAME, scaled, turn, type Vec } from "./matrix.ts";
import { between, during, wave } from "./moves.ts";
import { bump, smooth } from "./walker.ts";

/** A hoof that stands from one moment to another, seconds: where, turned how, and how high it was lifted on the way there, all in heights of the body. */
interface Stand {
  readonly from: number;
  readonly to: number;
  readonly at: Vec;
  readonly yaw?: number;
  readonly lift?: number;
  /** until then it hung from the trunk, drawn up so far */
  readonly hung?: Vec;
}

/** What an animal does beside going: how its trunk is held, in heights of the body, and where its hooves stand when. */
interface FourAct {
  readonly name: string;
  readonly seconds: number;
  readonly hips: (t: number) => Vec;
  readonly turned?: (t: number) => Mat;
  readonly neck?: (t: number) => Mat;
  readonly stands: readonly (readonly Stand[])[];
}

/** Hips of a body that stands with its legs a little bent. */
const UP = 0.83;
/** Where a hoof stands under a body whose hips are over the middle, level. */
const under = (leg: number, ahead = 0, aside = 0): Vec => [(leg % 2 === 0 ? 0.08 : -0.08) + aside, 0, (leg < 2 ? 0 : SHOULDERS) + ahead];
const all = (seconds: number) => LEGS.map((_, leg): Stand[] => [{ from: 0, to: seconds, at: under(leg) }]);
const except = (seconds: number, others: Readonly<Record<number, readonly Stand[]>>) => all(seconds).map((own, leg) => others[leg] ?? own);

/** Steps of half a second by turns, hind left, fore left, hind right, fore right, each a share of the way: `placeAt` says where a leg belongs after so much of the way. */
function byTurns(seconds: number, steps: number, placeAt: (leg: number, way: number) => Pick<Stand, "at" | "yaw">): Stand[][] {
  const ORDER = [0, 2, 1, 3];
  const each = seconds / steps;
  return LEGS.map((_, leg) => {
    const own: Stand[] = [];
    const swings = Array.from({ length: steps }, (_, k) => k).filter((k) => ORDER[k % 4] === leg);
    [...swings, steps].forEach((k, i) => {
      const before = swings[i - 1];
      const way = before === undefined ? 0 : (before + 2) / steps;
      own.push({ from: before === undefined ? 0 : (before + 0.9) * each, to: k === steps ? seconds : (k + 0.1) * each, ...placeAt(leg, way) });
    });
    return own;
  });
}

function acts(): readonly FourAct[] {
  const sway = (t: number): Vec => [0.012 * wave(t, 2.3), UP + 0.006 * wave(t, 1.9), 0.01 * wave(t, 3.1)];
  const standing: FourAct = { name: "standing", seconds: 5, hips: sway, neck: (t) => turn("x", 0.2 * wave(t, 2.7)), stands: all(5) };
  const paws = [1, 1.9, 2.8].map((from, i, list): Stand => ({ from: from + 0.45, to: list[i + 1] ?? 5, at: under(2, 0.05 * (i % 2)), lift: 0.16 }));
  const pawing: FourAct = { name: "pawing", seconds: 5, hips: sway, stands: except(5, { 2: [{ from: 0, to: 1, at: under(2) }, ...paws] }) };
  const grazing: FourAct = {
    name: "grazing",
    seconds: 6,
    hips: (t) => plus(sway(t), [0, -0.02 * during(t, 1.5, 5, 1), 0]),
    turned: (t) => turn("x", 0.06 * during(t, 1.5, 5, 1)),
    neck: (t) => turn("x", (2.1 + 0.1 * wave(t, 0.8)) * during(t, 1.5, 5, 1)),
    stands: except(6, {
      3: [
        { from: 0, to: 3, at: under(3) },
        { from: 3.4, to: 6, at: under(3, 0.15), lift: 0.05 },
      ],
    }),
  };
  const risen = (t: number) => during(t, 1.95, 2.6, 0.75);
  const rearing: FourAct = {
    name: "rearing",
    seconds: 4.5,
    hips: (t) => [0.01 * wave(t, 2.1), UP - 0.14 * risen(t), 0.02 * risen(t)],
    turned: (t) => turn("x", -0.7 * risen(t)),
    stands: except(4.5, { 2: airborne(1.15, 3.55, 2, [0, -0.5, 0.1]), 3: airborne(1.2, 3.6, 3, [0, -0.45, 0.15]) }),
  };
  const kicked = (t: number) => during(t, 1.5, 1.8, 0.3);
  const kicking: FourAct = {
    name: "kicking out",
    seconds: 3.5,
    hips: (t) => [0.01 * wave(t, 2.1), UP - 0.03 + 0.2 * kicked(t), 0.03 * kicked(t)],
    turned: (t) => turn("x", 0.3 * kicked(t)),
    stands: except(3.5, { 0: airborne(1.3, 2.0, 0, [0, -0.4, -0.35]), 1: airborne(1.28, 2.02, 1, [0, -0.4, -0.35]) }),
  };
  const FAR = 1.8;
  const leap = (t: number) => smooth((t - 1.15) / 1.0);
  const leaping: FourAct = {
    name: "leaping",
    seconds: 3.5,
    hips: (t) => [0, UP - 0.14 * during(t, 0.9, 1.05, 0.5) + 0.42 * 16 * leap(t) ** 2 * (1 - leap(t)) ** 2 - 0.14 * during(t, 2.2, 2.3, 0.35), FAR * leap(t)],
    turned: (t) => turn("x", -0.3 * during(t, 1.45, 1.5, 0.25) + 0.25 * during(t, 1.8, 1.95, 0.3)),
    stands: [0, 1, 2, 3].map((leg) => {
      const [off, down] = leg < 2 ? [1.33, 2.12 + 0.04 * leg] : [1.08 + 0.02 * leg, 1.94 + 0.03 * leg];
      return [
        { from: 0, to: off, at: under(leg) },
        { from: down, to: 3.5, at: under(leg, FAR), hung: leg < 2 ? [0, -0.5, -0.2] : [0, -0.45, 0.2] },
      ];
    }),
  };
  const turned = (way: number) => turn("y", 2 * way);
  const about: Vec = [0, 0, SHOULDERS / 2];
  const turning: FourAct = {
    name: "turning on the spot",
    seconds: 8,
    hips: (t) => plus(plus(about, applied(turned(smooth(t / 8)), scaled(about, -1))), sway(t)),
    turned: (t) => turned(smooth(t / 8)),
    stands: byTurns(8, 24, (leg, way) => {
      const eased = smooth(way);
      return { at: plus(about, applied(turned(eased), minus(under(leg), about))), yaw: 2 * eased };
    }),
  };
  const stepping: FourAct = {
    name: "stepping aside",
    seconds: 6,
    hips: (t) => plus(sway(t), [0.7 * smooth(t / 6), 0, 0]),
    stands: byTurns(6, 20, (leg, way) => ({ at: under(leg, 0, 0.7 * smooth(way)) })),
  };
  const low = (t: number) => during(t, 1.6, 4, 1);
  const crouching: FourAct = {
    name: "crouching",
    seconds: 5.5,
    hips: (t) => plus(sway(t), [0, -0.36 * low(t), 0]),
    stands: all(5.5),
  };
  return [standing, pawing, grazing, rearing, kicking, leaping, turning, stepping, crouching];
}

/** A hoof that hangs in the air from one moment to another, so far from where its leg begins, and comes back to where it stood. */
function airborne(from: number, to: number, leg: number, hung: Vec): readonly Stand[] {
  return [
    { from: 0, to: from, at: under(leg) },
    { from: to, to: 10, at: under(leg, 0.02), hung },
  ];
}

export const FOUR_ACTS: readonly FourAct[] = acts();

/** Such an act by a body: where each hoof stands, and for how long, is known. */
export function performedOnFour(body: FourLegged, act: FourAct, fps: number): Made {
  const { withers: w } = body;
  const { seconds, hips, turned = () => SAME, neck = () => SAME, stands } = act;
  const frames = Math.round(seconds * fps) + 1;
  const hoofAt = (leg: number, t: number): HoofPose => {
    const next = stands[leg].findIndex((stand) => t <= stand.to);
    const at = next < 0 ? stands[leg].length - 1 : next;
    const { from, at: to, yaw = 0, lift = 0.08, hung } = stands[leg][at];
    const before = t < from ? stands[leg][at - 1] : null;
    const u = before ? (t - before.to) / (from - before.to) : 1;
    const level = before ? plus(before.at, scaled(minus(to, before.at), smooth(u))) : to;
    const turnedBy = before ? (before.yaw ?? 0) + (yaw - (before.yaw ?? 0)) * smooth(u) : yaw;
    const aside = leg % 2 === 0 ? 0.09 : -0.09;
    const socket = plus(hips(t), applied(turned(t), [aside, -0.05, leg < 2 ? 0 : SHOULDERS]));
    const swings = plus(level, [0, HOOF_UP + (before ? lift * bump(u) : 0), 0]);
    const place = hung && before ? between(swings, plus(socket, hung), smooth(u / 0.35) * (1 - smooth((u - 0.65) / 0.35))) : swings;
    const over = dot(minus(socket, place), applied(turn("y", turnedBy), [0, 0, 1]));
    // Legs of which the trunk comes low fold, hind ones back and fore ones ahead.
    const folded = Math.max(0, UP - 0.1 - (socket[1] - place[1])) * (leg < 2 ? -1.2 : 1.2);
    return { place: scaled(place, w), yaw: turnedBy, leaning: Math.max(-0.9, Math.min(0.9, -0.8 * over + folded - (before ? 0.35 * bump(u) : 0))) };
  };
  const poses = Array.from({ length: frames }, (_, f) => {
    const t = f / fps;
    return { hips: scaled(hips(t), w), turned: turned(t), neck: neck(t), hoofAt: (leg: number) => hoofAt(leg, t) };
  });
  const contacts = stands.flatMap((list, leg) =>
    list.flatMap(({ from, to }) => framesWithin(from, to, fps, frames).map((span) => ({ point: POINTS[leg], joint: LEGS[leg][3], ...span }))),
  );
  return { ...posedOnFour(body, poses), fps, contacts };
}
