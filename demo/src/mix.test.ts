import {
  type Clip,
  jointTrack,
  type Motion,
  makePatch,
  type PartRef,
  type Patch,
  PoseFrame,
  quantile,
  quatAngleFlat,
  type Role,
  readRotation,
  takePose,
} from "@stride/motion";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demo, evaluateWith, floorAndPlant, JOG, refOf, WALK } from "./testing/evaluated.ts";
import { contactSlides, speedJumps } from "./testing/motionFigures.ts";

const IDLE = "porter-waiting-weight-shift";
const ANGRY = "porter-angry-argument";
const SLOW = "porter-unhurried-walk";
const CROUCHED = "porter-crouched-walk";
const TURN = "porter-turn-and-stop";

const ARMS: readonly Role[] = ["leftUpperArm", "leftForearm", "leftHand", "rightUpperArm", "rightForearm", "rightHand"];
const LEGS: readonly Role[] = ["hips", "leftThigh", "leftShin", "leftFoot", "leftToe", "rightThigh", "rightShin", "rightFoot", "rightToe"];
const parts = (roles: readonly Role[]): PartRef[] => roles.map((role) => ({ role }));
const mix = (other: string, settings: Record<string, unknown> = {}, rest: Partial<Patch> = {}): Patch => ({
  ...makePatch("mix", "Mix", "mix", { clip: refOf(other), ...settings }),
  ...rest,
});

/** Bits of a joint's rotation on a frame. */
const bits = (clip: Clip, joint: number, frame: number) => {
  const q = [0, 0, 0, 0];
  readRotation(clip, joint, frame, q, 0);
  return q;
};
const joints = (m: Motion, roles: readonly Role[]) => roles.map((r) => m.character.body.roles[r] ?? -1);

