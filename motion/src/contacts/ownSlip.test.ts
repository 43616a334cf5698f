import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { slipEnds } from "./ownSlip.ts";

const LEG = 0.9;

/** A foot that lands at one time and leaves at another, seconds, and between them goes along the ground as `slip` says (metres of the share of its stand). */
function step(fps: number, [lands, leaves]: readonly [number, number], slip: (share: number) => number) {
  const frames = Math.round((leaves + 0.4) * fps);
  const track = new Float64Array(frames * 3);
  for (let f = 0; f < frames; f++) {
    const t = f / fps;
    const off = Math.max(0, lands - t, t - leaves);
    const share = Math.min(1, Math.max(0, (t - lands) / (leaves - lands)));
    // A swing that begins, and ends, with no speed and no acceleration.
    track.set([slip(share), 20 * off ** 3, (t < lands ? -1 : 1) * 120 * off ** 3], f * 3);
  }
  const stand = [Math.ceil(lands * fps - 1e-9), Math.floor(leaves * fps + 1e-9)] as const;
  const ends = (found: readonly [number, number] = stand) => slipEnds(track, found, [0, frames - 1], { tolerance: 0.00015, legLength: LEG, fps });
  return { stand, ends, track, frames };
}

describe("a foot that slips as it stands", () => {
  it.each([24, 30, 60, 120])("has its stand's ends within a frame where it slips evenly, at %d frames a second, however roughly they were found", (fps) => {
    const { stand, ends } = step(fps, [0.41, 0.99], (share) => 0.05 * share);
    for (const off of [-2, 0, 2]) {
      const found = ends([stand[0] + off, stand[1] - off]);
      expect(found).not.toBeNull();
      expect(Math.abs((found?.[0] ?? 0) - stand[0])).toBeLessThanOrEqual(1);
      expect(Math.abs((found?.[1] ?? 0) - stand[1])).toBeLessThanOrEqual(1);
    }
  });

  it.each([30, 60])("and where it slips out and back, at %d frames a second", (fps) => {
    const { stand, ends } = step(fps, [0.41, 0.99], (share) => 0.03 * Math.sin(Math.PI * share));
    const found = ends();
    expect(Math.abs((found?.[0] ?? 0) - stand[0])).toBeLessThanOrEqual(1);
    expect(Math.abs((found?.[1] ?? 0) - stand[1])).toBeLessThanOrEqual(1);
  });

  it("is none that keeps its place, or hardly leaves it", () => {
    expect(step(60, [0.4, 1], () => 0).ends()).toBeNull();
    expect(step(60, [0.4, 1], (share) => 0.001 * share).ends()).toBeNull();
  });

  it("is none that shifts all at once", () => {
    expect(step(60, [0.4, 1], (share) => (share > 0.5 ? 0.03 : 0)).ends()).toBeNull();
  });

  it("is none that comes to rest as the clip ends, nor too few frames of one", () => {
    const { track, frames } = step(60, [0.9, 1], () => 0);
    const cut = track.slice(0, 54 * 3);
    expect(slipEnds(cut, [46, 53], [0, 53], { tolerance: 0.00015, legLength: LEG, fps: 60 })).toBeNull();
    expect(frames).toBeGreaterThan(54);
    const short = step(30, [0.4, 1], (share) => 0.05 * share);
    expect(short.ends([15, 17])).toBeNull();
  });

  it("has a stand within its bounds, wherever it begins, whatever its pace", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 24, max: 120 }),
        fc.double({ min: 0.2, max: 0.5, noNaN: true }),
        fc.double({ min: 0.02, max: 0.15, noNaN: true }),
        (fps, lands, speed) => {
          const { stand, ends, track, frames } = step(fps, [lands, lands + 0.5], (share) => 0.5 * speed * share);
          const found = ends();
          if (!found) return speed * 0.5 < 0.012;
          const bounded = slipEnds(track, stand, [stand[0] + 1, stand[1] - 1], { tolerance: 0.00015, legLength: LEG, fps });
          return (
            found[0] >= 0 && found[1] < frames && found[0] < found[1] && (bounded?.[0] ?? stand[0] + 1) >= stand[0] + 1 && (bounded?.[1] ?? 0) <= stand[1] - 1
          );
        },
      ),
    );
  });
});
