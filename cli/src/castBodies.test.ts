import { readFileSync } from "node:fs";
import {
  acceptanceOf,
  bakedOnto,
  characterIn,
  clipWorld,
  DEFAULT_RECIPE,
  Evaluator,
  emptyWork,
  groundHeight,
  legLengthOf,
  type Motion,
  measure,
  oneSource,
  quatAngleFlat,
  type Role,
  readMotion,
  readRotation,
  sourceOf,
  writeFresh,
} from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo } from "../../demo/src/testing/evaluated.ts";
import { skinnedVertices } from "../../motion/src/character/skin.ts";
import { PoseFrame } from "../../motion/src/kinematics/poseFrame.ts";
import { otherBuild } from "../../motion/src/testing/otherBuild.ts";

const file = (id: string) => readMotion(readFileSync(new URL(`../../demo/bodies/${id}.glb`, import.meta.url)), { fileName: `${id}.glb` });
const body = (id: string) => characterIn(sourceOf(file(id), `${id}.glb`));

/** A demo clip as anyone has it: written as a file, read, grounded. */
function grounded(id: string): Motion {
  const { truth, clip } = demo(id);
  const read = readMotion(new TextEncoder().encode([...writeFresh(truth.character.skeleton, clip, 0.01)].join("")), { fileName: `${id}.bvh` });
  return new Evaluator(oneSource(read.skeleton, read.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches }).result;
}

/** How far toes and hooves stray in the middle of the generator's own footfalls, cm, each; and how deep they go through the ground at most. */
function feet(id: string, { character, clip, points, ground }: Motion): { slides: number[]; deepest: number } {
  const { positions, jointCount } = clipWorld(character.skeleton, clip);
  const slides = demo(id).truth.contacts.flatMap(({ point, start, end }) => {
    const joint = points.find((p) => p.id === point && p.modelled)?.named;
    const [a, b] = [Math.ceil(start + 0.3 * (end - start)), Math.floor(start + 0.7 * (end - start))];
    if (joint === undefined || b - a < 2) return [];
    const at = (f: number, c: number) => positions[(f * jointCount + joint) * 3 + c];
    const middle = (a + b) >> 1;
    return [Math.max(...Array.from({ length: b - a + 1 }, (_, i) => 100 * Math.hypot(at(a + i, 0) - at(middle, 0), at(a + i, 2) - at(middle, 2))))];
  });
  let deepest = 0;
  for (const { named } of points.filter((p) => p.bears && p.modelled))
    for (let f = 0; f < clip.frameCount; f++) {
      const o = (f * jointCount + named) * 3;
      deepest = Math.max(deepest, 100 * (groundHeight(ground, positions[o], positions[o + 2]) - positions[o + 1]));
    }
  return { slides: slides.sort((a, b) => a - b), deepest };
}

describe("cast onto the same body in another file", () => {
  it.each([
    ["porter-night-shift-walk", "ina"],
    ["diver-dock-patrol", "osk"],
    ["goat-down-the-quay", "pim"],
  ])("%s onto %s.glb is where it was, to 1e-5 of the body's height", (clip, id) => {
    const source = grounded(clip);
    const { motion, without } = bakedOnto(source, body(id));
    expect(without).toEqual([]);
    const [here, there] = [clipWorld(source.character.skeleton, source.clip), clipWorld(motion.character.skeleton, motion.clip)];
    let worst = 0;
    source.character.skeleton.names.forEach((name, j) => {
      const k = motion.character.skeleton.names.indexOf(name);
      for (let f = 0; f < source.clip.frameCount; f++)
        for (let c = 0; c < 3; c++)
          worst = Math.max(worst, Math.abs(here.positions[(f * here.jointCount + j) * 3 + c] - there.positions[(f * there.jointCount + k) * 3 + c]));
    });
    expect(worst / source.character.height).toBeLessThan(1e-5);
    expect(motion.contacts.length).toBe(source.contacts.length);
    expect(acceptanceOf(source, motion).angles[0].worstDegrees).toBeLessThan(0.01);
  });
});

it("cast onto a body in a file and back onto its own is turned as it was, ends of hands that are joints or tips alike", () => {
  const source = grounded("diver-dock-patrol");
  const back = bakedOnto(bakedOnto(source, body("ina")).motion, body("osk")).motion;
  const [was, is] = [new Float64Array(4), new Float64Array(4)];
  const means = (Object.entries(source.character.body.roles) as [Role, number][]).map(([role, joint]) => {
    const own = back.character.body.roles[role];
    if (own === undefined) throw new Error(`no ${role}`);
    let sum = 0;
    for (let f = 0; f < source.clip.frameCount; f++) {
      readRotation(source.clip, joint, f, was, 0);
      readRotation(back.clip, own, f, is, 0);
      sum += (quatAngleFlat(was, 0, is, 0) * 180) / Math.PI;
    }
    return [role, sum / source.clip.frameCount] as const;
  });
  expect(means.length).toBeGreaterThan(20);
  expect(means.reduce((sum, [, mean]) => sum + mean, 0) / means.length).toBeLessThan(0.2);
  for (const [role, mean] of means) expect(mean, role).toBeLessThan(/Toe$/.test(role) ? 1.5 : 0.5);
});

