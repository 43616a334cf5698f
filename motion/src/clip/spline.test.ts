import { describe, expect, it } from "vitest";
import { expQuatFlat, quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import { type Clip, ClipDraft, readPosition, readRotation } from "./clip.ts";
import { splineBends, splinedClip } from "./spline.ts";

const FPS = 30;
/** One joint that turns about an axis by a known smooth angle, and moves along a known curve. */
const angle = (t: number) => 0.9 * Math.sin(2 * Math.PI * 0.8 * t) + 0.3 * Math.sin(2 * Math.PI * 2.1 * t + 1);
const place = (t: number) => [t, 0.05 * Math.sin(2 * Math.PI * 2 * t), 0.3 * t * t];
const axis = [0.48, 0.6, 0.64];

function turning(frames: number): Clip {
  const draft = ClipDraft.make("turning", FPS, frames, 1, Int16Array.of(0));
  for (let f = 0; f < frames; f++) {
    const q = expQuatFlat(
      new Float64Array(4),
      0,
      axis.map((a) => a * angle(f / FPS)),
      0,
    );
    // A capture's signs flip; that says nothing.
    const sign = f % 3 === 0 ? -1 : 1;
    draft.setRotation(
      0,
      f,
      Array.from(q, (v) => sign * v),
    );
    draft.setPosition(0, f, place(f / FPS));
  }
  return draft.done();
}

const clip = turning(91);

/** What straight lines between frames make of it: slerped turns, linear places. */
function samplePose(of: Clip, frame: number, rotations: Float64Array, positions: Float64Array): void {
  const low = Math.min(of.frameCount - 2, Math.floor(frame));
  const t = frame - low;
  const [a, b, p, s] = [new Float64Array(4), new Float64Array(4), new Float64Array(3), new Float64Array(3)];
  readRotation(of, 0, low, a, 0);
  readRotation(of, 0, low + 1, b, 0);
  slerpQuatFlat(rotations, 0, a, 0, b, 0, t);
  readPosition(of, 0, low, p, 0);
  readPosition(of, 0, low + 1, s, 0);
  for (let i = 0; i < 3; i++) positions[i] = p[i] + t * (s[i] - p[i]);
}

/** Turn about the axis at each quarter of a frame, by a way of sampling. */
function angles(sample: (frame: number) => Float64Array): number[] {
  return Array.from({ length: 4 * 90 + 1 }, (_, k) => {
    const q = sample(k / 4);
    const sine = axis.reduce((sum, a, i) => sum + a * q[i], 0);
    return 2 * Math.atan2(sine * Math.sign(q[3] || 1), Math.abs(q[3]));
  });
}

/** The largest jump of angular acceleration from one quarter frame to the next, at the clip's own frames and between them. */
function jumps(values: readonly number[]): { at: number; between: number } {
  const h = 1 / (4 * FPS);
  const acceleration = values.map((v, k) => (k > 0 && k + 1 < values.length ? (values[k + 1] - 2 * v + values[k - 1]) / (h * h) : 0));
  const out = { at: 0, between: 0 };
  for (let k = 16; k < values.length - 16; k++) {
    // What a sample on a whole frame has that its neighbours on both sides have not.
    const jump = Math.abs(acceleration[k] - (acceleration[k - 1] + acceleration[k + 1]) / 2);
    const where = k % 4 === 0 ? "at" : "between";
    out[where] = Math.max(out[where], jump);
  }
  return out;
}

describe("a clip between its frames", () => {
  it("keeps the bits of whole frames", () => {
    const out = splinedClip(clip, Float64Array.of(3, 3.5, 4, 90, 200, -2));
    const [a, b] = [new Float32Array(4), new Float32Array(4)];
    for (const [f, source] of [
      [0, 3],
      [2, 4],
      [3, 90],
      [4, 90],
      [5, 0],
    ]) {
      readRotation(out, 0, f, a, 0);
      readRotation(clip, 0, source, b, 0);
      expect([...a]).toEqual([...b]);
    }
  });

  it("at a quarter of its speed has no steps of acceleration at its frames, as straight lines between them have", () => {
    const quarter = splinedClip(
      clip,
      Float64Array.from({ length: 361 }, (_, k) => k / 4),
    );
    const q = new Float64Array(4);
    const splined = angles((frame) => {
      readRotation(quarter, 0, Math.round(frame * 4), q, 0);
      return q;
    });
    const rotations = new Float64Array(4);
    const straight = angles((frame) => {
      samplePose(clip, frame, rotations, new Float64Array(3));
      return rotations;
    });
    const peak = 0.9 * (2 * Math.PI * 0.8) ** 2 + 0.3 * (2 * Math.PI * 2.1) ** 2;
    // Straight lines put all of a frame's bend into one sample; the spline leaves what storage in 32 bits makes of it.
    expect(jumps(straight).at / peak).toBeGreaterThan(1);
    expect(jumps(splined).at / peak).toBeLessThan(0.15);
    expect(jumps(splined).at).toBeLessThan(3 * jumps(splined).between + 1);
  });

  it("follows a known motion more closely than straight lines by far", () => {
    const halves = splinedClip(
      clip,
      Float64Array.from({ length: 80 }, (_, k) => k + 5.5),
    );
    const [a, b, straight] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
    const [p, s] = [new Float64Array(3), new Float64Array(3)];
    let [off, offStraight, offPlace, offPlaceStraight] = [0, 0, 0, 0];
    for (let k = 0; k < 80; k++) {
      const t = (k + 5.5) / FPS;
      readRotation(halves, 0, k, a, 0);
      expQuatFlat(
        b,
        0,
        axis.map((v) => v * angle(t)),
        0,
      );
      samplePose(clip, k + 5.5, straight, s);
      readPosition(halves, 0, k, p, 0);
      off = Math.max(off, quatAngleFlat(a, 0, b, 0));
      offStraight = Math.max(offStraight, quatAngleFlat(straight, 0, b, 0));
      offPlace = Math.max(offPlace, Math.abs(p[1] - place(t)[1]));
      offPlaceStraight = Math.max(offPlaceStraight, Math.abs(s[1] - place(t)[1]));
    }
    expect(off).toBeLessThan(offStraight / 30);
    expect(offPlace).toBeLessThan(offPlaceStraight / 30);
  });

  it("bends as a parabola does where the samples lie on one", () => {
    const parabola = Float64Array.from({ length: 9 }, (_, k) => 1 + 2 * k + 1.5 * k * k);
    for (const bend of splineBends(parabola, 1)) expect(bend).toBeCloseTo(3, 9);
  });
});
