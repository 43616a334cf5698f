import { readFileSync } from "node:fs";
import { join } from "node:path";
import {
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
  readMotion,
  sourceOf,
  type WorldClip,
} from "@stride/motion";
import { BufferAttribute, Quaternion, Triangle, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { palmsOver } from "../../motion/src/cast/palmsOver.ts";
import { handMiddle } from "../../motion/src/character/contactPoints.ts";
import { skinnedVertices } from "../../motion/src/character/skin.ts";
import { readRotation } from "../../motion/src/clip/clip.ts";
import { PoseFrame } from "../../motion/src/kinematics/poseFrame.ts";
import { otherBuild } from "../../motion/src/testing/otherBuild.ts";

/** What was made once is taken again: captures cleaned, bodies read. */
function once<K, V>(make: (key: K) => V): (key: K) => V {
  const made = new Map<K, V>();
  return (key) => {
    if (!made.has(key)) made.set(key, make(key));
    return made.get(key) as V;
  };
}

/** Open captures, as shipped in Debian's package assimp-testmodels (see captures.test.ts): cleaned, and as they were shot. */
const evaluator = once((name: string) => {
  const file = readMotion(readFileSync(`/usr/share/assimp/models/BVH/${name}.bvh`), { fileName: `${name}.bvh` });
  return new Evaluator(oneSource(file.skeleton, file.clip));
});
const captured = once((name: string) => evaluator(name).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches }).result);
const shot = (name: string) => evaluator(name).evaluate(emptyWork()).result;
const bytesOf = (id: string) => readFileSync(join(import.meta.dirname, "../../demo/bodies", `${id}.glb`));
const bodyIn = (bytes: Uint8Array) => characterIn(sourceOf(readMotion(bytes, { fileName: "body.glb" }), "body.glb"));
const body = once((id: string) => bodyIn(bytesOf(id)));

/** How far each planted joint strays over the middle of its contact, cm, p95 over all contacts. */
function slideP95({ character, clip, points, contacts }: Motion): number {
  const { positions, jointCount } = clipWorld(character.skeleton, clip);
  const strays = contacts.flatMap(({ point, start, end }) => {
    const joint = points.find((p) => p.id === point && p.modelled && p.bears)?.named;
    const [a, b] = [Math.ceil(start + 0.3 * (end - start)), Math.floor(start + 0.7 * (end - start))];
    if (joint === undefined || b - a < 2) return [];
    const at = (f: number, i: number) => positions[(f * jointCount + joint) * 3 + i];
    const middle = (a + b) >> 1;
    let most = 0;
    for (let f = a; f <= b; f++) most = Math.max(most, 100 * Math.hypot(at(f, 0) - at(middle, 0), at(f, 2) - at(middle, 2)));
    return [most];
  });
  strays.sort((a, b) => a - b);
  return strays[Math.floor(0.95 * (strays.length - 1))] ?? 0;
}

