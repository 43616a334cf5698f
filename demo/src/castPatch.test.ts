import {
  bakedOnto,
  type Clip,
  ClipDraft,
  characterIn,
  clipWorld,
  Evaluator,
  emptyWork,
  groundHeight,
  legLengthOf,
  type Motion,
  makePatch,
  oneSource,
  PoseFrame,
  readRotation,
  SuppliedSources,
} from "@stride/motion";
import { describe, expect, it } from "vitest";
import { reachLimb } from "../../motion/src/kinematics/limbReach.ts";
import { type Character, INA, PIM } from "./characters.ts";
import { bodyOf } from "./testing/bodies.ts";
import { demo, GOAT, JOG, ofTruth, refOf, WALK } from "./testing/evaluated.ts";
import { about, times } from "./turn.ts";

/** A body at rest as a file without a motion would give it. */
function still({ skeleton }: Character): { skeleton: Character["skeleton"]; clip: Clip } {
  const draft = ClipDraft.make("still", 30, 1, skeleton.names.length, Int16Array.of(0));
  skeleton.names.forEach((_, j) => {
    draft.setRotation(j, 0, [0, 0, 0, 1]);
  });
  draft.setPosition(0, 0, [0, 1, 0]);
  return { skeleton, clip: draft.done() };
}

/** Furthest that any toe strays in the middle of its true stances, cm: by the generator's footfalls alone. */
function worstSlide(id: string, { character, clip, points }: Motion): number {
  const { positions, jointCount } = clipWorld(character.skeleton, clip);
  let worst = 0;
  for (const { point, start, end } of demo(id).truth.contacts) {
    const joint = points.find((p) => p.id === point)?.joint;
    const [a, b] = [Math.ceil(start + 0.3 * (end - start)), Math.floor(start + 0.7 * (end - start))];
    if (joint === undefined || !/Toe|Fore|Hind/.test(point) || b - a < 2) continue;
    const at = (f: number, i: number) => positions[(f * jointCount + joint) * 3 + i];
    const middle = (a + b) >> 1;
    for (let f = a; f <= b; f++) worst = Math.max(worst, 100 * Math.hypot(at(f, 0) - at(middle, 0), at(f, 2) - at(middle, 2)));
  }
  return worst;
}

function deepest({ character, clip, points, ground }: Motion): number {
  const { positions, jointCount } = clipWorld(character.skeleton, clip);
  let deep = 0;
  for (const { joint } of points.filter((p) => p.bears))
    for (let f = 0; f < clip.frameCount; f++) {
      const o = (f * jointCount + joint) * 3;
      deep = Math.max(deep, 100 * (groundHeight(ground, positions[o], positions[o + 2]) - positions[o + 1]));
    }
  return deep;
}

const BODIES = [
  ["0.6 × as tall, narrow, one joint of spine", bodyOf(1.03, 0.9, 1, 1)],
  ["0.8 × as tall, broad, six joints of spine, three of neck", bodyOf(1.38, 1.25, 6, 3)],
  ["1.6 × as tall, two joints of spine and of neck", bodyOf(2.75, 1.1, 2, 2)],
] as const;

