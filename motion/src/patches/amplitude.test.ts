import { describe, expect, it } from "vitest";
import { ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { patch, stick, worldAt } from "../testing/patched.ts";
import { rangeOfMotion } from "./amplitude.ts";

const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** The stick figure walking on the spot, turned to `facing` degrees and swinging ±6° about the vertical, leaning 4 ± 3° to one side. */
function swinging(facing: number) {
  const draft = ClipDraft.of(stick.clip);
  for (let f = 0; f < stick.clip.frameCount; f++) {
    draft.setPosition(0, f, [0, 0.96, 0]);
    const [turn, lean] = [radians(facing + 6 * Math.sin(f / 7)) / 2, radians(4 + 3 * Math.cos(f / 7)) / 2];
    // heading about y, then lean about the body's own z: (0, sin t, 0, cos t) · (0, 0, sin l, cos l)
    const [st, ct, sl, cl] = [Math.sin(turn), Math.cos(turn), Math.sin(lean), Math.cos(lean)];
    draft.setRotation(0, f, [st * sl, st * cl, ct * sl, ct * cl]);
  }
  return draft.done();
}

/** Where the hips face, degrees off `about`: the world direction of their own +Z. */
function headings(clip: ReturnType<typeof swinging>, about: number): number[] {
  return Array.from({ length: clip.frameCount }, (_, f) => {
    const [x, y, z, w] = worldAt(clip, f, 0).turn;
    const degrees = (Math.atan2(2 * (x * z + w * y), 1 - 2 * (x * x + y * y)) * 180) / Math.PI;
    return ((((degrees - about) % 360) + 540) % 360) - 180;
  });
}

describe("amplitude", () => {
  // At half a turn a quaternion's sign and its leading component change within the swing.
  for (const facing of [0, 90, 180, -179, 270])
    it(`halves a swing about the vertical of a body that faces ${facing}°`, () => {
      const clip = swinging(facing);
      const evaluator = stick.evaluator(clip);
      const half = evaluator.evaluate(stick.work(patch("amplitude", { percent: 50, swivel: true, tilt: true, pitch: true }))).result.clip;
      const was = headings(clip, facing);
      const now = headings(half, facing);
      expect(Math.max(...was)).toBeGreaterThan(5.9);
      expect(Math.max(...now)).toBeGreaterThan(2.8);
      expect(Math.max(...now.map(Math.abs))).toBeLessThan(3.4);
    });

  it("halves the pitching of a body that hangs head down: half a turn, swinging by ±6°", () => {
    const draft = ClipDraft.of(stick.clip);
    for (let f = 0; f < stick.clip.frameCount; f++) {
      draft.setPosition(0, f, [0, 0.96, 0]);
      const half = radians(180 + 6 * Math.sin(f / 7)) / 2;
      draft.setRotation(0, f, [Math.sin(half), 0, 0, Math.cos(half)]);
    }
    const clip = draft.done();
    const { result } = stick.evaluator(clip).evaluate(stick.work(patch("amplitude", { percent: 50, pitch: true, tilt: true, swivel: true })));
    /** How far the hips' own up is from straight down, degrees, forward positive. */
    const off = (of: typeof clip, f: number) => {
      const [x, y, z, w] = worldAt(of, f, 0).turn;
      const up = [2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)];
      expect(up[1]).toBeLessThan(-0.99);
      return (Math.atan2(up[2], -up[1]) * 180) / Math.PI;
    };
    for (let f = 0; f < clip.frameCount; f++) expect(off(result.clip, f), `frame ${f}`).toBeCloseTo(off(clip, f) / 2, 0);
    const was = Array.from({ length: clip.frameCount }, (_, f) => Math.abs(off(clip, f)));
    expect(Math.max(...was)).toBeGreaterThan(5.9);
  });

  /** A body that stays at its place but for sways of 4 cm to its left, 3 cm forward and 2 cm up, each at a pace of its own. */
  const swaying = (() => {
    const draft = ClipDraft.of(stick.clip);
    for (let f = 0; f < stick.clip.frameCount; f++) {
      draft.setRotation(0, f, [0, 0, 0, 1]);
      draft.setPosition(0, f, [0.04 * Math.sin(f / 5), 0.96 + 0.02 * Math.sin(f / 4), 0.03 * Math.sin(f / 6)]);
    }
    return draft.done();
  })();
  const places = (clip: typeof swaying, axis: number) => Array.from({ length: clip.frameCount }, (_, f) => worldAt(clip, f, 0).place[axis]);
  /** Seen on ground that lies still, though its legs walk on the spot. */
  const onStill = (settings: Record<string, unknown>) => ({ ...stick.work(patch("amplitude", settings)), carriedBy: "stillGround" as const });
  const scaled = (settings: Record<string, unknown>) => stick.evaluator(swaying).evaluate(onStill(settings)).result.clip;
  const mean = (v: readonly number[]) => v.reduce((a, b) => a + b, 0) / v.length;

  const line = (v: readonly number[]) => {
    const middle = (v.length - 1) / 2;
    const slope = v.reduce((sum, y, f) => sum + (f - middle) * y, 0) / v.reduce((sum, _, f) => sum + (f - middle) ** 2, 0);
    return (f: number) => mean(v) + slope * (f - middle);
  };

  it("scales sway, surge and bob of the hips each by itself, about their average", () => {
    const AXES = { sway: 0, bob: 1, surge: 2 };
    for (const [which, axis] of Object.entries(AXES)) {
      const clip = scaled({ percent: 40, [which]: true });
      for (const other of [0, 1, 2]) {
        const [was, now] = [places(swaying, other), places(clip, other)];
        was.forEach((v, f) => {
          // Along the way that the body faces the average is an even travel: the straight line of least squares.
          const middle = axis === 2 ? line(was)(f) : mean(was);
          const expected = other === axis ? middle + 0.4 * (v - middle) : v;
          expect(now[f], `${which}, axis ${other}, frame ${f}`).toBeCloseTo(expected, 5);
        });
      }
    }
    const more = places(scaled({ percent: 150, surge: true }), 2);
    const was = places(swaying, 2);
    expect(more[20]).toBeCloseTo(line(was)(20) + 1.5 * (was[20] - line(was)(20)), 5);
  });

  it("scales about the pose of a frame: that frame stays, and what is off it is off by so much less", () => {
    const poseAt = 17;
    const clip = scaled({ percent: 50, about: "pose", poseAt: poseAt / 30, sway: true, surge: true, bob: true });
    for (const axis of [0, 1, 2]) {
      const [was, now] = [places(swaying, axis), places(clip, axis)];
      expect(now[poseAt]).toBeCloseTo(was[poseAt], 6);
      was.forEach((v, f) => {
        expect(now[f], `axis ${axis}, frame ${f}`).toBeCloseTo(was[poseAt] + 0.5 * (v - was[poseAt]), 5);
      });
    }
    const late = patch("amplitude", { percent: 50, about: "pose", poseAt: 100, sway: true });
    expect(() => stick.evaluator(swaying).evaluate(stick.work(late))).toThrow(/frame 3000 lies behind the last frame 89/);
  });

  it("scales a part's own turning about its middle, on the axes that were chosen", () => {
    const arm = stick.joint("LeftArm");
    const draft = ClipDraft.of(stick.clip);
    for (let f = 0; f < stick.clip.frameCount; f++) {
      const half = radians(10 * Math.sin(f / 5)) / 2;
      draft.setRotation(arm, f, [Math.sin(half), 0, 0, Math.cos(half)]);
    }
    const clip = draft.done();
    const angle = (of: typeof clip, f: number) => {
      const q = [0, 0, 0, 0];
      readRotation(of, arm, f, q, 0);
      return (2 * Math.atan2(q[0], q[3]) * 180) / Math.PI;
    };
    const run = (settings: Record<string, unknown>) =>
      stick.evaluator(clip).evaluate(stick.work(patch("amplitude", { parts: [{ joint: "LeftArm" }], ...settings }))).result.clip;
    const all = Array.from({ length: clip.frameCount }, (_, f) => angle(clip, f));
    const half = run({ percent: 50 });
    all.forEach((v, f) => {
      expect(angle(half, f), `frame ${f}`).toBeCloseTo(mean(all) + 0.5 * (v - mean(all)), 1);
    });
    const onX = run({ percent: 50, partAxes: ["x"] });
    const onY = run({ percent: 50, partAxes: ["y"] });
    expect(angle(onX, 8)).toBeCloseTo(angle(half, 8), 2);
    expect(angle(onY, 8)).toBeCloseTo(angle(clip, 8), 2);
    // At nothing it stands still at its middle.
    const still = run({ percent: 0 });
    for (const f of [0, 8, 30]) expect(angle(still, f)).toBeCloseTo(angle(still, 60), 3);
  });

  it("is nothing at 100 %, or where nothing is chosen: bit for bit", () => {
    for (const settings of [{ percent: 100, sway: true }, { percent: 50 }]) expect(scaled(settings)).toBe(swaying);
  });
});

