import { describe, expect, it } from "vitest";
import type { Sole, SolePoint } from "../character/soles.ts";
import { normalNumbers } from "../testing/noise.ts";
import { calibrateSole } from "./calibrate.ts";
import type { Contact } from "./contact.ts";

const FPS = 60;
/** Frames of a stance in which a foot rolls, and of the swing behind it. */
const STANCE = 30;
const SWING = 20;

/** A foot that rolls about `truth` (metres, in its own frame) through `degrees` in each of some stances, and flies on between them. */
function rolling(
  truth: readonly number[],
  degrees: number,
  stances: number,
  modelled = false,
  anatomical: readonly [number, number, number] = [0, -0.08, -0.05],
): { sole: Sole; contacts: Contact[] } {
  const n = stances * (STANCE + SWING);
  const positions = new Float64Array(n * 3);
  const rotations = new Float32Array(n * 4);
  const contacts: Contact[] = [];
  for (let f = 0; f < n; f++) {
    const stance = Math.floor(f / (STANCE + SWING));
    const k = f % (STANCE + SWING);
    const resting = k < STANCE;
    const angle = ((degrees * Math.PI) / 180) * (resting ? k / STANCE : 1 - (k - STANCE) / SWING);
    const [s, c] = [Math.sin(angle), Math.cos(angle)];
    rotations.set([Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)], f * 4);
    const rest = [0, 0, 0.7 * stance];
    // R·p of a turn about x.
    const p = [truth[0], c * truth[1] - s * truth[2], s * truth[1] + c * truth[2]];
    const swing = resting ? 0 : (k - STANCE + 1) / SWING;
    positions.set([rest[0] - p[0], rest[1] - p[1] + 0.1 * Math.sin(Math.PI * swing), rest[2] - p[2] + 0.7 * swing], f * 3);
    if (k === 0)
      contacts.push({
        point: "heel",
        joint: 0,
        start: f,
        end: f + STANCE - 1,
        on: "ground",
        anchor: { mode: "settle", point: null },
        rampIn: null,
        rampOut: null,
        origin: "found",
      });
  }
  const point: SolePoint = { id: "heel", local: anatomical, modelled, clearance: 0 };
  const sole = {
    leg: {} as Sole["leg"],
    track: { frameCount: n, positions, rotations },
    unseen: new Set<number>(),
    points: [point],
    along: null,
    flat: [],
    upLocal: [0, 1, 0] as const,
    legLength: 0.9,
    expected: 0,
  };
  return { sole, contacts };
}
const calibrated = (
  { sole, contacts }: ReturnType<typeof rolling>,
  travel = new Float64Array(sole.track.frameCount * 2),
  heave = new Float64Array(sole.track.frameCount),
) => calibrateSole(sole, contacts, travel, heave, FPS).points[0].local;
const off = (a: readonly number[], b: readonly number[]) => 1000 * Math.hypot(...a.map((v, i) => v - b[i]));

