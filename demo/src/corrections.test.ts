import {
  Evaluator,
  emptyWork,
  fingerJoints,
  handRotations,
  isFiniteClip,
  makePatch,
  measure,
  oneSource,
  type Patch,
  PoseFrame,
  quatAngleFlat,
  rangeOfMotion,
  readyShape,
  rotationBetween,
  totalsOf,
  type Work,
} from "@stride/motion";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { differences } from "../../motion/src/testing/patched.ts";
import { demoClips } from "./clips.ts";

const clips = new Map(demoClips().map((c) => [c.id, c]));
const clip = (id: string) => {
  const found = clips.get(id);
  if (!found) throw new Error(`no clip ${id}`);
  return found;
};
const named = (kind: string, settings: Record<string, unknown>, rest: Partial<Patch> = {}): Patch => ({
  ...makePatch(kind, kind, `${kind}-1`, settings),
  ...rest,
});
const floorAndPlant = [makePatch("floor", "floor", "floor"), makePatch("plant", "plant", "plant")];
const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });

describe("less sway", () => {
  it("halves the hips' sway and swivel while the chest keeps its own course to 0.01 cm and 0.01°, on planted feet", () => {
    const { truth, clip: captured } = clip("porter-night-shift-walk");
    const { skeleton } = truth.character;
    const evaluator = new Evaluator(oneSource(skeleton, captured));
    const chest = truth.character.roles.chest ?? 0;
    const before = evaluator.evaluate(work(...floorAndPlant)).result;
    const settings = { percent: 50, sway: true, swivel: true, holds: [{ part: { role: "chest" }, position: true, orientation: true, on: null }] };
    const { result } = evaluator.evaluate(work(...floorAndPlant, named("amplitude", settings)));
    const last = captured.frameCount - 1;
    const was = rangeOfMotion(before, 0, last);
    const now = rangeOfMotion(result, 0, last);
    expect(was.swayCm).toBeGreaterThan(3);
    expect(was.swivelDegrees).toBeGreaterThan(5);
    expect(now.swayCm / was.swayCm).toBeGreaterThan(0.49);
    expect(now.swayCm / was.swayCm).toBeLessThan(0.51);
    expect(now.swivelDegrees / was.swivelDegrees).toBeGreaterThan(0.49);
    expect(now.swivelDegrees / was.swivelDegrees).toBeLessThan(0.51);
    let moved = 0;
    let turned = 0;
    const a = new PoseFrame(skeleton, before.clip);
    const b = new PoseFrame(skeleton, result.clip);
    for (let f = 0; f <= last; f++) {
      a.load(before.clip, f);
      b.load(result.clip, f);
      moved = Math.max(moved, Math.hypot(...[0, 1, 2].map((c) => a.worldPositions[chest * 3 + c] - b.worldPositions[chest * 3 + c])));
      turned = Math.max(turned, quatAngleFlat(a.worldRotations, chest * 4, b.worldRotations, chest * 4));
    }
    expect(moved * 100).toBeLessThan(0.01);
    expect((turned * 180) / Math.PI).toBeLessThan(0.01);
    expect(totalsOf(measure(result)).slideP95Cm).toBeLessThan(0.2);
  });

  it("scales a part about its own average, its trend or a pose, and nothing at 100 %", () => {
    const { truth, clip: captured } = clip("diver-dock-patrol");
    const evaluator = new Evaluator(oneSource(truth.character.skeleton, captured));
    const arm = { role: "leftUpperArm" };
    const joint = truth.character.roles.leftUpperArm ?? 0;
    const spread = (percent: number, about: string) => {
      const { result } = evaluator.evaluate(work(named("amplitude", { percent, about, parts: [arm] })));
      let most = 0;
      for (let f = 0; f < captured.frameCount; f += 3)
        for (let g = 0; g < captured.frameCount; g += 3) most = Math.max(most, rotationBetween(result.clip, f, result.clip, g, joint));
      return most;
    };
    const own = spread(100, "average");
    expect(spread(50, "average") / own).toBeCloseTo(0.5, 1);
    expect(spread(150, "pose") / own).toBeCloseTo(1.5, 1);
    expect(spread(0, "average")).toBeLessThan(1e-5);
    expect(spread(50, "trend")).toBeLessThan(own);
    expect(evaluator.evaluate(work(named("amplitude", { parts: [arm] }))).result.clip).toBe(captured);
  });
});

