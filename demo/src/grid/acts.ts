import { DEFAULT_RECIPE, Evaluator, emptyWork, findingsOf, jointTrack, measure, oneSource, pointTrack, quantile, readMotion } from "@stride/motion";
import { type Performed, performedActs } from "../rolling/acts.ts";
import { type RollingFaults, spoiled } from "../rolling/spoil.ts";
import { type Hand, rolledText } from "../rolling/text.ts";
import { LEGS } from "../rolling/walker.ts";
import { BODIES } from "./rolled.ts";

/** Something done beside walking, what is wrong with it, and how its file is written. */
export interface ActCase {
  readonly name: string;
  readonly act: Performed;
  readonly faults: RollingFaults;
  readonly hand: Hand;
  readonly seed: number;
}

/** What was found of it and made of it: parts that rest against the truth, centimetres. */
export interface ActFigures {
  readonly name: string;
  readonly f1: number;
  /** spans of parts that do not rest */
  readonly wrong: number;
  /** distance of resting joints from their spans' middle places */
  readonly slideP95: number;
  /** was it taken for what it is, carried by its feet or not? */
  readonly mistaken: number;
  /** findings of the clip as it came */
  readonly findings: string;
}

const FAULTS: readonly (readonly [string, RollingFaults])[] = [
  ["clean", {}],
  ["0.3°", { trembles: 0.3 }],
  ["floor −5 cm, drift", { floor: [-0.05, 0.02] }],
  ["spikes", { spikes: 4 }],
  ["bob 0.6 cm, 1.5 Hz", { bob: [0.006, 1.5] }],
];
const RATES = [60, 30, 120, 25];

/** Three bodies, twenty-one acts, five faults; rates and units in turn. */
export function actCases(): ActCase[] {
  let count = 0;
  return BODIES.flatMap((body, b) =>
    FAULTS.flatMap(([what, faults]) => {
      const fps = RATES[count % RATES.length];
      return performedActs(body, fps).map((act) => ({
        name: `${body.name}, ${fps}, ${act.name}, ${what}`,
        act,
        faults,
        hand: { order: ["z", "x", "y"] as const, unit: b === 0 ? 100 : 1 },
        seed: ++count,
      }));
    }),
  );
}

export function actFigures({ name, act, faults, hand, seed }: ActCase): ActFigures {
  const faulty = spoiled(act, faults, seed);
  const file = readMotion(new TextEncoder().encode(rolledText(act, faulty.turns, faulty.roots, hand)), { fileName: "act.bvh" });
  const { base, result } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const frames = act.turns.length;
  const parts = [...new Set(act.contacts.map((c) => c.point))];
  let [both, either] = [0, 0];
  for (const part of parts) {
    const [truth, found] = [act.contacts, base.contacts].map((spans) => {
      const out = new Uint8Array(frames);
      for (const span of spans) if (span.point === part) out.fill(1, span.start, span.end + 1);
      return out;
    });
    truth.forEach((rests, f) => {
      both += 2 * rests * found[f];
      either += rests + found[f];
    });
  }
  const slides = act.contacts.flatMap(({ point, start, end }) => {
    // Which frame at its ends is one of it, and which is not, is another figure.
    const margin = Math.round((end - start) * MARGIN);
    const course = restingCourse(act, point, (joint) => jointTrack(file.skeleton, result.clip, file.skeleton.names.indexOf(act.body.joints[joint])));
    const at = (axis: number) => Array.from({ length: end - start + 1 - 2 * margin }, (_, i) => course[(start + margin + i) * 3 + axis]);
    const places = [at(0), at(1), at(2)];
    const middle = places.map((values) => quantile(values, 0.5));
    return places[0].map((_, i) => 100 * Math.hypot(...places.map((values, axis) => values[i] - middle[axis])));
  });
  return {
    name,
    f1: either === 0 ? 1 : both / either,
    wrong: base.contacts.filter((c) => !parts.includes(c.point) && !act.besides?.includes(c.point)).length,
    slideP95: slides.length === 0 ? 0 : quantile(slides, 0.95),
    mistaken: base.support.byFeet === act.byFeet ? 0 : 1,
    findings: [...new Set(findingsOf(base, measure(base)).map((f) => f.kind))].sort().join(" "),
  };
}

/** Share of a span that is left out at either end of it. */
const MARGIN = 0.06;

/** The course [frame][3] of what rests: a joint, or the middle of a hand. */
function restingCourse({ body }: Performed, point: string, track: (joint: number) => ReturnType<typeof jointTrack>): Float64Array {
  const side = point.startsWith("left") ? 0 : 1;
  const [, shin, foot, toes] = LEGS[side];
  if (point.endsWith("Hand")) return pointTrack(track(15 + 3 * side), [(side === 0 ? 0.04 : -0.04) * body.height, 0, 0]);
  if (point.endsWith("Toe")) return track(toes).positions;
  if (point.endsWith("Heel")) return track(foot).positions;
  if (point.endsWith("Knee")) return track(shin).positions;
  return track(point === "head" ? 4 : point === "back" ? 2 : 0).positions;
}