describe("where a foot rolls about", () => {
  it("is found to a millimetre, along the sole and across it", () => {
    for (const truth of [
      [0, -0.08, -0.03],
      [0, -0.083, -0.065],
      [0, -0.078, -0.05],
    ])
      expect(off(calibrated(rolling(truth, 25, 6)), truth), truth.join()).toBeLessThan(1);
  });

  it("stays where the body's proportions have it when nothing rolls", () => {
    expect(off(calibrated(rolling([0, -0.08, -0.02], 0, 6)), [0, -0.08, -0.05])).toBeLessThan(0.01);
    const none = { ...rolling([0, -0.08, -0.02], 25, 6), contacts: [] };
    expect(calibrated(none)).toEqual([0, -0.08, -0.05]);
  });

  it("is never further than five centimetres from there, and a joint's own place is not moved", () => {
    const far = calibrated(rolling([0, -0.08, 0.25], 25, 6));
    expect(off(far, [0, -0.08, -0.05])).toBeLessThan(50.001);
    expect(calibrated(rolling([0, -0.08, -0.02], 25, 6, true))).toEqual([0, -0.08, -0.05]);
  });

  it("is seen with the travel put right", () => {
    const truth = [0, -0.08, -0.03];
    const given = rolling(truth, 25, 6);
    // The whole clip drifts along z by 30 cm a second.
    const n = given.sole.track.frameCount;
    const travel = Float64Array.from({ length: n * 2 }, (_, i) => (i % 2 === 1 ? (0.3 * Math.floor(i / 2)) / FPS : 0));
    const positions = given.sole.track.positions.map((v, i) => (i % 3 === 2 ? v + travel[Math.floor(i / 3) * 2 + 1] : v));
    const drifting = { ...given, sole: { ...given.sole, track: { ...given.sole.track, positions } } };
    expect(off(calibrated(drifting, travel), truth)).toBeLessThan(1);
    expect(off(calibrated(drifting), truth)).toBeGreaterThan(3);
  });

  it("is seen with what heaves the body taken out", () => {
    const truth = [0, -0.08, -0.03];
    const given = rolling(truth, 25, 6);
    const heave = Float64Array.from({ length: given.sole.track.frameCount }, (_, f) => 0.012 * Math.sin((2 * Math.PI * 1.7 * f) / FPS));
    const positions = given.sole.track.positions.map((v, i) => (i % 3 === 1 ? v + heave[Math.floor(i / 3)] : v));
    const heaved = { ...given, sole: { ...given.sole, track: { ...given.sole.track, positions } } };
    expect(off(calibrated(heaved, undefined, heave), truth)).toBeLessThan(1);
    expect(off(calibrated(heaved), truth)).toBeGreaterThan(3);
  });

  it("says how still it keeps: to a thousandth of a millimetre where nothing rolls, not so where the foot creeps", () => {
    const rolls = ({ sole, contacts }: ReturnType<typeof rolling>) => {
      const none = new Float64Array(sole.track.frameCount * 2);
      return calibrateSole(sole, contacts, none, none, FPS).points[0].rolls ?? Number.NaN;
    };
    const flat = rolling([0, -0.08, -0.05], 0, 6);
    expect(rolls(flat)).toBeLessThan(1e-6);
    const positions = flat.sole.track.positions.map((v, i) => (i % 3 === 2 ? v + 0.0005 * Math.sin(i) : v));
    expect(rolls({ ...flat, sole: { ...flat.sole, track: { ...flat.sole.track, positions } } })).toBeGreaterThan(1e-4);
    expect(rolls({ ...flat, contacts: [] })).toBeNaN();
  });

  it("is as sure of a long clip, of which only some spans are asked", () => {
    const truth = [0, -0.082, -0.035];
    expect(off(calibrated(rolling(truth, 25, 300)), truth)).toBeLessThan(1);
  });

  it("tells how deep the sole is where that is only guessed, if the foot rolls far and does not tremble", () => {
    const truth = [0, -0.089, -0.045];
    const none = (n: number) => [new Float64Array(n * 2), new Float64Array(n)] as const;
    const guessed = (made: ReturnType<typeof rolling>) =>
      calibrateSole(made.sole, made.contacts, ...none(made.sole.track.frameCount), FPS, "guessed").points[0];
    const seen = guessed(rolling(truth, 25, 5));
    expect(off(seen.local, truth)).toBeLessThan(0.2);
    expect(seen.rolledAt).toEqual(seen.local);
    // A foot that hardly turns shows nothing of it.
    const flat = guessed(rolling(truth, 0.1, 5));
    expect(flat.rolledAt).toBeUndefined();
    expect(Math.abs(flat.local[1] + 0.08)).toBeLessThan(0.002);
    // One that trembles with its leg (a turn of the knee, half a metre up) would seem to roll about that.
    const shaken = rolling(truth, 25, 5);
    const normal = normalNumbers(4);
    const { positions, rotations } = shaken.sole.track;
    for (let f = 0; f < rotations.length / 4; f++) {
      const by = 0.01 * normal();
      positions[f * 3 + 2] -= 0.45 * by;
      const half = Math.asin(rotations[f * 4]) + by / 2;
      rotations.set([Math.sin(half), 0, 0, Math.cos(half)], f * 4);
    }
    expect(guessed(shaken).rolledAt).toBeUndefined();
    // Where the ground is known a foot that rolls exactly is believed before it, and one that trembles is not.
    const known = (deep: number) => {
      const made = rolling([0, deep, -0.045], 25, 5);
      return { ...calibrateSole(made.sole, made.contacts, ...none(made.sole.track.frameCount), FPS).points[0], truth: [0, deep, -0.045] };
    };
    const beside = known(-0.1);
    expect(off(beside.local, beside.truth)).toBeLessThan(0.5);
    expect(beside.rolledAt).toEqual(beside.local);
    expect(known(-0.0805).rolledAt).toBeUndefined();
    expect(calibrateSole(shaken.sole, shaken.contacts, ...none(rotations.length / 4), FPS).points[0].rolledAt).toBeUndefined();
  });
});