describe("a performance cast onto bodies of other sizes and chains", () => {
  it.each(BODIES.flatMap(([words, body]) => [WALK, JOG, "porter-turn-and-stop"].map((id) => [id, words, body] as const)))(
    "%s onto one %s: feet still, over the floor, the trunk bent as it was",
    (id, _, body) => {
      const source = ofTruth(id);
      const { motion } = bakedOnto(source, characterIn(still(body)));
      const scale = legLengthOf(motion.character) / legLengthOf(source.character);
      expect(worstSlide(id, motion)).toBeLessThan(Math.max(worstSlide(id, source) * scale, 0) + 0.2 * scale);
      expect(deepest(motion)).toBeLessThan(0.2);
      // The chest and the head look where they looked; what is between them bends by even shares.
      const turned = (m: Motion, joint: number, f: number) => {
        const { rotations, jointCount } = clipWorld(m.character.skeleton, m.clip);
        return [...rotations.subarray((f * jointCount + joint) * 4, (f * jointCount + joint) * 4 + 4)];
      };
      const angle = (a: number[], b: number[]) => (2 * Math.acos(Math.min(1, Math.abs(a.reduce((s, v, i) => s + v * b[i], 0)))) * 180) / Math.PI;
      const f = source.clip.frameCount >> 1;
      for (const role of ["chest", "head"] as const)
        expect(
          angle(turned(source, source.character.body.roles[role] as number, f), turned(motion, motion.character.body.roles[role] as number, f)),
        ).toBeLessThan(1);
      const { rig, skeleton } = motion.character;
      const steps = rig.spine.map((joint) => angle(turned(motion, joint, f), turned(motion, skeleton.parents[joint], f)));
      const bend = angle(turned(motion, rig.hips, f), turned(motion, rig.chest, f));
      expect(Math.max(...steps)).toBeLessThan(bend * 1.2 + 0.5);
      if (rig.spine.length > 3) expect(Math.max(...steps)).toBeLessThan(bend * 0.75 + 0.5);
    },
  );

  it("a body of the same bones that rests with its arms down moves as the one that rests with them out", () => {
    const { skeleton, roles } = INA;
    const restRotations = skeleton.restRotations.slice();
    restRotations.set(about("z", -0.8), (roles.leftUpperArm as number) * 4);
    restRotations.set(about("z", 0.8), (roles.rightUpperArm as number) * 4);
    const sloping = { ...skeleton, restRotations };
    const draft = ClipDraft.of(still(INA).clip);
    for (const role of ["leftUpperArm", "rightUpperArm"] as const)
      draft.setRotation(roles[role] as number, 0, [...restRotations.subarray((roles[role] as number) * 4, (roles[role] as number) * 4 + 4)]);
    const source = ofTruth(WALK);
    const { motion } = bakedOnto(source, characterIn({ skeleton: sloping, clip: draft.done() }), () => {}, { hands: false });
    const [a, b] = [source, motion].map((m) => clipWorld(m.character.skeleton, m.clip));
    for (const role of ["leftForearm", "leftHand", "rightHand", "leftIndex3"] as const)
      for (let f = 0; f < source.clip.frameCount; f++) {
        // From the chest: how the legs are solved moves both.
        const from = (w: typeof a, c: number) =>
          w.positions[(f * w.jointCount + (roles[role] as number)) * 3 + c] - w.positions[(f * w.jointCount + (roles.chest as number)) * 3 + c];
        for (let c = 0; c < 3; c++) expect(Math.abs(from(a, c) - from(b, c))).toBeLessThan(2e-3);
      }
  });

  it("four legs onto four legs of another build", () => {
    const source = ofTruth(GOAT);
    const small = { ...PIM, skeleton: { ...PIM.skeleton, offsets: PIM.skeleton.offsets.map((v, i) => v * (i % 3 === 1 ? 0.6 : 0.75)) } };
    const { motion, without } = bakedOnto(source, characterIn(still(small)));
    expect(without).toEqual([]);
    expect(worstSlide(GOAT, motion)).toBeLessThan(worstSlide(GOAT, source) + 0.2);
    expect(deepest(motion)).toBeLessThan(0.2);
  });
});

/** Ina standing with her palms together before her chest, then apart and back again; or with her left hand on her hip. */
function touching(how: "together" | "hip", fps = 30, frames = 61): Motion {
  const { skeleton, roles } = INA;
  const draft = ClipDraft.make("touching", fps, frames, skeleton.names.length, Int16Array.of(0));
  for (let f = 0; f < frames; f++) {
    skeleton.names.forEach((_, j) => {
      draft.setRotation(j, f, [0, 0, 0, 1]);
    });
    for (const side of ["left", "right"] as const) draft.setRotation(roles[`${side}UpperArm`] as number, f, about("z", side === "left" ? -1.3 : 1.3));
    draft.setPosition(0, f, [0, 0.95, 0]);
  }
  const standing = draft.done();
  const { rig } = characterIn({ skeleton, clip: standing }).character;
  const pose = new PoseFrame(skeleton, standing);
  const out = ClipDraft.of(standing);
  for (let f = 0; f < frames; f++) {
    const open = 0.5 - 0.5 * Math.cos((f / (frames - 1)) * 2 * Math.PI);
    pose.load(standing, f);
    for (const limb of rig.limbs.filter((l) => l.kind === "arm")) {
      const s = limb.side === "left" ? 1 : -1;
      if (how === "hip" && s < 0) continue;
      const local = [s * 0.05, 0, 0];
      const position = how === "together" ? [s * (0.03 + 0.22 * open), 1.27, 0.3] : [0.2 + 0.01 * open, 0.97, 0.02];
      reachLimb(pose, limb, { joint: limb.end, local, position, orientation: null, rank: "want", extent: 0 });
    }
    pose.update();
    pose.storeAll(out, f);
  }
  return new Evaluator(oneSource(skeleton, out.done())).evaluate(emptyWork()).result;
}

