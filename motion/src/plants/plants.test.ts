import { describe, expect, it } from "vitest";
import { measure } from "../checkup/measures.ts";
import { type Clip, ClipDraft, readPosition } from "../clip/clip.ts";
import { type ContactEdit, makeContactEdit } from "../contacts/contact.ts";
import { makePatch, type Patch } from "../documents/patch.ts";
import { DEFAULT_RECIPE, emptyWork, type Work } from "../documents/work.ts";
import { groundHeight } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { at, named, stick, worldAt } from "../testing/patched.ts";

const [floor, plant] = DEFAULT_RECIPE.patches;
const evaluate = (work: Work, clip?: Clip) => stick.evaluator(clip).evaluate(work);

/** Frames at which the generator keeps a foot level and on the ground: 60 % of its cycle of 32, apart from a margin at landing and lift. */
const CYCLE = 32;
function stances(phase: number, from: number, to: number): number[][] {
  const out: number[][] = [];
  for (let n = -1; n < 4; n++) {
    const start = Math.ceil((n - phase) * CYCLE + 3);
    const end = Math.floor((n - phase + 0.6) * CYCLE - 6);
    if (start >= from && end <= to) out.push(Array.from({ length: end - start + 1 }, (_, i) => start + i));
  }
  return out;
}

/** The most that a toe joint moves along the ground within the generator's own stances, centimetres. */
function slideCm(clip: Clip, side: "Left" | "Right", from: number, to: number): number {
  const spans = stances(side === "Left" ? 0 : 0.5, from, to);
  expect(spans.length, `stances of ${side} in ${from}–${to}`).toBeGreaterThan(0);
  return Math.max(
    ...spans.map((frames) => {
      const places = frames.map((f) => worldAt(clip, f, stick.joint(`${side}ToeBase`)).place);
      const spread = (i: number) => Math.max(...places.map((p) => p[i])) - Math.min(...places.map((p) => p[i]));
      return 100 * Math.hypot(spread(0), spread(2));
    }),
  );
}

const over = (from: number, to: number, ramp = 0): Partial<Patch> => ({ range: { start: at(from), end: at(to) }, rampIn: at(ramp), rampOut: at(ramp) });
const smoothed: Patch = {
  ...makePatch("repair", "Smooth", "smooth", { smooth: 1, smoothOver: at(12), pops: false, flips: false }),
  parts: named("Hips", "LeftUpLeg", "RightUpLeg", "LeftLeg", "RightLeg"),
};

describe("several plants in a stack", () => {
  it("stay live over their own stretches under whatever is laid over them", () => {
    const patches = [floor, { ...plant, id: "one", ...over(0, 42) }, { ...plant, id: "two", ...over(46, 89) }, smoothed];
    const live = evaluate({ ...emptyWork(), patches }).result.clip;
    const loose = evaluate({ ...emptyWork(), patches, livePlant: false }).result.clip;
    const single = evaluate({ ...emptyWork(), patches: [floor, plant, smoothed] }).result.clip;
    for (const [from, to] of [
      [0, 42],
      [46, 89],
    ])
      for (const side of ["Left", "Right"] as const) {
        // As still as under one plant over the whole; of that a toe that comes down after its heel may still be rolling.
        expect(slideCm(live, side, from, to), `${side} ${from}`).toBeLessThan(slideCm(single, side, from, to) + 0.3);
        expect(slideCm(live, side, from, to), `${side} ${from}`).toBeLessThan(1.2);
        expect(slideCm(loose, side, from, to), `${side} ${from}, left alone`).toBeGreaterThan(1.5);
      }
  });
});

