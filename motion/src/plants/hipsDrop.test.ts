import { describe, expect, it } from "vitest";
import { ClipDraft } from "../clip/clip.ts";
import type { LivePlant } from "../motion.ts";
import type { EndTargets } from "./footTargets.ts";
import { dropCarries, hipsDrop } from "./hipsDrop.ts";
import type { LimbCourse } from "./limbCourses.ts";
import { PLANT_DEFAULTS, type PlantSettings } from "./settings.ts";

const FPS = 60;
const FRAMES = 240;
const BONE = 0.45;
const HIP = 1;
/** Bend of the softest knee, degrees. */
const SOFT = 180 - PLANT_DEFAULTS.softKneeDegrees;
const clip = ClipDraft.make("two bones", FPS, FRAMES, 1, Int16Array.of(0)).done();

/** From hip to ankle with the knee bent so far, metres, as a chain of two bones alike has it. */
const reachAt = (bendDegrees: number) => 2 * BONE * Math.cos((bendDegrees * Math.PI) / 360);

/** A leg that hangs straight down from the hip, its knee bent forward so far, all along. */
function leg(bendDegrees: number): LimbCourse {
  const d = reachAt(bendDegrees);
  const all = (place: number[]) => Float64Array.from({ length: FRAMES * 3 }, (_, i) => place[i % 3]);
  const rotations = new Float32Array(FRAMES * 4);
  return {
    hip: all([0, HIP, 0]),
    knee: all([0, HIP - d / 2, Math.sqrt(BONE * BONE - (d * d) / 4)]),
    end: { positions: all([0, HIP - d, 0]), rotations, frameCount: FRAMES } as unknown as LimbCourse["end"],
    upper: rotations,
    lower: rotations,
    above: null,
  };
}

/** Where the ankle shall be, so far under the hip at each frame. */
const under = (below: (frame: number) => number): EndTargets => ({
  positions: Float64Array.from({ length: FRAMES * 3 }, (_, i) => (i % 3 === 1 ? HIP - below((i / 3) | 0) : 0)),
  rotations: new Float64Array(FRAMES * 4),
  resting: new Uint8Array(FRAMES),
});

function dropOf(legs: readonly { readonly bent: number; readonly below: (frame: number) => number }[], settings: Partial<PlantSettings> = {}): Float64Array {
  const plant: LivePlant = { settings: { ...PLANT_DEFAULTS, ...settings }, weights: new Float64Array(FRAMES).fill(1), trembles: 0 };
  return hipsDrop(
    clip,
    legs.map(({ bent }) => leg(bent)),
    legs.map(({ below }) => under(below)),
    [plant],
    plant.weights,
    legs.map(() => null),
  );
}
/** Only on some frames in the middle. */
const within = (there: number, elsewhere: number) => (f: number) => (f >= 115 && f <= 125 ? there : elsewhere);

describe("the hips", () => {
  it("stay where every leg reaches with a soft knee, to the bits", () => {
    expect(dropOf([{ bent: 30, below: () => reachAt(20) }]).every((drop) => drop === 0)).toBe(true);
  });

  it("come down by what a leg lacks, smoothly, and no further than they may", () => {
    const lack = 0.03;
    const drop = dropOf([{ bent: 30, below: within(reachAt(SOFT) + lack, reachAt(30)) }]);
    for (let f = 115; f <= 125; f++) expect(drop[f]).toBeCloseTo(lack, 6);
    expect(drop[115 - dropCarries(FPS)]).toBe(0);
    for (let f = 1; f < FRAMES; f++) expect(Math.abs(drop[f] - drop[f - 1])).toBeLessThan(lack / 5);
    expect(Math.max(...dropOf([{ bent: 30, below: within(1.2, reachAt(30)) }], { hipsMayDropCm: 4 }))).toBeCloseTo(0.04, 9);
  });

  it("come up until no leg is folded further than thigh on shank", () => {
    const drop = dropOf([{ bent: 100, below: within(reachAt(156), reachAt(100)) }]);
    for (let f = 115; f <= 125; f++) expect(reachAt(156) - drop[f]).toBeCloseTo(reachAt(150), 6);
    expect(Math.min(...dropOf([{ bent: 100, below: within(0.02, reachAt(100)) }]))).toBeCloseTo(-0.06, 9);
  });

  it("come down to the height of an end that lies too far to the side, and no further: they would come no nearer", () => {
    const aside = (below: number): EndTargets => ({
      ...under(() => below),
      positions: Float64Array.from({ length: FRAMES * 3 }, (_, i) => [2 * BONE + 0.01, HIP - below, 0][i % 3]),
    });
    const plant: LivePlant = { settings: PLANT_DEFAULTS, weights: new Float64Array(FRAMES).fill(1), trembles: 0 };
    const drop = (below: number) => hipsDrop(clip, [leg(10)], [aside(below)], [plant], plant.weights, [null])[120];
    expect(drop(0.004)).toBeCloseTo(0.004, 9);
    expect(drop(0.5)).toBeCloseTo(PLANT_DEFAULTS.hipsMayDropCm / 100, 9);
    expect(drop(-0.1)).toBe(0);
  });

  it("leave a leg as it is that folds so far by itself", () => {
    expect(dropOf([{ bent: 165, below: () => reachAt(165) }]).every((drop) => drop === 0)).toBe(true);
  });

  it("come up for a folded leg only so far that the other still reaches", () => {
    const drop = dropOf([
      { bent: 100, below: within(reachAt(156), reachAt(100)) },
      { bent: 30, below: () => reachAt(SOFT) - 0.01 },
    ]);
    for (const [f, by] of drop.entries()) expect(reachAt(SOFT) - 0.01 - by, `frame ${f}`).toBeLessThan(reachAt(SOFT) + 1e-9);
    expect(drop[120]).toBeCloseTo(-0.01, 3);
  });
});
