import { describe, expect, it } from "vitest";
import type { Contact } from "../contacts/contact.ts";
import type { PointTracks } from "../contacts/pointTracks.ts";
import { normalNumbers } from "../testing/noise.ts";
import { withLingering } from "./lingering.ts";

const FPS = 30;
const NOISE = 0.005;

/** A part that rests on frames 20 to 40 of 60, and goes evenly before and after, so many metres a frame; as it came, and with a corner as a smoothing leaves it. */
function part(step: number, seed = 1): { raw: Float64Array; steadied: Float64Array } {
  const normal = normalNumbers(seed);
  const at = (f: number) => (f < 20 ? (f - 20) * step : f > 40 ? (f - 40) * step : 0);
  const raw = Float64Array.from({ length: 180 }, (_, i) => (i % 3 === 0 ? at(i / 3) : 0) + NOISE * normal());
  const steadied = Float64Array.from({ length: 180 }, (_, i) => (i % 3 === 0 ? (at(i / 3 - 1) + at(i / 3) + at(i / 3 + 1)) / 3 : 0));
  return { raw, steadied };
}
const tracks = (course: Float64Array) => ({ bearing: (id: string) => (id === "leftToe" ? course : undefined) }) as unknown as PointTracks;
const contact = (start: number, end: number, more: Partial<Contact> = {}): Contact => ({
  point: "leftToe",
  joint: 3,
  start,
  end,
  on: "ground",
  anchor: { mode: "settle", point: [0, 0, 0] },
  rampIn: null,
  rampOut: null,
  origin: "found",
  doubtful: [1, 1],
  ...more,
});
const lingers = (contacts: readonly Contact[], step = 0.024, fps = FPS) => {
  const { raw, steadied } = part(step);
  return withLingering(contacts, tracks(raw), tracks(steadied), fps).map((c) => c.linger);
};

describe("a contact of a trembling part", () => {
  it("is held a frame longer where it is cut short and smoothing would take the part along", () => {
    expect(lingers([contact(21, 39)])).toEqual([[1, 1]]);
    expect(lingers([contact(21, 39, { doubtful: [0, 1] })])).toEqual([[0, 1]]);
  });

  it("is held a frame longer where it came at its place and only its steadied leg has left, fast as that may be, in doubt or not", () => {
    // A leg that leaves by 12 cm a frame is 4 cm off its place as smoothing has it, and half a centimetre as it came.
    for (const doubtful of [
      [1, 1],
      [0, 1],
      [1, 0],
    ] as const)
      expect(lingers([contact(21, 39, { doubtful })], 0.12)).toEqual([[1, 1]]);
    // Where it truly has left it is not.
    expect(lingers([contact(20, 40)], 0.12)).toEqual([undefined]);
    // Nor where it came nearer, but still further off than its trembling explains.
    const { raw, steadied } = part(0.12);
    raw[41 * 3] = 0.04;
    expect(withLingering([contact(20, 40)], tracks(raw), tracks(steadied), FPS)[0].linger).toBeUndefined();
  });

  it("is held as it is where nothing is in doubt, and where a person has set it", () => {
    for (const more of [{ doubtful: undefined }, { doubtful: [0, 0] as const }, { origin: "set" as const, doubtful: undefined }])
      expect(lingers([contact(21, 39, more)])).toEqual([undefined]);
  });

  it("is held as it is where the part is further from its place than its trembling explains", () => {
    // A frame beyond frame 41 it is five centimetres away.
    expect(lingers([contact(19, 41)], 0.025)).toEqual([undefined]);
  });

  it("is held as it is where its leg hardly moves, or has clearly left", () => {
    expect(lingers([contact(21, 39)], 0.009)).toEqual([undefined]);
    // A centimetre and a half away as it came, and as smoothing has it: in a frame of a quarter of the length that is a swing.
    expect(lingers([contact(20, 40)], 0.015)).toEqual([[1, 1]]);
    expect(lingers([contact(20, 40)], 0.015, 4 * FPS)).toEqual([undefined]);
  });

  it("is not held into another contact of the same part, nor beyond the clip", () => {
    expect(lingers([contact(21, 38), contact(41, 50, { doubtful: undefined })])[0]).toEqual([1, 0]);
    expect(lingers([contact(0, 59)])).toEqual([undefined]);
  });
});