/** How deep the skin of the feet goes into the ground at most, every vertex that feet or what hangs on them move most, every frame, cm. */
function feetUnder({ character, clip, ground }: Motion): number {
  const { skin } = character.details;
  if (!skin) throw new Error("no skin");
  const { skeleton, body } = character;
  const feet = (["leftFoot", "rightFoot", ...(body.plan === "biped" ? [] : (["leftHand", "rightHand"] as const))] as const).map(
    (role) => body.roles[role] as number,
  );
  const under = (joint: number): boolean => joint >= 0 && (feet.includes(joint) || under(skeleton.parents[joint]));
  const soles = skin.parts.map((part) => {
    const { binds, weights, positions } = part;
    const own = Array.from({ length: weights.length / 4 }, (_, v) => v).filter((v) => {
      const most = [0, 1, 2, 3].reduce((best, k) => (weights[v * 4 + k] > weights[v * 4 + best] ? k : best), 0);
      return under(skin.joints[binds[v * 4 + most]]);
    });
    const of = (list: ArrayLike<number>, size: number) => own.flatMap((v) => Array.from({ length: size }, (_, c) => list[v * size + c]));
    return { ...part, positions: Float32Array.from(of(positions, 3)), binds: Uint16Array.from(of(binds, 4)), weights: Float32Array.from(of(weights, 4)) };
  });
  expect(soles.reduce((sum, part) => sum + part.positions.length / 3, 0)).toBeGreaterThan(500);
  const { positions, rotations, jointCount: n } = clipWorld(skeleton, clip);
  let deepest = 0;
  for (let f = 0; f < clip.frameCount; f++)
    for (const part of soles) {
      const at = skinnedVertices(skin, part, positions.subarray(f * n * 3, (f + 1) * n * 3), rotations.subarray(f * n * 4, (f + 1) * n * 4));
      for (let o = 0; o < at.length; o += 3) deepest = Math.max(deepest, 100 * (groundHeight(ground, at[o], at[o + 2]) - at[o + 1]));
    }
  return deepest;
}

/** Middles of both hands at each frame, [frame][left, right][3], metres. */
function palms({ character, clip }: Motion): number[][][] {
  const { skeleton, body } = character;
  const hands = (["left", "right"] as const).map((side) => ({ joint: body.roles[`${side}Hand`] as number, local: handMiddle(skeleton, body, side) }));
  const pose = new PoseFrame(skeleton, clip);
  return Array.from({ length: clip.frameCount }, (_, f) => {
    pose.load(clip, f);
    return hands.map(({ joint, local }) => Array.from(pose.point(new Float64Array(3), joint, local)));
  });
}

const armOf = ({ character }: Motion) => character.rig.limbs.find((l) => l.kind === "arm")?.length ?? 0;
const distance = (a: readonly number[], b: readonly number[]) => Math.hypot(...a.map((v, c) => v - b[c]));

/** By how much more, or less, a joint turns than in the frame before, degrees: the most of all joints at each frame. */
function jumps({ clip }: Motion): Float64Array {
  const out = new Float64Array(clip.frameCount);
  const at = [0, 1, 2].map(() => new Quaternion());
  const q = new Float64Array(4);
  for (let joint = 0; joint < clip.jointCount; joint++)
    for (let f = 1; f + 1 < clip.frameCount; f++) {
      at.forEach((turn, k) => {
        readRotation(clip, joint, f - 1 + k, q, 0);
        turn.set(q[0], q[1], q[2], q[3]);
      });
      const [before, behind] = [0, 1].map((k) =>
        at[k]
          .clone()
          .invert()
          .multiply(at[k + 1]),
      );
      out[f] = Math.max(out[f], (before.angleTo(behind) * 180) / Math.PI);
    }
  return out;
}

/** The most of what jumps around a frame. */
const most = (list: Float64Array, f: number) => Math.max(list[f - 1] ?? 0, list[f], list[f + 1] ?? 0);

/** Frames on which something turns by 16° more, or less, than in the frame before where no joint of the source jumps by 6°. */
function fresh(source: Motion, motion: Motion): number[] {
  const [was, is] = [jumps(source), jumps(motion)];
  return [...is.keys()].filter((f) => is[f] > 16 && most(was, f) < 6);
}