/** Palms [frame][side] as the middle of the hand: between its joint and the middle finger's first, by the skeleton alone. */
function palms({ character, clip }: Motion): number[][][] {
  const { positions, jointCount } = clipWorld(character.skeleton, clip);
  return Array.from({ length: clip.frameCount }, (_, f) =>
    (["left", "right"] as const).map((side) => {
      const [a, b] = [character.body.roles[`${side}Hand`] as number, character.body.roles[`${side}Middle`] as number];
      return [0, 1, 2].map((c) => (positions[(f * jointCount + a) * 3 + c] + positions[(f * jointCount + b) * 3 + c]) / 2);
    }),
  );
}
const apart = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, i) => v - b[i]));

describe("hands where they meet", () => {
  it.each(BODIES)("palms that touched touch on a body %s, and open as they did, without a jerk", (_, body) => {
    const source = touching("together");
    const like = characterIn(still(body));
    const [kept, left] = [true, false].map((hands) => bakedOnto(source, like, () => {}, { hands }).motion);
    const arm = (m: Motion) => m.character.rig.limbs.find((l) => l.kind === "arm")?.length ?? 0;
    const scale = arm(kept) / arm(source);
    const [was, is, unled] = [source, kept, left].map((m) => palms(m).map(([a, b]) => apart(a, b)));
    expect(was[0]).toBeLessThan(0.09);
    expect(Math.max(...was)).toBeGreaterThan(0.3);
    // Where they meet: within 1 cm of the body's size; unled, breadth alone puts them further off on a broad body.
    was.forEach((d, f) => {
      if (d < 0.09) expect(Math.abs(is[f] - scale * d)).toBeLessThan(0.01 * scale);
    });
    if (body.skeleton.offsets.length > 0 && Math.abs(unled[0] - scale * was[0]) > 0.02)
      expect(Math.abs(is[0] - scale * was[0])).toBeLessThan(Math.abs(unled[0] - scale * was[0]) / 2);
    // Accelerations of the distance stay in the order of what they were.
    const jerk = (d: readonly number[]) => Math.max(...d.slice(2).map((v, i) => Math.abs(v - 2 * d[i + 1] + d[i])));
    expect(jerk(is)).toBeLessThan(scale * jerk(was) * 2 + 0.004);
  });

  it("are led to the last frame, also where that lies behind the last look at them", () => {
    // They are looked at every third frame of 120 a second.
    const source = touching("together", 120, 63);
    const like = characterIn(still(bodyOf(1.72, 1.25, 2, 1)));
    const { motion } = bakedOnto(source, like);
    const [was, is] = [source, motion].map((m) => palms(m).map(([a, b]) => apart(a, b)));
    const scale = is[60] / was[60];
    for (const f of [61, 62]) expect(Math.abs(is[f] - scale * was[f])).toBeLessThan(0.001);
    const unled = palms(bakedOnto(source, like, () => {}, { hands: false }).motion).map(([a, b]) => apart(a, b));
    expect(Math.abs(unled[62] - scale * was[62])).toBeGreaterThan(0.02);
  });

  it("a hand on the hip stays on the hip of a broad body", () => {
    const source = touching("hip");
    const like = characterIn(still(bodyOf(1.72, 1.25, 2, 1)));
    const [kept, left] = [true, false].map((hands) => bakedOnto(source, like, () => {}, { hands }).motion);
    const toHips = (m: Motion) => {
      const { positions, jointCount } = clipWorld(m.character.skeleton, m.clip);
      return palms(m).map(([hand], f) =>
        apart(
          hand,
          [0, 1, 2].map((c) => positions[(f * jointCount + m.character.rig.hips) * 3 + c]),
        ),
      );
    };
    const [was, is, unled] = [source, kept, left].map(toHips);
    expect(was[0]).toBeLessThan(0.25);
    expect(Math.abs(is[0] - was[0])).toBeLessThan(0.03);
    expect(Math.abs(unled[0] - was[0])).toBeGreaterThan(1.5 * Math.abs(is[0] - was[0]));
  });
});