it("a toe that rests by its tip alone does so on the new body's own tip; a goat's hoof and a foot without toes stand in for it", () => {
  const source = grounded("porter-night-shift-walk");
  const swing = source.contacts.find((c) => c.point === "leftToe" && c.start > 20);
  if (!swing) throw new Error("no step");
  const contacts = [{ ...swing, point: "leftToeTip", start: swing.end - 8, end: swing.end - 2 }];
  const onTip = { ...source, contacts };
  const { motion } = bakedOnto(onTip, body("osk"));
  expect(motion.contacts.map((c) => c.point)).toEqual(["leftToeTip"]);
  const tip = motion.points.find((p) => p.id === "leftToeTip");
  if (!tip) throw new Error("no tip");
  const pose = new PoseFrame(motion.character.skeleton, motion.clip);
  const places = [-8, -5, -2].map((by) => {
    pose.load(motion.clip, swing.end + by);
    return Array.from(pose.point(new Float64Array(3), tip.joint, tip.local), (v) => 100 * v);
  });
  for (const place of places) expect(Math.hypot(place[0] - places[0][0], place[2] - places[0][2])).toBeLessThan(0.01);
  // On the floor, and no higher over it than the boot's nose asks for as it goes steeper.
  expect(places.map((place) => Math.round(place[1]))).toEqual([0, 1, 2]);
  expect(bakedOnto({ ...onTip }, body("pim")).motion.contacts.map((c) => c.point)).toEqual(["leftHind"]);
  const toeless = body("osk");
  const plain = { ...toeless, points: toeless.points.filter((p) => p.id !== "leftToeTip") };
  expect(bakedOnto({ ...onTip }, plain).motion.contacts.map((c) => c.point)).toEqual(["leftToe"]);
});

it("a clip on its own skin is kept out of the floor by its plant, where that is asked for", () => {
  const { motion } = bakedOnto(grounded("porter-night-shift-walk"), body("ina"));
  const { skeleton, details } = motion.character;
  const planted = (clearSkin: boolean) => {
    const patches = DEFAULT_RECIPE.patches.map((one) => (one.kind === "plant" ? { ...one, settings: { ...one.settings, clearSkin } } : one));
    return new Evaluator(oneSource(skeleton, motion.clip, details)).evaluate({ ...emptyWork(), patches }).result;
  };
  expect(skinUnder(planted(false)).depth).toBeGreaterThan(0.6);
  const cleared = planted(true);
  expect(skinUnder(cleared).depth).toBeLessThan(0.2);
  const { slides } = feet("porter-night-shift-walk", cleared);
  expect(slides[Math.floor(0.95 * (slides.length - 1))]).toBeLessThan(0.2);
});

describe("a goat's walk on other goats", () => {
  const pim = new Uint8Array(readFileSync(new URL("../../demo/bodies/pim.glb", import.meta.url)));
  /** The demo's goat so many times as tall, its neck so many times as long again. */
  const goat = async (tall: number, neck: number) =>
    characterIn(sourceOf(readMotion(await otherBuild(pim, tall, /^(NeckUpper|Head)$/, neck), { fileName: "goat.glb" }), "goat.glb"));

  it.each([
    [0.6, 1],
    [0.85, 1.5],
    [1.6, 0.8],
  ])("%d times as tall, their necks %d times as long: hooves still and out of the floor, by the skin, and nothing pops", async (tall, neck) => {
    const source = grounded("goat-down-the-quay");
    const { motion, without } = bakedOnto(source, await goat(tall, neck));
    expect(without).toEqual([]);
    expect(legLengthOf(motion.character) / legLengthOf(source.character)).toBeCloseTo(tall, 2);
    const { slides } = feet("goat-down-the-quay", motion);
    expect(slides.length).toBeGreaterThan(12);
    expect(slides[Math.floor(0.95 * (slides.length - 1))]).toBeLessThan(0.2 * tall);
    expect(skinUnder(motion).depth).toBeLessThan(0.2 * Math.max(1, tall));
    expect(measure(motion).pops.length).toBeLessThanOrEqual(measure(source).pops.length);
    for (const { role, meanDegrees } of acceptanceOf(source, motion).angles) expect(meanDegrees, role).toBeLessThan(/Toe|HandEnd/.test(role) ? 6 : 3);
  });
});