/** How far a palm is from the triangles of trunk, head and legs at a frame, metres, as three.js has it (Triangle.closestPointToPoint). */
function toMesh({ character, clip }: Motion, palm: readonly number[], world: WorldClip, frame: number): number {
  const { skin } = character.details;
  if (!skin) throw new Error("no skin");
  const n = clip.jointCount;
  const [p, q] = [world.positions.subarray(frame * n * 3, (frame + 1) * n * 3), world.rotations.subarray(frame * n * 4, (frame + 1) * n * 4)];
  const [from, on, triangle] = [new Vector3(...palm), new Vector3(), new Triangle()];
  let least = Number.POSITIVE_INFINITY;
  for (const part of skin.parts) {
    const at = skinnedVertices(skin, part, p, q);
    const ofBody = Array.from({ length: at.length / 3 }, (_, v) => {
      const most = [0, 1, 2, 3].reduce((best, k) => (part.weights[v * 4 + k] > part.weights[v * 4 + best] ? k : best), 0);
      return !/(Arm|Forearm|Hand|Collar|Thumb|Index|Middle|Ring|Little)/.test(character.skeleton.names[skin.joints[part.binds[v * 4 + most]]]);
    });
    for (let t = 0; t < part.indices.length; t += 3) {
      const corners = [part.indices[t], part.indices[t + 1], part.indices[t + 2]];
      if (!corners.every((v) => ofBody[v])) continue;
      triangle.setFromAttributeAndIndices(new BufferAttribute(at, 3), corners[0], corners[1], corners[2]);
      least = Math.min(least, triangle.closestPointToPoint(from, on).distanceTo(from));
    }
  }
  return least;
}

it.each(["ina", "osk"])("a boxer who sits down, his hands behind him, keeps all of %s's skin over the floor", (id) => {
  const { motion } = bakedOnto(captured("Boxing_Toes"), body(id));
  const { skin } = motion.character.details;
  if (!skin) throw new Error("no skin");
  const { positions, rotations, jointCount: n } = clipWorld(motion.character.skeleton, motion.clip);
  let deepest = 0;
  // From where he goes down to where he has risen.
  for (let f = 2380; f < 2900; f += 4)
    for (const part of skin.parts) {
      const at = skinnedVertices(skin, part, positions.subarray(f * n * 3, (f + 1) * n * 3), rotations.subarray(f * n * 4, (f + 1) * n * 4));
      for (let o = 0; o < at.length; o += 3) deepest = Math.max(deepest, 100 * (groundHeight(motion.ground, at[o], at[o + 2]) - at[o + 1]));
    }
  expect(deepest).toBeLessThan(1);
});

describe("hands of open captures", () => {
  it.each(["ina", "osk"])("on %s are as far from each other where they are close, in proportion to the arms", (id) => {
    const source = captured("Boxing_Toes");
    const { motion } = bakedOnto(source, body(id));
    const scale = armOf(motion) / armOf(source);
    const [before, after] = [palms(source), palms(motion)].map((list) => list.map(([left, right]) => 100 * distance(left, right)));
    const close = before.flatMap((cm, f) => (cm < 15 ? [Math.abs(after[f] - scale * cm)] : []));
    expect(close.length).toBeGreaterThan(90);
    expect(Math.max(...close)).toBeLessThan(scale);
  });

  it.each([
    ...["01_01", "01_03", "Boxing_Toes"].flatMap((name) => ["ina", "osk"].map((id) => [name, id, 1, 1] as const)),
    ["Boxing_Toes", "ina", 0.6, 1.15],
    ["Boxing_Toes", "osk", 1.6, 0.85],
  ] as const)(
    "of %s that touch the body by its proportions touch the mesh of %s, %d times as tall, its arms %d times as long",
    async (name, id, tall, arms) => {
      const source = captured(name);
      const { motion } = bakedOnto(source, tall === 1 ? body(id) : bodyIn(await otherBuild(bytesOf(id), tall, /(Forearm|Hand)$/, arms)));
      const scale = armOf(motion) / armOf(source);
      const over = palmsOver(motion.character, source.character);
      const [from, to] = [new PoseFrame(source.character.skeleton, source.clip), new PoseFrame(motion.character.skeleton, motion.clip)];
      const world = clipWorld(motion.character.skeleton, motion.clip);
      const at = palms(motion);
      const touches: number[] = [];
      for (let f = 0; f < source.clip.frameCount; f += 2) {
        from.load(source.clip, f);
        to.load(motion.clip, f);
        for (const { side, was, is } of over(from, to)) {
          // None goes into a body that it was outside of.
          if (was > 0.01) expect(is).toBeGreaterThan(0);
          if (was < 0.03) touches.push(Math.abs(100 * (toMesh(motion, at[f][side === "left" ? 0 : 1], world, f) - scale * was)));
        }
      }
      // The one that climbs never touches itself.
      expect(touches.length).toBeGreaterThan(name === "01_03" ? -1 : 25);
      expect(Math.max(0, ...touches)).toBeLessThan(1.05 * scale);
    },
  );

  it.each([
    ["ina", "osk"],
    ["osk", "ina"],
  ])("that %s's skin was touched by touch %s's", (first, id) => {
    const source = bakedOnto(captured("Boxing_Toes"), body(first)).motion;
    const { motion } = bakedOnto(source, body(id));
    const scale = armOf(motion) / armOf(source);
    const over = palmsOver(motion.character, source.character);
    const poses = [source, motion].map((m) => new PoseFrame(m.character.skeleton, m.clip));
    const worlds = [source, motion].map((m) => clipWorld(m.character.skeleton, m.clip));
    const at = [source, motion].map(palms);
    const off: number[] = [];
    for (let f = 0; f < source.clip.frameCount; f += 3) {
      poses[0].load(source.clip, f);
      poses[1].load(motion.clip, f);
      for (const { side, was } of over(poses[0], poses[1])) {
        if (was > 0.035) continue;
        const [there, here] = [source, motion].map((m, i) => 100 * toMesh(m, at[i][f][side === "left" ? 0 : 1], worlds[i], f));
        if (there < 3) off.push(Math.abs(here - scale * there));
      }
    }
    expect(off.length).toBeGreaterThan(5);
    expect(Math.max(...off)).toBeLessThan(scale);
  });
});

