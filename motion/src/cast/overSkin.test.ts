import fc from "fast-check";
import { BufferAttribute, Triangle, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { bodySkin } from "../character/bodySkin.ts";
import type { Skin, SkinPart } from "../character/skin.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { onGround, posedClip, restPlace, skinAt, skinOf, type Vertex } from "../testing/skinned.ts";
import { OverSkin } from "./overSkin.ts";

/** Vertices and triangles, whose corners are counted from the first of its own vertices. */
interface Mesh {
  readonly vertices: readonly Vertex[];
  readonly triangles: readonly (readonly number[])[];
}

/** A ball about a place, on a joint; `ways` −1 turns it inside out. */
function ball(joint: string, middle: readonly number[], radius: number, ways: 1 | -1 = 1): Mesh {
  const [rows, columns] = [24, 32];
  const vertices = Array.from({ length: (rows + 1) * columns }, (_, i): Vertex => {
    const [a, b] = [(Math.PI * Math.floor(i / columns)) / rows, (2 * Math.PI * (i % columns)) / columns];
    return { joint, at: [middle[0] + radius * Math.sin(a) * Math.cos(b), middle[1] + radius * Math.cos(a), middle[2] + radius * Math.sin(a) * Math.sin(b)] };
  });
  const triangles = Array.from({ length: rows * columns }, (_, i) => {
    const [r, c] = [Math.floor(i / columns), i % columns];
    const [p, q] = [r * columns + c, r * columns + ((c + 1) % columns)];
    const [u, v] = [p + columns, q + columns];
    return ways > 0
      ? [
          [p, q, v],
          [p, v, u],
        ]
      : [
          [p, v, q],
          [p, u, v],
        ];
  }).flat();
  return { vertices, triangles };
}

/** A tube of six flat sides, as long as they come: its triangles are 40 cm long. */
function coarse(joint: string, [x, top, z]: readonly number[], length: number, radius: number): Mesh {
  const ring = (y: number): Vertex[] =>
    Array.from({ length: 6 }, (_, i) => ({ joint, at: [x + radius * Math.cos((i * Math.PI) / 3), y, z + radius * Math.sin((i * Math.PI) / 3)] }));
  const triangles = Array.from({ length: 6 }, (_, i) => {
    const j = (i + 1) % 6;
    return [
      [i, j, 6 + j],
      [i, 6 + j, 6 + i],
    ];
  }).flat();
  return { vertices: [...ring(top), ...ring(top - length)], triangles };
}

function meshed(...meshes: readonly Mesh[]): Skin {
  const skin = skinOf(meshes.flatMap((mesh) => mesh.vertices));
  let before = 0;
  const indices = meshes.flatMap(({ vertices, triangles }) => {
    const own = triangles.flat().map((v) => v + before);
    before += vertices.length;
    return own;
  });
  return { ...skin, parts: [{ ...skin.parts[0], indices: Uint32Array.from(indices) }] };
}

/** The same, its first vertices half on another joint of the skin. */
function seamed(skin: Skin, vertices: number, other: number): Skin {
  const [part] = skin.parts;
  const [binds, weights] = [part.binds.slice(), part.weights.slice()];
  for (let v = 0; v < vertices; v++) {
    binds[v * 4 + 1] = other;
    weights[v * 4] = weights[v * 4 + 1] = 0.5;
  }
  const changed: SkinPart = { ...part, binds, weights };
  return { ...skin, parts: [changed] };
}

/** What is asked of the skin in poses, and how far its triangles are from a place as three.js has it (Triangle.closestPointToPoint). */
function asked(skin: Skin, poses: readonly Readonly<Record<string, readonly number[]>>[] = [{}]) {
  const motion = onGround(posedClip(poses.map((turns) => ({ turns }))), skin, 0);
  const read = bodySkin(motion.character);
  if (!read) throw new Error("no skin");
  const pose = new PoseFrame(motion.character.skeleton, motion.clip);
  const over = new OverSkin(read);
  const places = poses.map((_, frame) => new BufferAttribute(skinAt(motion, frame), 3));
  const { indices } = skin.parts[0];
  const [triangle, on] = [new Triangle(), new Vector3()];
  return {
    over: (place: readonly number[], within = 1, frame = 0) => {
      pose.load(motion.clip, frame);
      const found = { distance: 0, way: new Float64Array(3) };
      return over.pose(pose).over(found, place, within) ? found : null;
    },
    truth: (place: readonly number[], frame = 0) => {
      const from = new Vector3(...place);
      let least = Number.POSITIVE_INFINITY;
      for (let t = 0; t < indices.length; t += 3) {
        triangle.setFromAttributeAndIndices(places[frame], indices[t], indices[t + 1], indices[t + 2]);
        least = Math.min(least, triangle.closestPointToPoint(from, on).distanceTo(from));
      }
      return least;
    },
  };
}

const head = restPlace("Head");
const thigh = restPlace("LeftUpLeg");

describe("how far a place is from the skin of a pose", () => {
  it("is how far it is from a ball's surface, below zero inside, and the way leads straight out", () => {
    const { over } = asked(meshed(ball("Head", head, 0.12)));
    fc.assert(
      fc.property(
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 6.28, noNaN: true }),
        fc.double({ min: 0.06, max: 0.3, noNaN: true }),
        (up, angle, far) => {
          const wide = Math.sqrt(1 - up * up);
          const way = [wide * Math.cos(angle), up, wide * Math.sin(angle)];
          const found = over(way.map((v, c) => head[c] + far * v));
          expect(Math.abs((found?.distance ?? 9) - (far - 0.12))).toBeLessThan(0.004);
          const size = Math.hypot(...(found?.way ?? [0]));
          expect(way.reduce((sum, v, c) => sum + (v * (found?.way[c] ?? 0)) / size, 0)).toBeGreaterThan(0.95);
        },
      ),
    );
  });

  it("holds on long triangles whose ends different joints carry, however the hip is bent", () => {
    const tube = coarse("LeftUpLeg", [thigh[0], thigh[1], thigh[2]], 0.4, 0.08);
    const skin = seamed(meshed(tube, ball("Hips", restPlace("Hips"), 0.05)), 6, 1);
    const bends = [-1.5, -1, -0.5, 0, 0.4];
    const { over, truth } = asked(
      skin,
      bends.map((bend) => ({ LeftUpLeg: [bend, 0, 0] })),
    );
    const aside = fc.array(fc.double({ min: -0.18, max: 0.18, noNaN: true }), { minLength: 3, maxLength: 3 });
    const errors = bends.flatMap((bend, frame) =>
      fc.sample(aside, { numRuns: 60, seed: 7 }).map((d) => {
        const middle = [thigh[0], thigh[1] - 0.2 * Math.cos(bend), thigh[2] - 0.2 * Math.sin(bend)];
        const place = middle.map((v, c) => v + d[c]);
        return Math.abs(Math.abs(over(place, 1, frame)?.distance ?? 9) - truth(place, frame));
      }),
    );
    expect(errors.reduce((sum, error) => sum + error, 0) / errors.length).toBeLessThan(0.005);
    // Beyond the tube's open ends it is neither in nor out.
    expect(errors.sort((a, b) => a - b)[Math.floor(0.95 * errors.length)]).toBeLessThan(0.015);
  });

  it("is that of the nearest of several, and nothing where none is within what is asked for", () => {
    const { over, truth } = asked(meshed(ball("Head", head, 0.1), ball("Hips", restPlace("Hips"), 0.1)));
    const place = [head[0] + 0.15, head[1], head[2]];
    expect(over(place)?.distance).toBeCloseTo(0.05, 2);
    expect(truth(place)).toBeCloseTo(0.05, 3);
    expect(over(place, 0.04)).toBeNull();
    expect(over(place, 0.06)).not.toBeNull();
  });

  it("does not see arms, nor the inside of a shell", () => {
    const hand = ball("LeftHand", [head[0] + 0.3, head[1], head[2]], 0.05);
    const { over } = asked(meshed(ball("Head", head, 0.12), ball("Head", head, 0.11, -1), hand));
    expect(over([head[0] + 0.22, head[1], head[2]])?.distance).toBeCloseTo(0.1, 2);
    // 15 mm under the outer surface, and 5 mm under the inner, which faces it.
    expect(over([head[0] + 0.105, head[1], head[2]])?.distance).toBeCloseTo(-0.015, 2);
  });

  it("is the same from a place beside the last as from anew", () => {
    const motion = onGround(posedClip([{}]), meshed(ball("Head", head, 0.12)), 0);
    const read = bodySkin(motion.character);
    if (!read) throw new Error("no skin");
    expect(bodySkin(motion.character)).toBe(read);
    const pose = new PoseFrame(motion.character.skeleton, motion.clip);
    pose.load(motion.clip, 0);
    const [one, other] = [new OverSkin(read).pose(pose), new OverSkin(read).pose(pose)];
    const [a, b] = [one, other].map(() => ({ distance: 0, way: new Float64Array(3) }));
    fc.assert(
      fc.property(fc.array(fc.double({ min: -0.2, max: 0.2, noNaN: true }), { minLength: 6, maxLength: 6 }), (v) => {
        one.over(a, [head[0] + v[0], head[1] + v[1], head[2] + v[2]], 1);
        const beside = [0, 1, 2].map((c) => head[c] + v[c] + v[3 + c] * (v[0] > 0 ? 0.1 : 1));
        expect(one.onFrom(a, beside, 1)).toBe(other.over(b, beside, 1));
        expect(a.distance).toBeCloseTo(b.distance, 9);
      }),
    );
  });
});

it("a body without a skin has none to touch", () => {
  expect(bodySkin(onGround(posedClip([{}]), null, 0).character)).toBeNull();
});