describe("the range of the hips' movement", () => {
  it("is what they were made to move by, side to side, up and down, on and off their travel", () => {
    // Hips that swing by known amounts over a still stance, facing +Z; the generator's own sines.
    const draft = ClipDraft.of(stick.clip);
    const n = stick.clip.frameCount;
    const start = [0, 0, 0];
    readPosition(stick.clip, 0, 0, start, 0);
    for (let f = 0; f < n; f++) {
      const t = (2 * Math.PI * f) / 30;
      draft.setPosition(0, f, [start[0] + 0.03 * Math.sin(t), start[1] + 0.02 * Math.sin(2 * t), start[2] + 0.01 * Math.sin(t + 1)]);
      const half = (0.5 * 8 * Math.PI * Math.sin(t)) / 180;
      draft.setRotation(0, f, [0, Math.sin(half), 0, Math.cos(half)]);
    }
    const { base } = stick.evaluator().evaluate(stick.work());
    const range = rangeOfMotion({ ...base, clip: draft.done() }, 0, n - 1);
    expect(range.swayCm).toBeCloseTo(6, 0);
    expect(range.bobCm).toBeCloseTo(4, 0);
    expect(range.surgeCm).toBeCloseTo(2, 0);
    expect(range.swivelDegrees).toBeCloseTo(16, 0);
    const quarter = rangeOfMotion({ ...base, clip: draft.done() }, 0, 7);
    expect(quarter.swayCm).toBeLessThan(3.5);
  });
});
