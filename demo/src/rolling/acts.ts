import { applied, cross, fromAxes, minus, plus, product, SAME, scaled, turn, type Vec } from "./matrix.ts";
import { AHEAD, between, during, flatPalm, sideOf, wave } from "./moves.ts";
import { crawling, lying, lyingDown } from "./onTheGround.ts";
import { type Act, type FootPose, performed } from "./perform.ts";
import { stepping } from "./stepping.ts";
import { bonesOf, type Rolled, type RollingBody, smooth } from "./walker.ts";

/** Feet that stand flat beside each other. */
function standing(body: RollingBody, apart = 1.2, z = 0): (side: number) => FootPose {
  const { hipWide, ankleUp, ball } = bonesOf(body);
  return (side) => ({ ball: [sideOf(side) * hipWide * apart, ankleUp + ball[1], z + ball[2]], sole: SAME, toes: 0, knee: AHEAD });
}

/** Height of the hips of a body that stands with its legs nearly straight. */
function standingHips(body: RollingBody): number {
  const { thigh, shin, ankleUp, hips } = bonesOf(body);
  return ankleUp + 0.985 * (thigh + shin) - hips[0][1];
}

const FEET = ["leftToe", "leftHeel", "rightToe", "rightHeel"] as const;

/** What bodies do beside walking: each part that rests in it, and for how long, is known. */
function acts(body: RollingBody): readonly Act[] {
  const { height: h } = body;
  const { thigh, shin, hipWide, ball, hips: sockets, ankleUp } = bonesOf(body);
  const up = standingHips(body);
  const feetAll = (seconds: number) => FEET.map((part) => [part, 0, seconds] as const);

  const pushUps: Act = {
    name: "push-ups",
    byFeet: true,
    seconds: 5,
    rests: [
      ["leftHand", 0, 5],
      ["rightHand", 0, 2.2],
      ["rightHand", 3.4, 5],
      ["leftToe", 0, 5],
      ["rightToe", 0, 5],
    ],
    pose: (t) => {
      const raised = during(t, 2.6, 3, 0.4);
      // With one hand in the air it waits, arms straight.
      const low = 0.5 - 0.5 * Math.cos(2 * Math.PI * Math.min(t, 2)) + (t > 3.6 ? 0.5 - 0.5 * Math.cos(2 * Math.PI * Math.min(1, t - 3.6)) : 0);
      const sole = turn("x", 1.25);
      const balls = [0, 1].map((side): Vec => [sideOf(side) * hipWide, ankleUp + ball[1], 0]);
      const ankle = minus(balls[0], applied(sole, ball));
      const long = 0.985 * (thigh + shin) + 0.33 * h;
      const angle = (share: number) => Math.asin((share * 0.3 * h - (ankle[1] - 0.02 * h)) / long);
      const a = angle(0.95 - 0.5 * low);
      const along: Vec = [0, Math.sin(a), Math.cos(a)];
      const wrists = Math.cos(angle(0.95)) * long + ankle[2];
      return {
        hips: plus([0, ankle[1], ankle[2]], scaled(along, 0.985 * (thigh + shin) + 0.03 * h)),
        turned: fromAxes([1, 0, 0], along, cross([1, 0, 0], along)),
        hands: (side) => ({
          wrist: [sideOf(side) * 0.13 * h, 0.02 * h + (side === 1 ? 0.09 * h * raised : 0), wrists],
          palm: flatPalm(side, AHEAD),
          elbow: [sideOf(side), 0.2, -1],
        }),
        feet: (side) => ({ ball: balls[side], sole, toes: 1.25, knee: [0, -1, 0] }),
      };
    },
  };

  const sit: Act = {
    name: "sitting down on a bench",
    byFeet: true,
    seconds: 6,
    rests: [...feetAll(6), ["seat", 1.8, 4.2]],
    pose: (t) => {
      const down = during(t, 1.8, 4.2, 1.2);
      const bow = 0.5 * (during(t, 1.2, 1.3, 0.6) + during(t, 4.6, 4.7, 0.6));
      return {
        hips: [0, up + (0.31 * h - up) * down, -0.24 * h * smooth(1.15 * down) - 0.02 * h],
        turned: SAME,
        spine: product(turn("x", bow + 0.09 * down * wave(t, 1.7)), turn("y", 0.2 * down * wave(t, 2.3))),
        feet: standing(body, 1.4),
      };
    },
  };

  const rail: Act = {
    name: "squatting with both hands on a rail",
    byFeet: true,
    seconds: 6,
    rests: [...feetAll(6), ["leftHand", 1, 5], ["rightHand", 1, 5]],
    pose: (t) => {
      const held = during(t, 1, 5, 0.7);
      const squat = held * (0.5 - 0.5 * Math.cos((2 * Math.PI * Math.max(0, t - 1)) / 1.9));
      return {
        hips: [0.02 * h * held * wave(t, 3.1), up - 0.11 * h * squat - 0.01 * h, -0.05 * h * squat],
        turned: SAME,
        spine: turn("x", 0.2 * squat),
        hands: (side, shoulder) => ({
          wrist: between(plus(shoulder, [sideOf(side) * 0.04 * h, -0.27 * h, 0.06 * h]), [sideOf(side) * 0.14 * h, up + 0.06 * h, 0.15 * h], held),
          palm: product(flatPalm(side, AHEAD), turn("z", -0.6 * sideOf(side) * (1 - held))),
          elbow: [sideOf(side), -0.6, -0.6],
        }),
        feet: standing(body),
      };
    },
  };

  const RUNG = 0.17 * h;
  const CYCLE = 1.6;
  const perch = 0.33 * h + 0.54 * (thigh + shin);
  /** How many rungs up a limb is: it goes to the next in a quarter of each cycle. */
  const rungs = (t: number, lag: number) => Math.floor(t / CYCLE - lag) + smooth(((((t / CYCLE - lag) % 1) + 1) % 1) / 0.25) - 1;
  const onRungs = (lag: number, seconds: number) => {
    const out: (readonly [number, number])[] = [];
    for (let k = -2; (k + lag) * CYCLE < seconds; k++) out.push([(k + lag + 0.25) * CYCLE, (k + lag + 1) * CYCLE]);
    return out.filter(([from, to]) => to > 0 && from < seconds);
  };
  const LAGS = { leftToe: 0, rightHand: 0.25, rightToe: 0.5, leftHand: 0.75 } as const;
  const ladder: Act = {
    name: "climbing a ladder",
    byFeet: false,
    besides: ["leftHeel", "rightHeel"],
    seconds: 6.4,
    rests: Object.entries(LAGS).flatMap(([part, lag]) => onRungs(lag, 6.4).map(([from, to]) => [part, from, to] as const)),
    pose: (t) => {
      const away = (lag: number) => 16 * 0.05 * h * (rungs(t, lag) - Math.floor(rungs(t, lag))) ** 2 * (1 - rungs(t, lag) + Math.floor(rungs(t, lag))) ** 2;
      return {
        hips: [0.01 * h * wave(t, CYCLE), perch + (RUNG * t) / CYCLE, -0.2 * h],
        turned: turn("x", 0.05),
        hands: (side) => {
          const lag = side === 0 ? LAGS.leftHand : LAGS.rightHand;
          return {
            wrist: [sideOf(side) * 0.11 * h, perch + 0.36 * h + RUNG * rungs(t, lag), -0.05 * h - away(lag)],
            palm: flatPalm(side, AHEAD),
            elbow: [sideOf(side), -1, 0],
          };
        },
        feet: (side) => {
          const lag = side === 0 ? LAGS.leftToe : LAGS.rightToe;
          return { ball: [sideOf(side) * hipWide, 0.36 * h + RUNG * rungs(t, lag), -away(lag)], sole: SAME, toes: 0, knee: AHEAD };
        },
      };
    },
  };

  const bar: Act = {
    name: "swinging from a bar",
    byFeet: false,
    seconds: 5,
    rests: [
      ["leftHand", 0, 5],
      ["rightHand", 0, 5],
    ],
    pose: (t) => {
      const turned = turn("x", 0.25 * wave(t, 2.4));
      return {
        hips: plus([0, 1.4 * h, 0], applied(turned, [0, -0.59 * h, 0])),
        turned,
        hands: (side) => ({
          wrist: [sideOf(side) * 0.11 * h, 1.4 * h, 0],
          palm: fromAxes([0, sideOf(side), 0], [-sideOf(side), 0, 0], [0, 0, 1]),
          elbow: [sideOf(side), 0, -0.5],
        }),
        hang: (side) => turn("x", -0.15 * wave(t, 2.4, -0.5) - 0.1 * side),
      };
    },
  };

  const swim: Act = {
    name: "swimming",
    byFeet: false,
    seconds: 5,
    rests: [],
    pose: (t) => {
      const along = fromAxes([1, 0, 0], [0, 0, 1], [0, -1, 0]);
      return {
        hips: [0, 0.6 * h + 0.01 * h * wave(t, 1.3), 0.7 * h * t + 0.02 * h * wave(t, 0.65)],
        turned: product(along, turn("y", 0.35 * wave(t, 1.3))),
        hands: (side, shoulder) => {
          const a = (2 * Math.PI * t) / 1.3 + Math.PI * side;
          return {
            wrist: plus(shoulder, [sideOf(side) * 0.03 * h, 0.25 * h * Math.sin(a), 0.25 * h * Math.cos(a)]),
            palm: flatPalm(side, AHEAD),
            elbow: [sideOf(side), 1, 0],
          };
        },
        hang: (side) => turn("x", 0.28 * wave(t, 0.55, Math.PI * side)),
      };
    },
  };

  const kneel: Act = {
    name: "kneeling on one knee",
    byFeet: true,
    besides: ["rightHeel"],
    seconds: 6,
    rests: [
      ["leftToe", 0, 6],
      ["leftHeel", 0, 6],
      ["rightToe", 0, 6],
      ["rightKnee", 1.6, 4.2],
    ],
    pose: (t) => {
      const down = during(t, 1.6, 4.2, 1.1);
      const sole = turn("x", 0.45 + 0.55 * down);
      const back: Vec = [-hipWide, ankleUp + ball[1], -0.2 * h];
      const low = turn("x", 1);
      const ankle = minus(back, applied(low, ball));
      const rise = 0.03 * h - ankle[1];
      const knee: Vec = [-hipWide, 0.03 * h, ankle[2] + Math.sqrt(shin * shin - rise * rise)];
      const over = minus(plus(knee, [0, thigh * 0.995, thigh * -0.0999]), sockets[1]);
      return {
        hips: between([0, up - 0.08 * h, -0.03 * h], [0, over[1], over[2]], down),
        turned: SAME,
        spine: product(turn("x", 0.12 * down * (1 + wave(t, 1.9))), turn("y", 0.2 * wave(t, 2.7))),
        feet: (side) => (side === 0 ? standing(body, 1, 0.22 * h)(0) : { ball: back, sole, toes: 0.45 + 0.55 * down, knee: AHEAD }),
      };
    },
  };

  const crouch: Act = {
    name: "crouching, balanced",
    byFeet: true,
    seconds: 5,
    rests: feetAll(5),
    pose: (t) => {
      const down = during(t, 1.6, 3.4, 1.2);
      return {
        hips: [0, up + (0.3 * h - up) * down, -0.1 * h * down],
        turned: turn("x", 0.5 * down),
        spine: turn("x", 0.35 * down),
        feet: standing(body, 1.4),
      };
    },
  };

  const floor: Act = {
    name: "sitting down on the floor",
    byFeet: true,
    seconds: 6,
    rests: [...feetAll(6), ["seat", 2, 4]],
    pose: (t) => {
      const down = during(t, 2, 4, 1.5);
      return {
        hips: [0, up + (0.07 * h - up) * down, -0.32 * h * smooth(1.1 * down)],
        turned: turn("x", -0.3 * down),
        spine: product(turn("x", 0.4 * down + 0.1 * down * wave(t, 1.6)), turn("y", 0.2 * down * wave(t, 2.1))),
        hands: (side, shoulder) => ({
          wrist: plus(shoulder, [sideOf(side) * 0.03 * h, -0.24 * h + 0.17 * h * down, 0.05 * h + 0.14 * h * down]),
          palm: flatPalm(side, AHEAD),
          elbow: [sideOf(side), -0.6, -0.6],
        }),
        // The knees come up.
        feet: (side) => ({ ...standing(body, 1.4)(side), knee: [0, 1, 1] }),
      };
    },
  };

  const wall: Act = {
    name: "sitting on a wall",
    byFeet: false,
    seconds: 5,
    rests: [["seat", 0, 5]],
    pose: (t) => ({
      hips: [0, 0.6 * h, 0],
      turned: SAME,
      spine: product(turn("x", 0.1 * wave(t, 1.7)), turn("y", 0.25 * wave(t, 2.3))),
      hang: (side) => turn("x", -1.3 - 0.12 * wave(t, 1.1, Math.PI * side)),
      bent: 1.3 + 0.3 * wave(t, 1.4),
    }),
  };

  return [pushUps, sit, rail, ladder, bar, swim, lying(body), kneel, crouch, floor, wall, crawling(body), lyingDown(body), ...stepping(body)];
}

/** An act as a body performed it. */
export type Performed = Rolled & Pick<Act, "name" | "byFeet" | "besides">;

/** The acts as a body performs them at a rate. */
export function performedActs(body: RollingBody, fps: number): Performed[] {
  return acts(body).map((act) => ({ ...act, ...performed(body, act, fps) }));
}
