import type { Clip } from "@stride/motion";
import { performBiped } from "../biped.ts";
import { addFaults, type Faults } from "../faults.ts";
import type { Performance, Plan } from "../performance.ts";
import { bend, flight, idlePlan, jumpPlan, sideStepPlan, slopeUp, type Terrain } from "../plans.ts";
import { performQuadruped } from "../quadruped.ts";
import { BIPEDS, type Body, quadrupeds, run, trot, walk, walk4 } from "./bodies.ts";

/** A clip whose truth is known, with the faults that were put into it. */
export interface GridCase {
  readonly name: string;
  readonly truth: Performance;
  readonly faulty: Clip;
  readonly faults: Faults;
}

function movements(body: Body): Plan[] {
  const { scale, fps } = body;
  return [
    walk(body),
    walk(body, { name: "curve", path: bend(0.6 * scale, 1.6, 1.6 * scale) }),
    run(body),
    walk(body, {
      name: "turn and stop",
      seconds: 4.6,
      path: bend(1.1 * scale, -1.4, 0.8),
      stepLength: 0.58 * scale,
      stepTime: 0.55,
      stance: 0.63,
      stopAfter: 6,
    }),
    sideStepPlan("side steps", fps, 5, 4),
    jumpPlan("jump", fps, 6, 0.6 * scale),
    idlePlan("idle", fps, 7, 6, 0.24, 3),
  ];
}

function caseOf(body: Body, plan: Plan, faults: Partial<Faults> = {}, what = ""): GridCase {
  const truth = body.character.plan === "biped" ? performBiped(body.character, plan) : performQuadruped(body.character, plan);
  const all = { seed: 11, ...faults };
  return { name: [body.character.name, plan.name, what].filter(Boolean).join(", "), truth, faulty: addFaults(truth.clip, all), faults: all };
}

/** Clips that tremble, each so many times with a noise of its own; others as they are. */
export function withNoises(cases: readonly GridCase[], noises: number): GridCase[] {
  return cases.flatMap((one) =>
    one.faults.jitter
      ? Array.from({ length: noises }, (_, i) => {
          const faults = { ...one.faults, seed: one.faults.seed + i };
          return { ...one, faults, faulty: i === 0 ? one.faulty : addFaults(one.truth.clip, faults), name: i === 0 ? one.name : `${one.name}, noise ${i + 1}` };
        })
      : [one],
  );
}

const flat = <T, U>(list: readonly T[], make: (item: T) => U[]): U[] => list.flatMap(make);

/** Nothing is wrong with these. */
export function cleanBipeds(): GridCase[] {
  return flat(BIPEDS, (body) => movements(body).map((plan) => caseOf(body, plan)));
}

/** They skate, and their heels lift while the toes stay. */
export function skating(): GridCase[] {
  return flat(BIPEDS, (body) => [caseOf(body, walk(body), { travel: 1.12 }, "+12 %"), caseOf(body, walk(body), { travel: 0.85 }, "−15 %")]);
}

/** In contact on the first and the last frame, also while they tremble. */
export function edges(): GridCase[] {
  return flat(BIPEDS, (body) => {
    const idle = idlePlan("idle", body.fps, 7, 6, 0.24, undefined);
    const half = walk(body, { seconds: 2.2 });
    return [caseOf(body, idle, { jitter: 0.6 }, "0.6°"), caseOf(body, idle, { drift: [0.03, 0.02] }, "drift"), caseOf(body, half, { travel: 1.1 }, "+10 %")];
  });
}

/** One-frame spikes in a leg's joints, inside a contact and at its edges. */
export function spikes(): GridCase[] {
  return flat(BIPEDS, (body) => {
    const plan = walk(body);
    const { contacts } = performBiped(body.character, plan);
    const { roles } = body.character;
    const whole = contacts.filter((c) => c.point.endsWith("Toe") && c.start > 5 && c.end < plan.seconds * plan.fps - 5);
    return [12, 25].flatMap((degrees) =>
      [0, 1, 2].map((where) => {
        const pops = whole.map((c, i): [number, number, number] => {
          const side = c.point.startsWith("left") ? ("left" as const) : ("right" as const);
          const frame = where === 0 ? Math.round((c.start + c.end) / 2) : where === 1 ? c.start : c.end;
          return [frame, roles[(["Thigh", "Shin", "Foot"] as const).map((r) => `${side}${r}` as const)[i % 3]] ?? 0, degrees];
        });
        return caseOf(body, plan, { pops }, `${degrees}° ${["within", "at landings", "at lifts"][where]}`);
      }),
    );
  });
}

/** Wrong travel speeds, with and without trembling. */
export function travel(): GridCase[] {
  const bodies = [BIPEDS[0], BIPEDS[1], BIPEDS[4]];
  return flat(bodies, (body) =>
    [walk(body), run(body)].flatMap((plan) =>
      [0.8, 0.92, 1.08, 1.2].flatMap((speed) =>
        [0, 1].map((jitter) => caseOf(body, plan, { travel: speed, jitter }, `${Math.round(100 * (speed - 1))} %${jitter ? ", 1°" : ""}`)),
      ),
    ),
  ).concat(
    flat(quadrupeds().slice(0, 3), (body) =>
      [0.85, 1.15].flatMap((speed) =>
        [0, 1].map((jitter) => caseOf(body, trot(body), { travel: speed, jitter }, `${Math.round(100 * (speed - 1))} %${jitter ? ", 1°" : ""}`)),
      ),
    ),
  );
}