describe("a plant over a stretch", () => {
  const root = (clip: Clip) => {
    const p = [0, 0, 0];
    return Array.from({ length: clip.frameCount }, (_, f) => {
      readPosition(clip, 0, f, p, 0);
      return 100 * p[2];
    });
  };
  const source = root(stick.clip);
  // The generator's body travels 15 % too fast: 0.47 cm of every 3.6 cm a frame.
  for (const ramp of [0, 6])
    for (const after of ["carry", "spread"] as const)
      it(`moves the root in no leap, its travel ${after === "carry" ? "carried on" : "spread"}, ramps of ${ramp} frames`, () => {
        const { result } = evaluate({ ...emptyWork(), patches: [floor, { ...plant, ...over(20, 62, ramp), settings: { travelAfter: after } }] });
        const off = root(result.clip).map((z, f) => z - source[f]);
        for (let f = 1; f < off.length; f++) expect(Math.abs(off[f] - off[f - 1]), `frame ${f}`).toBeLessThan(1);
        expect(Math.abs(off[0])).toBeLessThan(1e-6);
        const behind = off.slice(62 + ramp + 1);
        if (after === "spread") expect(Math.max(...behind.map(Math.abs))).toBeLessThan(0.01);
        else {
          // 42 frames at 0.47 cm.
          expect(behind[0]).toBeLessThan(-14);
          expect(behind[0]).toBeGreaterThan(-28);
          expect(Math.max(...behind) - Math.min(...behind)).toBeLessThan(0.01);
        }
      });
});

describe("a floor above a plant", () => {
  it("takes what was anchored along: feet stand as they stood", () => {
    const height = (work: Work) => {
      const { result } = evaluate(work);
      return [10, 26, 42, 58].map((f) => {
        const { place } = worldAt(result.clip, f, stick.joint(f % CYCLE < 20 ? "LeftToeBase" : "RightToeBase"));
        return 100 * (place[1] - groundHeight(result.ground, place[0], place[2]));
      });
    };
    const set = makePatch("floor", "Set floor", "again", { height: "set", heightCm: 2.2, level: false });
    const below = height({ ...emptyWork(), patches: [plant] });
    const above = height({ ...emptyWork(), patches: [plant, set] });
    const moved = evaluate({ ...emptyWork(), patches: [plant, set] }).result;
    const before = evaluate({ ...emptyWork(), patches: [plant] }).result;
    // The body comes down by what was asked, feet and all; the finished plant does not put them back.
    for (const f of [10, 26, 42, 58])
      for (const name of ["Hips", "LeftToeBase", "RightToeBase"]) {
        const by = 100 * (worldAt(moved.clip, f, stick.joint(name)).place[1] - worldAt(before.clip, f, stick.joint(name)).place[1]);
        expect(by, `${name} at ${f}`).toBeCloseTo(-2.2, 2);
      }
    // So too where something above has the plant solved once more: it holds the feet where the floor has taken them.
    const [edited, lowered] = [
      [plant, smoothed],
      [plant, set, smoothed],
    ].map((patches) => evaluate({ ...emptyWork(), patches }).result.clip);
    for (const f of [10, 42, 58]) {
      const toe = stick.joint(f % CYCLE < 20 ? "LeftToeBase" : "RightToeBase");
      expect(100 * (worldAt(lowered, f, toe).place[1] - worldAt(edited, f, toe).place[1]), `frame ${f}`).toBeCloseTo(-2.2, 1);
    }
    above.forEach((v, i) => {
      expect(v).toBeCloseTo(below[i], 1);
    });
  });
});

/** The stick figure standing on its right leg with the left foot on a step 30 cm high, its thigh and its left hand swaying a little. */
function onAStep(): Clip {
  const draft = ClipDraft.of(stick.clip);
  const bend = (name: string, f: number, degrees: number, axis: 0 | 2 = 0) => {
    const half = (degrees * Math.PI) / 360;
    const q = [0, 0, 0, Math.cos(half)];
    q[axis] = Math.sin(half);
    draft.setRotation(stick.joint(name), f, q);
  };
  for (let f = 0; f < stick.clip.frameCount; f++) {
    // The standing knee is bent by 40°: two bones of 43 cm are then 80.8 cm long.
    draft.setPosition(0, f, [0, 0.898, 0]);
    const sway = 2 * Math.sin((2 * Math.PI * f) / 45);
    bend("RightUpLeg", f, -20);
    bend("RightLeg", f, 40);
    bend("RightFoot", f, -20);
    // Knee angles for a foot 30 cm up and 25 cm ahead, by the law of cosines on two bones of 43 cm.
    const reach = Math.hypot(51, 25);
    const knee = 180 - (2 * Math.asin(reach / 86) * 180) / Math.PI;
    const hip = -(Math.atan2(25, 51) * 180) / Math.PI - knee / 2;
    bend("LeftUpLeg", f, hip + sway);
    bend("LeftLeg", f, knee);
    bend("LeftFoot", f, -(hip + knee));
    bend("LeftArm", f, -75 + 2 * sway, 2);
  }
  return draft.done();
}

