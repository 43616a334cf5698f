import { describe, expect, it } from "vitest";
import { quick } from "./cases.ts";
import { figuresOf } from "./figures.ts";
import { GRID, type Row } from "./index.ts";

/** Every so many clips of a class; `npm run grid` measures all. */
const THINNED = 6;
/** Six shapes of ground under each body, eight faults of each walk of another make, six of each gait, walks and gaits drawn by turns, five faults of twenty-one acts and of nine on four legs, four of each ground under a walk of another make, each motion at each rate: every so many have all of them. */
const THINNED_OTHERWISE: Readonly<Record<string, number>> = {
  put: 5,
  struck: 5,
  ways: 13,
  rolled: 7,
  gaits: 11,
  even: 11,
  spot: 11,
  slip: 7,
  stepped: 5,
  leaps: 9,
  drawn: 9,
  acts: 8,
  acts4: 17,
  unspoilt: 19,
};

/**
 * What the worst of the thinned clips of a class must hold. Where it is looser than the class's target (`npm run grid` prints those), that target is not
 * reached by all yet.
 */
const HELD: Readonly<Record<string, Partial<Record<keyof Row, number>>>> = {
  clean: { apart: 0.02, toeInLift: 0.1, f1: 0.96, f1Seen: 0.97, pops: 0 },
  clean4: { apart: 0.1, f1: 0.96, f1Seen: 0.99, pops: 0 },
  unspoilt: { found: 0 },
  skating: { toeInLift: 0.1, slideP95: 0.05, f1: 0.98 },
  edges: { edgeSlide: 0.1 },
  spikes: { f1: 0.98, f1Seen: 0.98, slideMax: 0.2 },
  struck: { f1: 0.93, f1Beyond: 0.98, slideMax: 0.2, pops: 0 },
  travel: { travelOff: 0.09, travelBeyond: 1.2, slideP95: 0.16 },
  quick: { path: 0.72, pathBeyond: 1.25, bodyPath: 0.3, f1: 0.94 },
  shaking: { f1: 0.95, slideP95: 0.15, heightP95: 0.1, path: 0.8, pops: 1 },
  bob: { f1: 0.98, f1Seen: 0.98, heightP95: 0.5, pops: 0 },
  tilt: { heightP95: 0.1, f1: 0.95 },
  four: { f1: 0.96, f1Seen: 0.98, slideP95: 0.1, heightP95: 0.15, pops: 0 },
  mixed: { slideP95: 0.05, slideMax: 1, heightP95: 0.5, bodyPath: 0.6, f1: 0.95, pops: 0 },
  uneven: { slideP95: 0.1, f1: 0.96, f1Seen: 0.98, heightP95: 0.2 },
  ways: { f1: 0.88, f1Joints: 0.87, slideP95: 0.31, through: 0.8, travelOff: 0.01, pops: 0 },
  rolled: { f1: 0.91, f1Beyond: 0.98, f1Joints: 0.9, slideP95: 0.15, slideMax: 1, travelOff: 0.05, pops: 0 },
  gaits: { f1: 0.92, f1Beyond: 0.97, slideP95: 0.2, travelOff: 0.01, pops: 0, size: 1.01 },
  even: { f1: 0.93, f1Beyond: 0.97, slideP95: 0.1, slideMax: 2, travelOff: 0.05, pops: 0 },
  spot: { f1: 0.92, f1Beyond: 0.97, slideP95: 0.15, slideMax: 2, travelOff: 0.05, size: 1.01, pops: 0 },
  leaps: { f1: 0.92, slideP95: 0.15, slideMax: 1.1, pops: 0 },
  stepped: { f1: 0.93, slideP95: 0.15, apart: 2, pops: 0 },
  drops: { f1: 0.93, slideP95: 0.15, slideMax: 1, apart: 0.12, pops: 0 },
  rise: { f1: 0.95, slideP95: 0.15, slideMax: 1, pops: 0 },
  slip: { f1: 0.86, slideP95: 0.7, slideMax: 1.8, pops: 0 },
  wander: { f1: 0.85, slideP95: 0.3, pops: 0 },
  drawn: { f1: 0.9, f1Beyond: 0.97, slideMax: 3, travelOff: 0.2, pops: 0 },
  acts: { f1: 0.95, wrong: 0, mistaken: 0, slideP95: 0.5 },
  acts4: { f1: 0.96, f1Seen: 0.96, slideP95: 0.1, size: 1.01 },
  put: { slideMax: 0.1, heightP95: 0.5, through: 0.2, stretch: 0.9999, fold: 0.35, sharpest: 25, pops: 0 },
};