describe("a mix of two clips", () => {
  it("leaves parts off its mask alone bit for bit, and has the other clip's rotations on it at the moments that it maps to", () => {
    const e = evaluateWith(IDLE, [ANGRY], mix(ANGRY, { offset: 10 / 30 }, { parts: parts(ARMS), range: { start: 1, end: 3 } }));
    const below = e.base.clip;
    const other = demo(ANGRY).clip;
    const { clip } = e.result;
    const arms = new Set(joints(e.result, ARMS));
    for (let f = 0; f < clip.frameCount; f++)
      for (let j = 0; j < clip.jointCount; j++) {
        const inside = arms.has(j) && f >= 30 && f <= 90;
        expect(bits(clip, j, f)).toEqual(inside ? bits(other, j, f - 30 + 10) : bits(below, j, f));
      }
  });

  it("at no amount is what is below, and turned round takes the other half of the body", () => {
    const none = evaluateWith(IDLE, [ANGRY], mix(ANGRY, {}, { weight: 0 }));
    expect(none.result.clip).toBe(none.base.clip);
    const keyed = evaluateWith(
      IDLE,
      [ANGRY],
      mix(
        ANGRY,
        {
          amount: [
            { at: 0, value: 0, tangent: "linear" },
            { at: 2, value: 1, tangent: "linear" },
          ],
        },
        { parts: parts(ARMS) },
      ),
    );
    const [arm] = joints(keyed.result, ["leftForearm"]);
    expect(bits(keyed.result.clip, arm, 0)).toEqual(bits(keyed.base.clip, arm, 0));
    expect(bits(keyed.result.clip, arm, 70)).toEqual(bits(demo(ANGRY).clip, arm, 70));
    const all = keyed.result.character.skeleton.names.map((joint) => ({ joint }));
    const taken = new Set(joints(keyed.result, ARMS));
    const flipped = evaluateWith(IDLE, [ANGRY], mix(ANGRY, {}, { parts: all.filter((_, j) => !taken.has(j)) }));
    for (const j of taken) expect(bits(flipped.result.clip, j, 50)).toEqual(bits(flipped.base.clip, j, 50));
    const [thigh] = joints(keyed.result, ["leftThigh"]);
    expect(bits(flipped.result.clip, thigh, 50)).toEqual(bits(demo(ANGRY).clip, thigh, 50));
  });

  it("brings the legs' contacts and travel along with the hips, planted, and without them tells what it leaves out", () => {
    const e = evaluateWith(IDLE, [WALK], ...floorAndPlant, mix(WALK, { repeat: "fill" }, { parts: parts(LEGS) }));
    const hips = jointTrack(e.result.character.skeleton, e.result.clip, e.result.character.rig.hips).positions;
    const n = e.result.clip.frameCount;
    // The true walk covers 0.66 m in 0.55 s.
    expect(Math.hypot(hips[(n - 1) * 3] - hips[0], hips[(n - 1) * 3 + 2] - hips[2]) / ((n - 1) / 30)).toBeCloseTo(0.66 / 0.55, 1);
    expect(e.result.contacts.filter((c) => c.of === `${WALK}.bvh`).length).toBeGreaterThan(15);
    expect(quantile(contactSlides(e.result), 0.95)).toBeLessThan(0.2);
    const stays = evaluateWith(IDLE, [WALK], ...floorAndPlant, mix(WALK, {}, { parts: parts(LEGS.slice(1)) }));
    expect(stays.notes.find((n) => n.field === "parts")?.message).toMatch(/contacts are left out: .*take the hips along with the legs/);
  });

  it("in phase brings landings of two walks of different pace within a frame of each other", () => {
    for (const [under, over] of [
      [WALK, SLOW],
      [SLOW, WALK],
      [CROUCHED, SLOW],
    ]) {
      const e = evaluateWith(under, [over], ...floorAndPlant, mix(over, { align: "contacts", repeat: "fill" }, { parts: parts(LEGS) }));
      const ours = e.stages[1].motion.contacts.filter((c) => c.point.endsWith("Heel") && c.start > 0);
      const theirs = e.result.contacts.filter((c) => c.point.endsWith("Heel"));
      expect(ours.length).toBeGreaterThan(4);
      for (const c of ours)
        expect(
          Math.min(...theirs.filter((t) => t.point === c.point).map((t) => Math.abs(t.start - c.start))),
          `${under} ${c.point} ${c.start}`,
        ).toBeLessThanOrEqual(1);
    }
  });

  it("holds feet still and adds no pops, over random pairs, parts and layings", () => {
    const clips = [WALK, SLOW, CROUCHED, JOG, TURN, IDLE];
    const slides: number[] = [];
    const pair = fc.record({
      under: fc.constantFrom(...clips),
      over: fc.constantFrom(...clips),
      which: fc.constantFrom(LEGS, ARMS, null),
      align: fc.constantFrom("none", "contacts"),
      repeat: fc.constantFrom("once", "fill"),
      offset: fc.integer({ min: 0, max: 20 }),
    });
    fc.assert(
      fc.property(pair, ({ under, over, which, align, repeat, offset }) => {
        const e = evaluateWith(under, [over], ...floorAndPlant, mix(over, { align, repeat, offset: offset / 30 }, { parts: which && parts(which) }));
        slides.push(...contactSlides(e.result));
        // No joint's speed jumps further than it does in either clip by itself, as planted.
        const alone = evaluateWith(over, [], ...floorAndPlant).result.clip;
        const pace = e.result.clip.fps / alone.fps;
        const worst = Math.max(...speedJumps(e.stages[1].motion.clip), ...speedJumps(alone).map((v) => v * Math.max(1, 2 * pace)));
        expect(Math.max(...speedJumps(e.result.clip))).toBeLessThan(1.5 * worst + 60);
      }),
      { numRuns: 24, seed: 7 },
    );
    expect(quantile(slides, 0.95)).toBeLessThan(0.2);
  });

  it("warns before it goes stiff over a pose, and names how the two disagree at the waist; shared along the spine the chest stands as in its own clip", () => {
    const held = makePatch("retime", "Hold", "hold", {
      beats: [
        { from: 0.5, to: 0.5 },
        { from: 0.5, to: 4 },
      ],
    });
    const stiff = evaluateWith(IDLE, [ANGRY], held, mix(ANGRY, {}, { weight: 0.5, parts: parts(ARMS), range: { start: 1, end: 3 } }));
    expect(stiff.notes.some((n) => /stiffer/.test(n.message))).toBe(true);
    expect(evaluateWith(IDLE, [ANGRY], mix(ANGRY, {}, { weight: 0.5, parts: parts(ARMS), range: { start: 1, end: 3 } })).notes).toEqual([]);

    const upper = demo(CROUCHED).truth.character.skeleton.names.map((joint) => ({ joint }));
    const legs = new Set(LEGS.map((r) => demo(CROUCHED).truth.character.roles[r]));
    const roots = new Set([0]);
    const mask = upper.filter((_, j) => !legs.has(j) && !roots.has(j));
    const under = evaluateWith(CROUCHED, [SLOW], mix(SLOW, {}, { parts: mask }));
    expect(under.notes.find((n) => n.field === "shareWaist")?.message).toMatch(/turned \d+° against each other/);
    const shared = evaluateWith(CROUCHED, [SLOW], mix(SLOW, { shareWaist: true }, { parts: mask }));
    const { skeleton, rig } = shared.result.character;
    const lean = (clip: Clip, f: number) => {
      const t = jointTrack(skeleton, clip, rig.chest).rotations;
      // How far the chest's up is from the world's: y of the rotated +Y.
      const [x, , z] = [t[f * 4], t[f * 4 + 1], t[f * 4 + 2]];
      return (Math.acos(1 - 2 * (x * x + z * z)) * 180) / Math.PI;
    };
    for (const f of [20, 50, 80]) {
      expect(Math.abs(lean(shared.result.clip, f) - lean(demo(SLOW).clip, f))).toBeLessThan(0.5);
      expect(Math.abs(lean(under.result.clip, f) - lean(demo(SLOW).clip, f))).toBeGreaterThan(1.5);
    }
  });

  it("lays a kept pose over parts, and adds a clip's difference to one", () => {
    const base = evaluateWith(IDLE, [ANGRY]).base;
    const frame = new PoseFrame(base.character.skeleton, base.clip);
    frame.load(base.clip, 100);
    const pose = takePose(frame, base.character, null);
    const [arm] = joints(base, ["rightForearm"]);
    const over = evaluateWith(IDLE, [], { ...makePatch("mix", "Mix", "mix", { pose }), parts: parts(ARMS) });
    for (const f of [0, 60, 180]) expect(quatAngleFlat(bits(over.result.clip, arm, f), 0, bits(base.clip, arm, 100), 0)).toBeLessThan(1e-5);
    // The other clip's own pose as the reference: nothing is added on that frame.
    const other = evaluateWith(ANGRY, []).base;
    frame.load(other.clip, 20);
    const reference = takePose(frame, other.character, null);
    const added = evaluateWith(IDLE, [ANGRY], mix(ANGRY, { how: "added", pose: reference }, { parts: parts(ARMS) }));
    expect(quatAngleFlat(bits(added.result.clip, arm, 20), 0, bits(base.clip, arm, 20), 0)).toBeLessThan(1e-5);
    expect(quatAngleFlat(bits(added.result.clip, arm, 60), 0, bits(base.clip, arm, 60), 0)).toBeGreaterThan(0.05);
  });

  it("tells where the body comes back to behind a range that has taken it away", () => {
    const notes = (range: Patch["range"]) => evaluateWith(IDLE, [WALK], ...floorAndPlant, mix(WALK, { repeat: "fill" }, { parts: parts(LEGS), range })).notes;
    expect(notes({ start: 1, end: 4 }).find((n) => n.field === "range")?.message).toMatch(/comes back to where it was, by [34]\.\d m/);
    expect(notes(null).filter((n) => n.field === "range")).toEqual([]);
  });

  it("over a clip that is not here does nothing and says so, and what stands over it goes on", () => {
    const lift = {
      ...makePatch("touchUp", "Up", "up", {
        at: 1,
        edits: [{ op: "turn", parts: [{ role: "head" }], space: "own", degrees: [10, 0, 0], shared: false, pivot: null }],
        holds: [],
      }),
    };
    const e = evaluateWith(IDLE, [], mix(ANGRY), lift);
    expect(e.notes).toEqual([
      expect.objectContaining({ patchId: "mix", field: "clip", stops: true, message: expect.stringMatching(/"porter-angry-argument.bvh" is not here/) }),
    ]);
    const [head] = joints(e.result, ["head"]);
    expect(bits(e.result.clip, head, 30)).not.toEqual(bits(e.base.clip, head, 30));
  });
});