function set(point: string, from: number, to: number, rest: Partial<ContactEdit> = {}): ContactEdit {
  return makeContactEdit({ id: point, point, start: at(from), end: at(to), ...rest });
}

/** Where a contact point of a motion is at a frame, metres, from its joint's world frame. */
function pointAt(motion: ReturnType<typeof evaluate>["result"], clip: Clip, id: string, f: number): number[] {
  const point = motion.points.find((p) => p.id === id);
  if (!point) throw new Error(`no point ${id}`);
  const frame = new PoseFrame(stick.skeleton, clip);
  frame.load(clip, f);
  const [x, y, z, w] = frame.worldRotations.slice(point.joint * 4, point.joint * 4 + 4);
  const [a, b, c] = point.local;
  // v + 2w(u × v) + 2u × (u × v)
  const cross = (p: number[], q: number[]) => [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  const t = cross([x, y, z], [a, b, c]).map((v) => 2 * v);
  const u = cross([x, y, z], t);
  return [a, b, c].map((v, i) => v + w * t[i] + u[i] + frame.worldPositions[point.joint * 3 + i]);
}

function travelled(motion: ReturnType<typeof evaluate>["result"], clip: Clip, id: string, from: number, to: number): number {
  const places = Array.from({ length: to - from + 1 }, (_, i) => pointAt(motion, clip, id, from + i));
  return 100 * Math.hypot(...[0, 1, 2].map((i) => Math.max(...places.map((p) => p[i])) - Math.min(...places.map((p) => p[i]))));
}

describe("contacts that a person sets", () => {
  const clip = onAStep();
  const planted = (...contacts: ContactEdit[]) => evaluate({ ...emptyWork(), contacts, patches: [{ ...plant, settings: { travelStrength: 0 } }] }, clip);

  it("stay on the step they are on, still", () => {
    const { base, result } = planted(set("leftToe", 20, 60));
    const toe = (c: Clip, f: number) => pointAt(result, c, "leftToe", f);
    expect(travelled(result, base.clip, "leftToe", 20, 60)).toBeGreaterThan(2);
    expect(travelled(result, result.clip, "leftToe", 20, 60)).toBeLessThan(0.1);
    expect(toe(result.clip, 40)[1]).toBeGreaterThan(0.27);
    expect(Math.abs(toe(result.clip, 40)[1] - toe(base.clip, 40)[1])).toBeLessThan(0.02);
  });

  it("hold a hand in the air, and are measured", () => {
    const { base, result } = planted(set("leftHand", 20, 60));
    expect(travelled(result, base.clip, "leftHand", 20, 60)).toBeGreaterThan(4);
    expect(travelled(result, result.clip, "leftHand", 20, 60)).toBeLessThan(0.1);
    const span = measure(result).spans.find((s) => s.contact.point === "leftHand");
    expect(span?.slideCm).toBeLessThan(0.1);
    expect(measure(base).spans.find((s) => s.contact.point === "leftHand")?.slideCm).toBeGreaterThan(2);
  });

  it("hold a knee, or the back, where the body as a whole has to come to it", () => {
    for (const point of ["leftKnee", "back", "seat"]) {
      const { base, result } = planted(set(point, 20, 60));
      const before = travelled(result, base.clip, point, 20, 60);
      expect(travelled(result, result.clip, point, 20, 60), point).toBeLessThan(Math.max(0.1, 0.1 * before));
      expect(measure(result).spans.some((s) => s.contact.point === point)).toBe(true);
    }
  });

  it("rest on another part of the body, and go where it goes", () => {
    const { result } = planted(set("leftHand", 20, 60, { on: { joint: "LeftLeg" } }));
    const apart = Array.from({ length: 41 }, (_, i) => {
      const hand = pointAt(result, result.clip, "leftHand", 20 + i);
      const knee = worldAt(result.clip, 20 + i, stick.joint("LeftLeg")).place;
      return 100 * Math.hypot(...hand.map((v, k) => v - knee[k]));
    });
    expect(Math.max(...apart) - Math.min(...apart)).toBeLessThan(0.1);
  });
});