describe.each(GRID)("$id: $title", ({ id, rows: all }) => {
  const rows = all()
    .filter((_, i) => i % (THINNED_OTHERWISE[id] ?? THINNED) === 0)
    .map((measure) => measure());

  it.each(Object.entries(HELD[id]) as [keyof Row, number][])("%s within %d", (figure, limit) => {
    expect(rows.length).toBeGreaterThan(1);
    for (const row of rows) {
      const value = row[figure] as number;
      if (figure.startsWith("f1") || figure === "fold" || figure === "sharpest") expect(value, row.name).toBeGreaterThanOrEqual(limit);
      else expect(value, `${row.name} ${row.findings ?? ""}`).toBeLessThanOrEqual(limit);
    }
  });

  if (id.startsWith("clean"))
    it("nothing is found wrong", () => {
      for (const row of rows) expect(row.findings, row.name).toBe("");
    });
});

/** Clips that tremble by a degree and by a third or half of one, with noises of their own: whatever one of them shows may be luck. */
describe("whatever the noise", () => {
  const rowsOf = (id: string, noises: number, keep: number) =>
    (GRID.find((c) => c.id === id)?.rows(noises) ?? []).filter((_, i) => i % keep === 0).map((measure) => measure());
  const mean = (rows: readonly Row[], figure: keyof Row) => rows.reduce((sum, row) => sum + (row[figure] as number), 0) / rows.length;
  const share = (rows: readonly Row[], bad: (row: Row) => boolean) => rows.filter(bad).length / rows.length;

  it("of a degree, a wrong speed is measured as well as stands of trembling legs allow, and feet stay", () => {
    const rows = rowsOf("travel", 5, 4).filter((row) => row.name.includes("1°"));
    expect(rows.length).toBeGreaterThan(25);
    expect(mean(rows, "travelOff")).toBeLessThan(0.03);
    expect(share(rows, (row) => (row.travelBeyond ?? 0) > 1)).toBeLessThan(0.1);
    expect(mean(rows, "slideP95")).toBeLessThan(0.1);
    expect(mean(rows, "f1")).toBeGreaterThan(0.955);
    expect(mean(rows, "pops")).toBeLessThan(0.25);
  });

  it("of half a degree, feet are found and stay, and nothing pops", () => {
    const rows = rowsOf("mixed", 4, 7).filter((row) => row.name.includes("0.5°"));
    expect(rows.length).toBeGreaterThan(15);
    expect(mean(rows, "f1")).toBeGreaterThan(0.975);
    expect(mean(rows, "slideP95")).toBeLessThan(0.02);
    expect(mean(rows, "bodyPath")).toBeLessThan(0.15);
    expect(share(rows, (row) => (row.slideMax ?? 0) > 1)).toBeLessThan(0.1);
    expect(mean(rows, "pops")).toBeLessThan(0.2);
  });
});

it("a run that trembles comes nearer to its own paths by being cleaned", () => {
  const clip = quick().find((c) => c.name === "tall, 60, run, 0.20 s, 0.3°");
  if (!clip) throw new Error("no such clip");
  const { path, pathBefore } = figuresOf(clip);
  expect(path).toBeLessThan(0.85 * pathBefore);
});
