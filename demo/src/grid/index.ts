import { type ActFigures, actCases, actFigures } from "./acts.ts";
import * as cases from "./cases.ts";
import { drawnCase } from "./drawn.ts";
import { type Figures, figuresOf, pathOff } from "./figures.ts";
import { dropCases, evenCases, fourActCases, gaitCases, leapCases, riseCases, slipCases, spotCases, steppedCases, struckCases, wanderCases } from "./gaits.ts";
import { type MadeCase, type MadeFigures, madeFigures } from "./made.ts";
import { bestSmoothed } from "./pathBound.ts";
import { type PutFigures, putCases, putFigures } from "./putOnto.ts";
import { rolledCases } from "./rolled.ts";
import { type UnspoiltFigures, unspoiltCases, unspoiltFigures } from "./unspoilt.ts";
import { wayCases } from "./ways.ts";

/** What was measured of one clip. */
export type Row = Partial<Figures & PutFigures & MadeFigures & ActFigures & UnspoiltFigures> & {
  readonly name: string;
  /** foot paths against a centimetre, or against the best that smoothing joint by joint could reach if that is more */
  readonly pathBeyond?: number;
};

interface Limit {
  readonly figure: keyof Row;
  readonly label: string;
  readonly most?: number;
  readonly least?: number;
}

export interface GridClass {
  readonly id: string;
  readonly title: string;
  /** its clips, each measured when it is asked for; those that tremble with so many different noises */
  rows(noises?: number): (() => Row)[];
  readonly limits: readonly Limit[];
}

const F1: Limit = { figure: "f1", label: "contacts found, F1", least: 0.98 };
const SEEN: Limit = { ...F1, figure: "f1Seen", label: "  where a part can be seen to move" };
const BY_PLACES: Limit = { ...F1, figure: "f1Beyond", label: "  against 0.95, or one who knows every place", least: 0.99 };
const SLIDE: Limit = { figure: "slideP95", label: "slide in true spans, p95, cm", most: 0.15 };
const HEIGHT: Limit = { figure: "heightP95", label: "height, p95, cm", most: 0.5 };
const POPS: Limit = { figure: "pops", label: "pops introduced", most: 0 };
const WAY: Limit = { figure: "bodyPath", label: "body off its way, mean, cm", most: 0.6 };
const TOE: Limit = { figure: "toeInLift", label: "toe joint while the heel lifts, cm", most: 0.1 };
const APART: Limit = { figure: "apart", label: "mean distance to the truth, cm", most: 0.1 };