describe("cast where the ground is not level", () => {
  it.each([
    ["porter-down-the-gangway", "osk"],
    ["porter-up-the-quay-steps", "osk"],
  ])("%s onto %s: the ground comes along, as much larger as the way over it; feet stay still and over it", (clip, id) => {
    const source = grounded(clip);
    const { motion } = bakedOnto(source, body(id));
    const scale = legLengthOf(motion.character) / legLengthOf(source.character);
    expect(motion.ground.slopeZ).toBeCloseTo(source.ground.slopeZ, 2);
    expect(motion.ground.shapes.length).toBe(source.ground.shapes.length);
    const { slides, deepest } = feet(clip, motion);
    expect(slides.length).toBeGreaterThan(3);
    expect(slides[Math.floor(0.95 * (slides.length - 1))]).toBeLessThan(0.2 * scale);
    expect(deepest).toBeLessThan(0.2 * scale);
    // From one footfall to the next each toe climbs, or goes down, as on the source, times the scale.
    const climbs = (m: Motion) => {
      const { positions, jointCount } = clipWorld(m.character.skeleton, m.clip);
      return (["leftToe", "rightToe"] as const).flatMap((id) => {
        const joint = m.points.find((p) => p.id === id)?.named ?? -1;
        const heights = demo(clip)
          .truth.contacts.filter((c) => c.point === id)
          .map(({ start, end }) => positions[(Math.round((start + end) / 2) * jointCount + joint) * 3 + 1]);
        return heights.slice(1).map((h, i) => 100 * (h - heights[i]));
      });
    };
    const [before, after] = [climbs(source), climbs(motion)];
    expect(Math.max(...before.map(Math.abs))).toBeGreaterThan(8);
    before.forEach((climb, i) => {
      expect(Math.abs(after[i] - scale * climb)).toBeLessThan(0.5);
    });
  });
});

/** How deep the skin goes through the ground at most in every second frame, every vertex of it, centimetres; and in which part. */
function skinUnder({ character, clip, ground }: Motion): { depth: number; part: string } {
  const { skin } = character.details;
  if (!skin) throw new Error("no skin");
  const { positions, rotations, jointCount: n } = clipWorld(character.skeleton, clip);
  let [most, part] = [0, ""];
  for (let f = 0; f < clip.frameCount; f += 2)
    for (const piece of skin.parts) {
      const at = skinnedVertices(skin, piece, positions.subarray(f * n * 3, (f + 1) * n * 3), rotations.subarray(f * n * 4, (f + 1) * n * 4));
      for (let v = 0; v * 3 < at.length; v++) {
        const depth = groundHeight(ground, at[v * 3], at[v * 3 + 2]) - at[v * 3 + 1];
        if (depth <= most) continue;
        const weights = Array.from(piece.weights.subarray(v * 4, v * 4 + 4));
        [most, part] = [depth, character.skeleton.names[skin.joints[piece.binds[v * 4 + weights.indexOf(Math.max(...weights))]]]];
      }
    }
  return { depth: 100 * most, part };
}

describe("the skin of a body that a walk is cast onto", () => {
  // Figures of all its vertices, skinned by the definition.
  it.each([
    ["porter-night-shift-walk", "osk"],
    ["diver-dock-patrol", "ina"],
  ])("%s onto %s stays out of the floor, and the acceptance tells how far it would not", (clip, id) => {
    const source = grounded(clip);
    const { motion } = bakedOnto(source, body(id));
    expect(skinUnder(motion).depth).toBeLessThan(0.2);
    const told = acceptanceOf(source, motion);
    expect(told.skinDepth?.depthCm ?? 0).toBeLessThan(0.2);
    // On a floor that is a centimetre higher.
    const sunk = { ...motion, ground: { ...motion.ground, height: motion.ground.height + 0.01 } };
    const { depth, part } = skinUnder(sunk);
    const under = acceptanceOf(source, sunk).skinDepth;
    expect(depth).toBeGreaterThan(0.9);
    expect(Math.abs((under?.depthCm ?? 0) - depth)).toBeLessThan(0.15);
    // Several parts are as deep: of a foot both are.
    expect(part).toMatch(/(Foot|Toe)$/);
    expect(under?.part).toMatchObject({ role: expect.stringMatching(/(Foot|Toe)$/) });
    for (const { slideCm, depthCm, contacts } of told.standing) {
      expect(contacts).toBeGreaterThan(1);
      expect(slideCm).toBeLessThan(0.25);
      expect(depthCm).toBeLessThan(0.2);
    }
  });
});