describe.each(["01_01", "01_03", "Boxing_Toes"])("the capture %s", (name) => {
  const source = captured(name);

  it.each(["ina", "osk", "pim"])("cast onto %s keeps its feet still and over the floor", (id) => {
    const { motion } = bakedOnto(source, body(id));
    const scale = legLengthOf(motion.character) / legLengthOf(source.character);
    expect(motion.contacts.length).toBeGreaterThan(4);
    expect(slideP95(motion)).toBeLessThan(0.2 * Math.max(1, scale));
    const { positions, jointCount } = clipWorld(motion.character.skeleton, motion.clip);
    const under = motion.points
      .filter((p) => p.bears && p.modelled)
      .flatMap(({ named }) =>
        Array.from({ length: motion.clip.frameCount }, (_, f) => {
          const o = (f * jointCount + named) * 3;
          return 100 * (groundHeight(motion.ground, positions[o], positions[o + 2]) - positions[o + 1]);
        }),
      )
      .sort((a, b) => a - b);
    expect(under[under.length - 1]).toBeLessThan(0.2);
    expect(feetUnder(motion)).toBeLessThan(0.2 * Math.max(1, scale));
    expect(fresh(source, motion)).toEqual([]);
    // Nor does the checkup find any pop where the capture does not jump half as far.
    const was = jumps(source);
    expect(measure(motion).pops.filter(({ start, value }) => value > 2 * most(was, start))).toEqual([]);
  });

  it.each([
    ["ina", 0.6, 1.15],
    ["ina", 1.3, 0.85],
    ["osk", 1.6, 0.85],
  ] as const)("cast onto %s %f times as tall, arms and shins %f times as long, jumps nowhere of its own", async (id, tall, by) => {
    const other = bodyIn(await otherBuild(bytesOf(id), tall, /Forearm|Hand$|Shin/, by));
    expect(fresh(source, bakedOnto(source, other).motion)).toEqual([]);
  });

  it.each(["ina", "osk", "pim"])("cast onto %s as it was shot jumps nowhere of its own", (id) => {
    const raw = shot(name);
    expect(fresh(raw, bakedOnto(raw, body(id)).motion)).toEqual([]);
  });
});
