import { applied, fromAxes, type Mat, minus, plus, product, SAME, turn, type Vec } from "./matrix.ts";
import { AHEAD, between, during, flatPalm, sideOf } from "./moves.ts";
import type { Act } from "./perform.ts";
import { bonesOf, type RollingBody, smooth } from "./walker.ts";

/** A crawl: seconds a cycle, share of it that a limb is down, when each begins its stand, and how far it stands over, as a share of the height. */
const CYCLE = 1.1;
const DOWN = 0.66;
const LAGS = { leftKnee: 0, rightHand: 0.06, rightKnee: 0.5, leftHand: 0.56 } as const;
const STAND = 0.13;
const LIFT = 0.02;
const CRAWLS = 6;

/** Where a limb is in its cycle, and how many it has done. */
function cycleOf(t: number, lag: number): { readonly count: number; readonly u: number } {
  const all = t / CYCLE - lag;
  const count = Math.floor(all);
  return { count, u: all - count };
}

/** How far a limb has come, in stands, and how far it is lifted, 0..1. */
function stepOf(t: number, lag: number): { readonly far: number; readonly lifted: number } {
  const { count, u } = cycleOf(t, lag);
  const swing = Math.max(0, (u - DOWN) / (1 - DOWN));
  return { far: count + smooth(swing), lifted: 16 * swing ** 2 * (1 - swing) ** 2 };
}

/** On hands and knees: the hips go ahead evenly, each thigh turns about the knee it stands on, and the shins lie. */
export function crawling(body: RollingBody): Act {
  const { height: h } = body;
  const { thigh, shin, ball, hips: sockets } = bonesOf(body);
  const seconds = CRAWLS;
  // A limb that stands over so much goes so far in a cycle.
  const stride = (STAND / DOWN) * h;
  const along = fromAxes([1, 0, 0], [0, 0, 1], [0, -1, 0]);
  const rests = Object.entries(LAGS).flatMap(([part, lag]) => {
    const out: (readonly [string, number, number])[] = [];
    for (let k = -1; (k + lag) * CYCLE < seconds; k++) {
      const from = (k + lag) * CYCLE;
      if (from + DOWN * CYCLE > 0) out.push([part, Math.max(0, from), Math.min(seconds, from + DOWN * CYCLE)]);
    }
    return out;
  });
  const kneeUp = 0.035 * h;
  const bow = Math.max(0, (kneeUp + thigh - 0.255 * h) / (0.2 * h));
  const kneeAt = (side: number, t: number, socket: Vec, x: number): Vec => {
    const { far, lifted } = stepOf(t, side === 0 ? LAGS.leftKnee : LAGS.rightKnee);
    const lag = side === 0 ? LAGS.leftKnee : LAGS.rightKnee;
    // In the middle of its stand the socket is over it.
    return [x, kneeUp + LIFT * h * lifted, stride * (far + lag + DOWN / 2) + socket[2]];
  };
  const pose: Act["pose"] = (t) => {
    const level = (stride * t) / CYCLE;
    const wide = sockets.map((s) => s[0]);
    const base = applied(along, sockets[0]);
    const knees = [0, 1].map((side) => kneeAt(side, t, base, wide[side]));
    // How high a socket is over a knee at a thigh's length; the hips roll so that both are.
    let roll = 0;
    let up = 0;
    for (let k = 0; k < 40; k++) {
      const turned = product(turn("z", roll), along);
      const heights = [0, 1].map((side) => {
        const s = plus([0, 0, level], applied(turned, sockets[side]));
        const [dx, dz] = [s[0] - knees[side][0], s[2] - knees[side][2]];
        return knees[side][1] + Math.sqrt(thigh * thigh - dx * dx - dz * dz) - s[1];
      });
      roll += Math.atan2(heights[0] - heights[1], wide[0] - wide[1]);
      up = (heights[0] + heights[1]) / 2;
    }
    const turned: Mat = product(turn("z", roll), along);
    const hips: Vec = [0, up, level];
    const ankleUp = 0.03 * h;
    return {
      hips,
      turned,
      // Shoulders are low enough for the arms.
      spine: product(turn("x", bow), turn("z", 0.03 * Math.sin((2 * Math.PI * t) / CYCLE))),
      hands: (side) => {
        const lag = side === 0 ? LAGS.leftHand : LAGS.rightHand;
        const { far, lifted } = stepOf(t, lag);
        return {
          wrist: [sideOf(side) * 0.11 * h, 0.02 * h + 0.05 * h * lifted, stride * (far + lag + DOWN / 2) + 0.3 * h],
          palm: flatPalm(side, AHEAD),
          elbow: [sideOf(side), 0.2, -1],
        };
      },
      feet: (side) => {
        const knee = knees[side];
        const rise = ankleUp - kneeUp;
        const ankle: Vec = [knee[0], knee[1] + rise, knee[2] - Math.sqrt(shin * shin - rise * rise)];
        const sole = turn("x", 2.6);
        const socket = plus(hips, applied(turned, sockets[side]));
        return { ball: plus(ankle, applied(sole, ball)), sole, toes: 0, knee: minus(knee, socket) };
      },
    };
  };
  return { name: "crawling", byFeet: true, besides: ["leftToe", "rightToe", "leftHeel", "rightHeel"], seconds, rests, pose };
}