describe("planted feet", () => {
  it("stay planted under any stack of touch-ups, layers and amplitudes: slide p95 under 0.2 cm", () => {
    const { truth, clip: captured } = clip("porter-turn-and-stop");
    const { skeleton } = truth.character;
    const evaluator = new Evaluator(oneSource(skeleton, captured));
    const last = captured.frameCount - 1;
    const { fps } = captured;
    const cm = fc.integer({ min: -8, max: 8 });
    const degrees = fc.integer({ min: -18, max: 18 });
    const part = fc.constantFrom("Hips", "Spine", "Chest", "LeftHand", "RightHand", "Head");
    const touchUp = fc
      .record({
        frame: fc.integer({ min: 0, max: last }),
        joint: part,
        cm: fc.tuple(cm, cm, cm),
        turn: fc.tuple(degrees, degrees, degrees),
        ramp: fc.integer({ min: 6, max: 20 }),
      })
      .map((t) =>
        named(
          "touchUp",
          {
            at: t.frame / fps,
            edits: [
              { op: "move", parts: [{ joint: t.joint }], space: "body", centimetres: t.cm },
              { op: "turn", parts: [{ joint: t.joint }], space: "own", degrees: t.turn, shared: false, pivot: null },
            ],
            holds: [],
          },
          { range: { start: t.frame / fps, end: Math.min(last, t.frame + 10) / fps }, rampIn: t.ramp / fps, rampOut: t.ramp / fps },
        ),
      );
    const layer = fc.record({ joint: part, value: degrees, at: fc.integer({ min: 60, max: 200 }) }).map((l) =>
      named("layer", {
        channels: [
          {
            target: { drives: "turn", part: { joint: l.joint }, axis: "y" },
            keys: [0, l.at, last].map((frame, i) => ({ at: frame / fps, value: i === 1 ? l.value : 0, tangent: "smooth" })),
          },
          {
            target: { drives: "move", part: { role: "hips" }, axis: "y", space: "world" },
            keys: [0, l.at, last].map((frame, i) => ({ at: frame / fps, value: i === 1 ? -3 : 0, tangent: "smooth" })),
          },
        ],
      }),
    );
    const amplitude = fc.integer({ min: 0, max: 180 }).map((percent) => named("amplitude", { percent, about: "trend", sway: true, swivel: true, bob: true }));
    fc.assert(
      fc.property(fc.array(fc.oneof(touchUp, layer, amplitude), { minLength: 1, maxLength: 4 }), (patches) => {
        const stack = patches.map((p, i) => ({ ...p, id: `p${i}` }));
        const { result } = evaluator.evaluate(work(...floorAndPlant, ...stack));
        expect(totalsOf(measure(result)).slideP95Cm).toBeLessThan(0.2);
        expect(isFiniteClip(result.clip)).toBe(true);
      }),
      { numRuns: 14, seed: 5 },
    );
  });
});

