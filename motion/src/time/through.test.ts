import { describe, expect, it } from "vitest";
import { type Clip, readPosition, readRotation } from "../clip/clip.ts";
import { quatAngleFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { PLANT_DEFAULTS } from "../plants/settings.ts";
import { foundContact } from "../testing/contacts.ts";
import { stick } from "../testing/patched.ts";
import { atRate, throughWarp } from "./through.ts";
import { cropWarp, identityWarp, inputAt, type TimeWarp } from "./warp.ts";

const FPS = 30;
const { base } = stick.evaluator().evaluate(stick.work());
const contact = (start: number, end: number) => foundContact("leftToe", start, end);
const ramp = Float64Array.from({ length: 90 }, (_, f) => f / 89);
const motion: Motion = {
  ...base,
  contacts: [contact(10, 30), contact(60, 60)],
  plants: [{ settings: PLANT_DEFAULTS, weights: ramp, trembles: 0 }],
  settled: base.clip,
};
const arm = stick.joint("LeftArm");
const turn = (clip: Clip, f: number) => {
  const q = new Float64Array(4);
  readRotation(clip, arm, f, q, 0);
  return q;
};
const place = (clip: Clip, f: number) => {
  const p = [0, 0, 0];
  readPosition(clip, 0, f, p, 0);
  return p;
};
const spans = (m: Motion) => m.contacts.map((c) => [c.start, c.end]);

describe("a motion through a map of time", () => {
  it("is the motion itself through the identity", () => {
    expect(throughWarp(motion, identityWarp(89 / FPS))).toBe(motion);
  });

  it("is cut at its end alone where the map ends before it", () => {
    const cut = throughWarp(motion, cropWarp(0, 40 / FPS));
    expect(cut.clip.frameCount).toBe(41);
    expect(spans(cut)).toEqual([[10, 30]]);
    expect([...turn(cut.clip, 40)]).toEqual([...turn(motion.clip, 40)]);
  });

  it("leaves nothing of a contact of which it leaves less than a frame, and one of a single frame its ramps", () => {
    const ramped = { ...motion, contacts: [contact(10, 30), { ...contact(60, 60), rampIn: 4, rampOut: 3 }] };
    expect(spans(throughWarp(ramped, cropWarp(30 / FPS, 70 / FPS)))).toEqual([[30, 30]]);
    const [single] = throughWarp(ramped, cropWarp(40 / FPS, 70 / FPS)).contacts;
    expect([single.start, single.end, single.rampIn, single.rampOut]).toEqual([20, 20, 4, 3]);
  });

  it("keeps the bits of whole frames when it is cut, with contacts, plants and what is settled cut along", () => {
    const cut = throughWarp(motion, cropWarp(20 / FPS, 70 / FPS));
    expect(cut.clip.frameCount).toBe(51);
    for (const f of [0, 17, 50]) {
      expect([...turn(cut.clip, f)]).toEqual([...turn(motion.clip, f + 20)]);
      expect(place(cut.clip, f)).toEqual(place(motion.clip, f + 20));
    }
    expect(spans(cut)).toEqual([
      [0, 10],
      [40, 40],
    ]);
    expect([...cut.plants[0].weights]).toEqual([...ramp.slice(20, 71)]);
    expect(cut.settled).toBe(cut.clip);
    expect(inputAt(cut.time, 0)).toBeCloseTo(20 / FPS, 12);
    // What lies outside is gone.
    expect(spans(throughWarp(motion, cropWarp(31 / FPS, 59 / FPS)))).toEqual([]);
  });

  it("keeps what was settled apart from the clip where the two differ", () => {
    const other = stick.evaluator().evaluate(stick.grounded()).result.clip;
    const cut = throughWarp({ ...motion, settled: other }, cropWarp(20 / FPS, 70 / FPS));
    expect(cut.settled).not.toBe(cut.clip);
    expect(place(cut.settled as Clip, 3)).toEqual(place(other, 23));
  });

  it("lies between frames where it is slower, and goes through every frame that it meets", () => {
    // Half as fast: twice as long, every other frame a whole one.
    const slow: TimeWarp = { seconds: 178 / FPS, pieces: [{ outStart: 0, outEnd: 178 / FPS, inStart: 0, inEnd: 89 / FPS }] };
    const warped = throughWarp(motion, slow);
    expect(warped.clip.frameCount).toBe(179);
    for (const f of [0, 20, 88]) expect(quatAngleFlat(turn(warped.clip, 2 * f), 0, turn(motion.clip, f), 0)).toBeLessThan(1e-6);
    // Half-way between two frames: about as far from the one as from the other.
    const half = turn(warped.clip, 41);
    const step = quatAngleFlat(turn(motion.clip, 20), 0, turn(motion.clip, 21), 0);
    expect(quatAngleFlat(half, 0, turn(motion.clip, 20), 0) / step).toBeCloseTo(0.5, 1);
    expect(quatAngleFlat(half, 0, turn(motion.clip, 21), 0) / step).toBeCloseTo(0.5, 1);
    expect(spans(warped)).toEqual([
      [20, 60],
      [120, 120],
    ]);
    expect(warped.plants[0].weights[41]).toBeCloseTo((ramp[20] + ramp[21]) / 2, 9);
  });
});

describe("a motion at another rate", () => {
  it("is itself at its own rate", () => {
    expect(atRate(motion, FPS)).toBe(motion);
  });

  it("shows the same moments, with contacts on the frames that lie inside and plants as strong", () => {
    const double = atRate(motion, 60);
    expect(double.clip.frameCount).toBe(179);
    expect(spans(double)).toEqual([
      [20, 60],
      [120, 120],
    ]);
    expect(place(double.clip, 40)[2]).toBeCloseTo(place(motion.clip, 20)[2], 6);
    expect(place(double.clip, 41)[2]).toBeCloseTo((place(motion.clip, 20)[2] + place(motion.clip, 21)[2]) / 2, 6);
    expect(double.plants[0].weights[41]).toBeCloseTo((ramp[20] + ramp[21]) / 2, 12);
    expect(double.plants[0].weights).toHaveLength(179);
    expect(double.settled).toBeNull();
    const slow = atRate(motion, 10);
    expect(slow.clip.frameCount).toBe(30);
    // Frames 10 to 30 hold those of 1/3 s to 1 s: 4 to 10 of the ten a second.
    expect(spans(slow)).toEqual([
      [4, 10],
      [20, 20],
    ]);
    // A contact that falls between two frames shows on none.
    expect(spans(atRate({ ...motion, contacts: [contact(61, 62)] }, 10))).toEqual([]);
  });
});