describe("twist joints", () => {
  /** Ina with two roll bones in her left forearm, at a third and at two thirds of it. */
  const rolled = (): Character => {
    const { skeleton, roles } = INA;
    const [forearm, hand] = [roles.leftForearm as number, roles.leftHand as number];
    const names = [...skeleton.names, "LeftForearmRoll1", "LeftForearmRoll2"];
    const offset = skeleton.offsets.subarray(hand * 3, hand * 3 + 3);
    return {
      ...INA,
      skeleton: {
        ...skeleton,
        names,
        parents: Int16Array.from([...skeleton.parents, forearm, forearm]),
        offsets: Float64Array.from([...skeleton.offsets, ...offset.map((v) => v / 3), ...offset.map((v) => (2 * v) / 3)]),
        restRotations: Float64Array.from([...skeleton.restRotations, 0, 0, 0, 1, 0, 0, 0, 1]),
      },
    };
  };

  it("take their share of the hand's twist, and none of its bend", () => {
    const { skeleton, roles } = INA;
    const body = rolled();
    // They make no hand of a forearm.
    expect(characterIn(still(body)).character.body.roles).toMatchObject({
      leftForearm: roles.leftForearm,
      leftHand: roles.leftHand,
      leftUpperArm: roles.leftUpperArm,
    });
    for (const [turn, degrees] of [
      [about("x", 1.2), 1.2],
      [about("z", 0.7), 0],
      [times(about("x", -0.9), about("y", 0.4)), -0.9],
    ] as const) {
      const draft = ClipDraft.make("twist", 30, 2, skeleton.names.length, Int16Array.of(0));
      for (const f of [0, 1]) {
        skeleton.names.forEach((_, j) => {
          draft.setRotation(j, f, j === roles.leftHand && f === 1 ? turn : [0, 0, 0, 1]);
        });
        draft.setPosition(0, f, [0, 0.95, 0]);
      }
      const source = new Evaluator(oneSource(skeleton, draft.done())).evaluate(emptyWork()).result;
      const { clip } = bakedOnto(source, characterIn(still(body))).motion;
      const q = new Float64Array(4);
      for (const [name, share] of [
        ["LeftForearmRoll1", 1 / 3],
        ["LeftForearmRoll2", 2 / 3],
      ] as const) {
        readRotation(clip, body.skeleton.names.indexOf(name), 1, q, 0);
        // About the forearm alone, which lies along x.
        expect(2 * Math.atan2(q[0], q[3])).toBeCloseTo(share * degrees, 3);
        expect(Math.hypot(q[1], q[2])).toBeLessThan(1e-4);
      }
    }
  });
});

describe("the cast as a step of the stack", () => {
  const sources = (id: string, body: Character) => {
    const { truth } = demo(id);
    const ref = { name: "body.glb", sha256: "b".repeat(64) };
    return { ref, sources: new SuppliedSources({ skeleton: truth.character.skeleton, clip: truth.clip }, [{ ref, ...still(body), work: null }]) };
  };

  it("is the bake; what stands above it works on the new body, by role, and its feet stay", () => {
    const body = bodyOf(1.38, 1.25, 6, 3);
    const { ref, sources: both } = sources(WALK, body);
    const cast = makePatch("cast", "Cast", "c", { onto: ref });
    const turn = makePatch("layer", "Chest", "h", {
      channels: [{ target: { drives: "turn", part: { role: "chest" }, axis: "y" }, keys: [{ at: 1, value: 20, tangent: "flat" }] }],
    });
    const evaluator = new Evaluator(both);
    const below = evaluator.evaluate({ ...emptyWork(), patches: [cast] });
    expect(below.result.character.skeleton.names).toEqual(body.skeleton.names);
    const baked = bakedOnto(below.base, characterIn(still(body))).motion;
    const difference = (a: Motion, b: Motion) => {
      const [p, q] = [a, b].map((m) => clipWorld(m.character.skeleton, m.clip).positions);
      return p.reduce((most, v, i) => Math.max(most, Math.abs(v - q[i])), 0);
    };
    expect(difference(below.result, baked)).toBeLessThan(1e-6);
    const above = evaluator.evaluate({ ...emptyWork(), patches: [cast, turn] });
    expect(above.notes.filter((n) => n.patchId === "h")).toEqual([]);
    expect(difference(above.result, below.result)).toBeGreaterThan(0.01);
    expect(worstSlide(WALK, above.result)).toBeLessThan(worstSlide(WALK, below.result) + 0.05);
  });

  it("onto the same body changes no bit; without a character, or with one that is not here, it says so and changes nothing", () => {
    const { ref, sources: both } = sources(WALK, INA);
    const cast = makePatch("cast", "Cast", "c", { onto: ref });
    const same = new Evaluator(both).evaluate({ ...emptyWork(), patches: [cast] });
    expect(same.result.clip).toBe(same.base.clip);
    const none = new Evaluator(both).evaluate({ ...emptyWork(), patches: [makePatch("cast", "Cast", "c")] });
    expect(none.notes[0].message).toMatch(/no character/);
    const gone = new Evaluator(both).evaluate({ ...emptyWork(), patches: [makePatch("cast", "Cast", "c", { onto: refOf(JOG) })] });
    expect(gone.result.clip).toBe(gone.base.clip);
    expect(gone.notes[0]).toMatchObject({ patchId: "c", stops: true });
  });
});