describe("hand shapes", () => {
  const { truth, clip: captured } = clip("porter-waiting-weight-shift");
  const { skeleton } = truth.character;
  const evaluator = new Evaluator(oneSource(skeleton, captured));
  const { base } = evaluator.evaluate(emptyWork());
  const tip = (c: typeof captured, f: number, joint: number) => {
    const frame = new PoseFrame(skeleton, c);
    frame.load(c, f);
    return { place: frame.worldPositions.slice(joint * 3, joint * 3 + 3), hand: frame };
  };

  it("replace finger motion in their range, with ramps, and touch fingers alone", () => {
    const shape = readyShape("relaxed", skeleton, base.character.body, "right");
    const { result } = evaluator.evaluate(
      work(named("handShape", { left: null, right: shape }, { range: { start: 3, end: 140 / 30 }, rampIn: 8 / 30, rampOut: 8 / 30 })),
    );
    const fingers = new Set(fingerJoints(base.character.body, "right").map((f) => f.joint));
    expect(fingers.size).toBe(15);
    const { joints, frames } = differences(captured, result.clip);
    expect(joints.every((j) => fingers.has(j))).toBe(true);
    expect(frames[0]).toBeGreaterThan(82);
    expect(frames.at(-1)).toBeLessThan(148);
    // The dropped-out stretch is still now.
    const index = truth.character.roles.rightIndex2 ?? 0;
    for (let f = 91; f <= 140; f++) {
      expect(rotationBetween(result.clip, f, result.clip, 90, index)).toBeLessThan(1e-6);
    }
  });

  it("bend towards the palm on both sides, five to ten degrees a joint when relaxed, and close round a shaft", () => {
    for (const side of ["left", "right"] as const) {
      const hand = truth.character.roles[`${side}Hand`] ?? 0;
      const end = truth.character.roles[`${side}Middle3`] ?? 0;
      const at = (name: Parameters<typeof readyShape>[0]) => {
        const { result } = evaluator.evaluate(
          work(named("handShape", { left: null, right: null, [side]: readyShape(name, skeleton, base.character.body, side) })),
        );
        const { place, hand: frame } = tip(result.clip, 10, end);
        return Math.hypot(...[0, 1, 2].map((c) => place[c] - frame.worldPositions[hand * 3 + c]));
      };
      const [flat, relaxed, wide, narrow, fist] = (["flat", "relaxed", "shaft6", "shaft3", "fist"] as const).map(at);
      expect(flat).toBeGreaterThan(relaxed);
      expect(relaxed).toBeGreaterThan(wide);
      expect(wide).toBeGreaterThan(narrow);
      expect(narrow).toBeGreaterThan(fist * 0.99);
      for (const [joint, q] of handRotations(skeleton, base.character.body, side, {
        ...readyShape("relaxed", skeleton, base.character.body, side),
        spread: 0,
        thumbAcross: 0,
      })) {
        const bend = (quatAngleFlat(q, 0, [0, 0, 0, 1], 0) * 180) / Math.PI;
        expect(bend, skeleton.names[joint]).toBeGreaterThanOrEqual(5 - 1e-6);
        expect(bend, skeleton.names[joint]).toBeLessThanOrEqual(10 + 1e-6);
      }
      // Palms face down at rest: fingers curl down, on both sides.
      const curled = handRotations(skeleton, base.character.body, side, readyShape("fist", skeleton, base.character.body, side));
      const [, q] = curled.find(([joint]) => joint === truth.character.roles[`${side}Middle`]) ?? [0, new Float64Array(4)];
      const out = side === "left" ? 1 : -1;
      // y of the finger's direction (±x) once turned: 2(xy + wz)·x.
      expect(2 * (q[0] * q[1] + q[3] * q[2]) * out).toBeLessThan(-0.9);
    }
  });

  it("work through the same code on several clips of a body", () => {
    const patch = named("handShape", {
      left: readyShape("relaxed", skeleton, base.character.body, "left"),
      right: readyShape("relaxed", skeleton, base.character.body, "right"),
    });
    for (const id of ["porter-waiting-weight-shift", "porter-late-for-the-ferry", "porter-night-shift-walk"]) {
      const c = clip(id);
      const { result } = new Evaluator(oneSource(c.truth.character.skeleton, c.clip)).evaluate(work(patch));
      const joint = c.truth.character.roles.leftRing2 ?? 0;
      for (const f of [0, 20, result.clip.frameCount - 1]) expect(rotationBetween(result.clip, f, result.clip, 0, joint)).toBeLessThan(1e-6);
    }
  });
});
