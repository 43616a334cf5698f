import { carriedOnto, clipWorld, Evaluator, emptyWork, type Motion, makePatch, oneSource, quantile, SuppliedSources } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { performBiped } from "./biped.ts";
import { OSK, PIM } from "./characters.ts";
import { gaitPlan, straight } from "./plans.ts";
import { demo, evaluate, floorAndPlant, refOf, WALK, work } from "./testing/evaluated.ts";
import { contactSlides } from "./testing/motionFigures.ts";
import { NAMING_STYLES, renamed, TEST_BODIES } from "./variants.ts";

const walkOf = (k: number): Motion => {
  const { character, scale, fps } = TEST_BODIES[k];
  const plan = gaitPlan({
    name: "walk",
    seed: 3,
    seconds: 3,
    fps,
    path: straight,
    width: 0.17,
    strikePitch: 0.3,
    liftPitch: 0.7,
    clearance: 0.04,
    bob: 0.012,
    shift: 0.42,
    stepLength: 0.66 * scale,
    stepTime: 0.55,
    stance: 0.61,
  });
  return new Evaluator(oneSource(character.skeleton, performBiped(character, plan).clip)).evaluate(emptyWork()).base;
};

/** Unit directions of limbs' bones in the world [frame][bone][3]. */
function directions(motion: Motion, frame: number): number[][] {
  const world = clipWorld(motion.character.skeleton, motion.clip);
  const { roles } = motion.character.body;
  const bones = [
    ["leftThigh", "leftShin"],
    ["rightShin", "rightFoot"],
    ["leftUpperArm", "leftForearm"],
    ["rightForearm", "rightHand"],
  ] as const;
  return bones.map(([a, b]) => {
    const at = (role: keyof typeof roles, i: number) => world.positions[(frame * world.jointCount + (roles[role] ?? 0)) * 3 + i];
    const v = [0, 1, 2].map((i) => at(b, i) - at(a, i));
    const n = Math.hypot(...v);
    return v.map((x) => x / n);
  });
}
const degrees = (a: readonly number[], b: readonly number[]) =>
  (Math.acos(
    Math.min(
      1,
      a.reduce((s, v, i) => s + v * b[i], 0),
    ),
  ) *
    180) /
  Math.PI;

describe("a motion on another body", () => {
  it("of the same skeleton keeps its bits", () => {
    const walk = evaluate(WALK);
    const same = carriedOnto(walk, evaluate("porter-waiting-weight-shift"));
    expect(same.motion.clip).toBe(walk.clip);
    expect(same.without).toEqual([]);
  });

  it.each([1, 2])("points its limbs the same way, travels by leg length and stands on its floor (body %i)", (k) => {
    const ina = evaluate(WALK, ...floorAndPlant);
    const like = walkOf(k);
    const { motion, without } = carriedOnto(ina, like);
    expect(motion.clip.fps).toBe(like.clip.fps);
    expect(without.every((part) => "joint" in part || /Toe|Index|Middle|Ring|Little|Thumb|HandEnd/.test(part.role))).toBe(true);
    for (const f of [10, 40, 70]) {
      const [a, b] = [directions(ina, f), directions(motion, Math.round((f * like.clip.fps) / ina.clip.fps))];
      a.forEach((way, i) => expect(degrees(way, b[i])).toBeLessThan(1));
    }
    const travel = (m: Motion) => {
      const p = clipWorld(m.character.skeleton, m.clip).positions;
      const o = m.character.rig.hips * 3;
      const last = (m.clip.frameCount - 1) * m.clip.jointCount * 3;
      return Math.hypot(p[last + o] - p[o], p[last + o + 2] - p[o + 2]);
    };
    const leg = (m: Motion) => m.character.rig.limbs.filter((l) => l.kind === "leg").reduce((s, l) => s + l.length, 0) / 2;
    expect(travel(motion) / leg(motion)).toBeCloseTo(travel(ina) / leg(ina), 1);
  });

  it("whatever its joints are called, mixes in by part; what has no partner is listed", () => {
    const numbered = renamed(OSK, NAMING_STYLES.sideSuffix);
    const { clip } = demo("diver-dock-patrol");
    const sources = new SuppliedSources({ skeleton: demo(WALK).truth.character.skeleton, clip: demo(WALK).clip }, [
      { ref: refOf("osk"), skeleton: numbered.skeleton, clip, work: null },
      { ref: refOf("goat"), skeleton: PIM.skeleton, clip: demo("goat-down-the-quay").clip, work: null },
    ]);
    const evaluator = new Evaluator(sources);
    const mix = (name: string, rest = {}) => ({ ...makePatch("mix", "Mix", "mix", { clip: refOf(name), repeat: "fill" }), ...rest });
    const legs = (["hips", "leftThigh", "leftShin", "leftFoot", "leftToe", "rightThigh", "rightShin", "rightFoot", "rightToe"] as const).map((role) => ({
      role,
    }));
    const { result } = evaluator.evaluate(work(...floorAndPlant, mix("osk", { parts: legs })));
    expect(quantile(contactSlides(result), 0.95)).toBeLessThan(0.2);
    expect(result.contacts.filter((c) => c.of === "osk.bvh").length).toBeGreaterThan(6);
    const goat = evaluator.evaluate(work(mix("goat", { parts: [{ role: "head" }, { role: "neck" }] })));
    expect(goat.notes.find((n) => n.field === "clip")?.message).toMatch(/has no partner on this body is left out: .*[Tt]ail/);
  });

  it("of a work is its result; one that would come back to itself is named with its chain", () => {
    const { skeleton } = demo(WALK).truth.character;
    const clip = demo(WALK).clip;
    const a = { ...refOf("a"), work: 1 };
    const b = { ...refOf("b"), work: 1 };
    const join = (clip: typeof a) => makePatch("join", "On", "on", { clip, overlap: 0.2 });
    const cleaned = new SuppliedSources({ skeleton, clip }, [{ ref: a, skeleton, clip, work: work(...floorAndPlant) }]);
    const other = cleaned.find(a);
    expect(other?.plants).toHaveLength(1);
    expect(other?.clip).not.toBe(clip);
    expect(cleaned.find({ ...a, work: 2 })).toBeUndefined();
    const round = new SuppliedSources({ skeleton, clip }, [
      { ref: a, skeleton, clip, work: work(join(b)) },
      { ref: b, skeleton, clip, work: work(join(a)) },
    ]);
    expect(() => new Evaluator(round).evaluate(work(join(a)))).toThrow(/"a\.bvh" cannot be used: .*it would draw on itself: a\.bvh → b\.bvh → a\.bvh/);
  });
});