/** What is asked of clips of another make. */
const OTHER_MAKE: readonly Limit[] = [
  { ...F1, least: 0.95 },
  { ...SEEN, least: 0.95 },
  BY_PLACES,
  SLIDE,
  { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
];

const measured =
  (make: () => cases.GridCase[]) =>
  (noises = 1) =>
    cases.withNoises(make(), noises).map((one) => () => figuresOf(one));

const made = (make: () => MadeCase[]) => () => make().map((one) => () => madeFigures(one));

/** So many clips are drawn at random, and so many of them are looked at before anything is put wrong. */
const DRAWN = 100;
const DRAWN_UNSPOILT = 200;

/** Classes of clips on which contacts and plants are measured, with what they are held to. */
export const GRID: readonly GridClass[] = [
  { id: "clean", title: "nothing wrong, two legs", rows: measured(cases.cleanBipeds), limits: [APART, F1, SEEN, TOE, POPS] },
  { id: "clean4", title: "nothing wrong, four legs", rows: measured(cases.cleanQuadrupeds), limits: [APART, F1, SEEN, POPS] },
  {
    id: "unspoilt",
    title: "nothing wrong, all motions of another make",
    rows: () => unspoiltCases(DRAWN_UNSPOILT).map((one) => () => unspoiltFigures(one)),
    limits: [{ figure: "found", label: "findings", most: 0 }],
  },
  { id: "skating", title: "wrong speed, heels lifting", rows: measured(cases.skating), limits: [TOE, SLIDE, F1, SEEN] },
  {
    id: "edges",
    title: "contacts on the first and last frame",
    rows: measured(cases.edges),
    limits: [{ figure: "edgeSlide", label: "slide in spans at the ends, cm", most: 0.1 }],
  },
  {
    id: "spikes",
    title: "one-frame spikes in leg joints",
    rows: measured(cases.spikes),
    limits: [F1, SEEN, { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 0.2 }],
  },
  {
    id: "struck",
    title: "spikes on the first or last frame of stands, another make",
    rows: made(struckCases),
    limits: [
      { ...F1, least: 0.95 },
      { ...SEEN, least: 0.95 },
      BY_PLACES,
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 0.2 },
      POPS,
    ],
  },
  {
    id: "travel",
    title: "wrong travel speeds",
    rows: measured(cases.travel),
    limits: [
      { figure: "travelOff", label: "what is left of the error", most: 0.05 },
      { figure: "travelBeyond", label: "  against 5 %, or twice what true stands leave unknown", most: 1 },
      SLIDE,
    ],
  },
  {
    id: "quick",
    title: "short stances, trembling",
    rows: (noises = 1) =>
      cases.withNoises(cases.quick(), noises).map((one) => () => {
        const figures = figuresOf(one);
        const best = bestSmoothed(one.truth.character.skeleton, one.truth.clip, one.faulty);
        return { ...figures, pathBeyond: figures.path / Math.max(1, pathOff(one.truth, best)) };
      }),
    limits: [
      { figure: "path", label: "foot paths, mean, cm", most: 1 },
      { figure: "pathBeyond", label: "  against 1 cm, or the best that smoothing could reach", most: 1.3 },
      { figure: "pathBefore", label: "foot paths before, mean, cm", most: 9 },
      WAY,
      F1,
      SEEN,
    ],
  },
  {
    id: "shaking",
    title: "the body's place trembles",
    rows: measured(cases.shaking),
    limits: [{ ...F1, least: 0.95 }, { ...SEEN, least: 0.95 }, SLIDE, HEIGHT, { figure: "path", label: "foot paths, mean, cm", most: 1 }, POPS],
  },
  { id: "bob", title: "the whole body bobs", rows: measured(cases.bobbing), limits: [F1, SEEN, POPS, HEIGHT] },
  { id: "tilt", title: "runs on floors that tilt along them", rows: measured(cases.tilted), limits: [HEIGHT, F1, SEEN] },
  { id: "four", title: "four legs", rows: measured(cases.fourLegs), limits: [F1, SEEN, { ...SLIDE, most: 0.3 }, POPS, HEIGHT] },
  {
    id: "mixed",
    title: "two legs, all movements, mixed faults",
    rows: measured(cases.mixed),
    limits: [
      SLIDE,
      { figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
      HEIGHT,
      WAY,
      { ...F1, least: 0.95 },
      { ...SEEN, least: 0.95 },
      POPS,
    ],
  },
  {
    id: "uneven",
    title: "slopes and steps",
    rows: measured(cases.uneven),
    limits: [{ ...F1, least: 0.95 }, { ...SEEN, least: 0.95 }, { ...SLIDE, most: 0.3 }, HEIGHT],
  },
  {
    id: "ways",
    title: "ramps and steps under two and four legs, another make",
    rows: made(wayCases),
    limits: [
      { ...F1, least: 0.95 },
      { ...SEEN, least: 0.95 },
      BY_PLACES,
      { ...F1, figure: "f1Joints", label: "  of toes and hooves, which are joints", least: 0.95 },
      { ...SLIDE, most: 0.3 },
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
      { figure: "through", label: "into the ground, cm", most: 0.2 },
      { figure: "travelOff", label: "what is left of a wrong travel", most: 0.05 },
      POPS,
    ],
  },
  {
    id: "rolled",
    title: "walks of another make",
    rows: made(rolledCases),
    limits: [
      { ...F1, least: 0.95 },
      { ...SEEN, least: 0.95 },
      BY_PLACES,
      { ...F1, figure: "f1Joints", label: "  of toes, which are joints", least: 0.95 },
      SLIDE,
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
      { figure: "travelOff", label: "what is left of a wrong travel", most: 0.05 },
      POPS,
    ],
  },
  {
    id: "gaits",
    title: "gaits of four legs of another make",
    rows: made(gaitCases),
    limits: [
      { ...F1, least: 0.95 },
      { ...SEEN, least: 0.95 },
      BY_PLACES,
      { ...SLIDE, most: 0.3 },
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
      { figure: "travelOff", label: "what is left of a wrong travel", most: 0.05 },
      POPS,
      { figure: "size", label: "size it was taken for, against its own: least", least: 0.99 },
      { figure: "size", label: "size it was taken for, against its own: most", most: 1.01 },
    ],
  },
  {
    id: "even",
    title: "wrong speeds put in evenly, another make",
    rows: made(evenCases),
    limits: [...OTHER_MAKE, { figure: "travelOff", label: "what is left of a wrong travel", most: 0.05 }, POPS],
  },
  {
    id: "wander",
    title: "the body wanders beside its way, another make",
    rows: made(wanderCases),
    limits: [...OTHER_MAKE, POPS],
  },
  { id: "leaps", title: "the whole body leaps on single frames, another make", rows: made(leapCases), limits: [...OTHER_MAKE, POPS] },
  {
    id: "stepped",
    title: "drawn on twos, another make",
    rows: made(steppedCases),
    limits: [...OTHER_MAKE, { figure: "apart", label: "mean distance to the truth, cm", most: 0.3 }, POPS],
  },
  {
    id: "drops",
    title: "frames dropped, another make",
    rows: made(dropCases),
    limits: [...OTHER_MAKE, { figure: "apart", label: "mean distance to the truth, cm", most: 0.1 }, POPS],
  },
  { id: "rise", title: "the whole body rises or sinks all along, another make", rows: made(riseCases), limits: [...OTHER_MAKE, POPS] },
  { id: "slip", title: "single feet slip as they stand, another make", rows: made(slipCases), limits: [...OTHER_MAKE, POPS] },
  {
    id: "spot",
    title: "on the spot, another make",
    rows: made(spotCases),
    limits: [
      ...OTHER_MAKE,
      { figure: "travelOff", label: "what is left of the way over its ground", most: 0.05 },
      POPS,
      { figure: "size", label: "size it was taken for, against its own: least", least: 0.99 },
      { figure: "size", label: "size it was taken for, against its own: most", most: 1.01 },
    ],
  },
  {
    id: "drawn",
    title: "walks and gaits of another make, drawn at random",
    rows: (noises = 1) => Array.from({ length: DRAWN * noises }, (_, i) => () => madeFigures(drawnCase(i))),
    limits: [
      { ...F1, least: 0.95 },
      { ...SEEN, least: 0.95 },
      BY_PLACES,
      { ...F1, figure: "f1Joints", label: "  of toes and hooves, which are joints", least: 0.95 },
      SLIDE,
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
      { figure: "travelOff", label: "what is left of a wrong travel", most: 0.05 },
      POPS,
      { figure: "size", label: "size it was taken for, against its own: least", least: 0.99 },
      { figure: "size", label: "size it was taken for, against its own: most", most: 1.01 },
    ],
  },
  {
    id: "acts",
    title: "hands, knees, seat and back; jumps and steps",
    rows: () => actCases().map((one) => () => actFigures(one)),
    limits: [
      { ...F1, least: 0.95 },
      { figure: "wrong", label: "spans of parts that do not rest", most: 0 },
      { figure: "mistaken", label: "carried by its feet or not", most: 0 },
      { ...SLIDE, label: "resting joints off their places, p95, cm", most: 0.3 },
    ],
  },
  {
    id: "acts4",
    title: "what four legs do beside going",
    rows: made(fourActCases),
    limits: [
      F1,
      SEEN,
      { ...SLIDE, most: 0.3 },
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 1 },
      { figure: "size", label: "size it was taken for, against its own: least", least: 0.99 },
      { figure: "size", label: "size it was taken for, against its own: most", most: 1.01 },
    ],
  },
  {
    id: "put",
    title: "put onto slopes and steps",
    rows: () => putCases().map((one) => () => putFigures(one)),
    limits: [
      { ...SLIDE, figure: "slideMax", label: "slide in true spans, worst, cm", most: 0.1 },
      HEIGHT,
      { figure: "through", label: "into the new ground, cm", most: 0.2 },
      { figure: "stretch", label: "longest reach of its leg's length", most: 1 },
      { figure: "fold", label: "least reach against what it was", least: 0.5 },
      { figure: "sharpest", label: "sharpest knee or hock, degrees", least: 25 },
      POPS,
    ],
  },
];