/** The body's own place trembles, with and without its joints. */
export function shaking(): GridCase[] {
  return flat(BIPEDS, (body) =>
    [walk(body), run(body)].flatMap((plan) => [
      caseOf(body, plan, { shake: 0.003 }, "3 mm"),
      caseOf(body, plan, { shake: 0.003, jitter: 0.3, travel: 1.1 }, "3 mm, 0.3°, +10 %"),
    ]),
  ).concat(flat(quadrupeds().slice(0, 2), (body) => [caseOf(body, trot(body), { shake: 0.003 }, "3 mm")]));
}

/** Stances of 0.13 to 0.25 s, trembling. */
export function quick(): GridCase[] {
  const bodies = [BIPEDS[0], BIPEDS[1], BIPEDS[4]];
  return flat(bodies, (body) =>
    [0.2, 0.3].flatMap((stance) =>
      [0.3, 1].map((jitter) => caseOf(body, run(body, { stance, name: `run, ${(stance * 0.68).toFixed(2)} s` }), { jitter }, `${jitter}°`)),
    ),
  ).concat(flat(quadrupeds().slice(0, 3), (body) => [0.3, 1].map((jitter) => caseOf(body, trot(body), { jitter }, `${jitter}°`))));
}

/** The whole body bobs, feet and all. */
export function bobbing(): GridCase[] {
  return flat([BIPEDS[0], BIPEDS[1], ...quadrupeds().slice(0, 2)], (body) =>
    [
      [0.004, 0.8],
      [0.008, 1.7],
      [0.012, 3],
    ].map(([size, rate]) =>
      caseOf(body, body.character.plan === "biped" ? walk(body) : walk4(body), { bob: [size, rate] }, `bob ${size * 100} cm, ${rate} Hz`),
    ),
  );
}

/** Runs on floors that tilt along their path, and straight walks on level ones with their feet uneven. */
export function tilted(): GridCase[] {
  return flat(BIPEDS, (body) => [0.5, 1, 2].map((tilt) => caseOf(body, run(body), { floorTilt: [-tilt, 0] }, `tilt ${tilt}°`)));
}

export function fourLegs(): GridCase[] {
  return flat(quadrupeds(), (body) => [
    caseOf(body, walk4(body), {}, "clean"),
    caseOf(body, walk4(body), { travel: 1.12 }, "+12 %"),
    caseOf(body, trot(body), {}, "clean"),
    caseOf(body, walk4(body, { path: bend(0.5 * body.scale, 1.2, 2 * body.scale), name: "curve" }), { travel: 0.9, jitter: 0.4 }, "−10 %, 0.4°"),
    caseOf(body, trot(body), { travel: 1.1 }, "+10 %"),
  ]);
}

/** Nothing is wrong with these four-legged ones. */
export function cleanQuadrupeds(): GridCase[] {
  return fourLegs().filter((c) => c.name.endsWith("clean"));
}

/** Mixed faults in all movements. */
export function mixed(): GridCase[] {
  const faults: [string, Partial<Faults>][] = [
    ["travel +12 %", { travel: 1.12 }],
    ["travel −18 %", { travel: 0.82 }],
    ["drift", { drift: [0.06, -0.05] }],
    ["floor 12 cm, 2°", { floorHeight: 0.12, floorTilt: [1.6, 1.2] }],
    ["floor −8 cm", { floorHeight: -0.08 }],
    ["jitter 0.5°", { jitter: 0.5 }],
    ["all", { travel: 1.15, floorHeight: -0.11, floorTilt: [-1.2, 1], jitter: 0.4, drift: [0.03, 0.02] }],
  ];
  return flat(BIPEDS.slice(0, 4), (body) => movements(body).flatMap((plan) => faults.map(([what, f]) => caseOf(body, plan, f, what))));
}

/** Slopes and flights of steps, with and without skating. */
export function uneven(): GridCase[] {
  const bodies = [BIPEDS[0], BIPEDS[1]];
  return flat(bodies, (body) => {
    const step = 0.6 * body.scale;
    const terrains: [string, Terrain][] = [
      ["slope 3°", slopeUp((3 * Math.PI) / 180)],
      ["slope 8°", slopeUp((8 * Math.PI) / 180)],
      ["slope −12°", slopeUp((-12 * Math.PI) / 180)],
      ["steps 10 cm", flight(step * 1.5, step, 0.1, 4)],
      ["steps 20 cm", flight(step * 1.5, step, 0.2, 4)],
    ];
    return terrains.flatMap(([name, terrain]) => {
      const plan = walk(body, { name, terrain, stepLength: step, stepTime: 0.6 });
      return [caseOf(body, plan), caseOf(body, plan, { travel: 1.1 }, "+10 %")];
    });
  });
}