/** On its back, one knee and one hand come up and go down. */
export function lying(body: RollingBody): Act {
  const { height: h } = body;
  return {
    name: "lying on the back",
    byFeet: false,
    besides: ["leftHand", "rightHand", "leftElbow", "rightElbow", "leftKnee", "rightKnee"],
    seconds: 5,
    rests: [
      ["back", 0, 5],
      ["seat", 0, 5],
      ["head", 0, 5],
    ],
    pose: (t) => ({
      hips: [0, 0.055 * h, 0],
      turned: fromAxes([-1, 0, 0], [0, 0, 1], [0, 1, 0]),
      bent: 0,
      hang: (side) => (side === 0 ? SAME : turn("x", -0.7 * during(t, 2.2, 3, 0.9))),
      hands: (side, shoulder) => ({
        wrist: plus(shoulder, between([-sideOf(side) * 0.05 * h, -0.02 * h, -0.28 * h], [0, 0.27 * h, 0.05 * h], side === 0 ? during(t, 1.8, 3.2, 0.8) : 0)),
        palm: flatPalm(side, [0, 0, -1]),
        elbow: [-sideOf(side), -0.3, 0],
      }),
    }),
  };
}

/** From sitting on the floor with the feet before it the body lies down on its back, and sits up again. */
export function lyingDown(body: RollingBody): Act {
  const { height: h } = body;
  const { hipWide, ankleUp, ball } = bonesOf(body);
  const FLAT: readonly [number, number] = [2.2, 4];
  const [DOWN_IN, UP_IN] = [1.3, 1.5];
  return {
    name: "lying down on the back",
    byFeet: false,
    // It slides back on its seat as it lies down: since when that rests nothing says.
    besides: ["seat", "leftHand", "rightHand", "leftElbow", "rightElbow"],
    seconds: 6,
    rests: [
      ["leftToe", 0, 6],
      ["leftHeel", 0, 6],
      ["rightToe", 0, 6],
      ["rightHeel", 0, 6],
      ["back", ...FLAT],
      ["head", ...FLAT],
    ],
    pose: (t) => {
      const down = smooth((t - FLAT[0] + DOWN_IN) / DOWN_IN) * (1 - smooth((t - FLAT[1]) / UP_IN));
      const leaning = 0.35;
      return {
        hips: [0, (0.075 - 0.02 * down) * h, -0.06 * h * down],
        turned: turn("x", -leaning - (Math.PI / 2 - leaning) * down),
        spine: turn("x", 0.5 * (1 - down)),
        hands: (side, shoulder) => ({
          wrist: plus(shoulder, [sideOf(side) * 0.06 * h, -0.02 * h - 0.15 * h * (1 - down), 0.24 * h - 0.05 * h * (1 - down)]),
          palm: flatPalm(side, AHEAD),
          elbow: [sideOf(side), -0.4, -0.4],
        }),
        feet: (side) => ({ ball: [sideOf(side) * hipWide, ankleUp + ball[1], 0.32 * h], sole: turn("x", 0), toes: 0, knee: [0, 1, 0.2] }),
      };
    },
  };
}
