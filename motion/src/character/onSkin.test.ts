import { describe, expect, it } from "vitest";
import { restWorld } from "../skeleton/skeleton.ts";
import { stick } from "../testing/patched.ts";
import { characterOf } from "./character.ts";
import { restSurface, solesOnSkin } from "./onSkin.ts";
import type { Skin, SkinMaterial } from "./skin.ts";

const { skeleton, clip } = stick;
const bare = characterOf(skeleton, clip);
const world = restWorld(skeleton);
const place = (name: string) => [0, 1, 2].map((c) => world.positions[stick.joint(name) * 3 + c]);
const material: SkinMaterial = { name: "", colour: [1, 1, 1, 1], doubleSided: false, roughness: 1, picture: null };
const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** A skin of loose vertices in the world, each wholly on one joint. */
function skinOf(vertices: readonly { readonly joint: string; readonly at: readonly number[] }[]): Skin {
  const names = [...new Set(vertices.map((v) => v.joint))];
  const joints = names.map((name) => stick.joint(name));
  // The stick's joints rest with the world's axes: what brings a vertex to its joint is a shift.
  const binds = joints.flatMap((j) => [...IDENTITY.slice(0, 12), ...[0, 1, 2].map((c) => -world.positions[j * 3 + c]), 1]);
  return {
    joints: Int32Array.from(joints),
    binds: Float64Array.from(binds),
    parts: [
      {
        positions: Float32Array.from(vertices.flatMap(({ at }) => at)),
        normals: new Float32Array(vertices.length * 3),
        indices: new Uint32Array(0),
        binds: Uint16Array.from(vertices.flatMap(({ joint }) => [names.indexOf(joint), 0, 0, 0])),
        weights: Float32Array.from(vertices.flatMap(() => [1, 0, 0, 0])),
        colours: null,
        uvs: null,
        material,
      },
    ],
  };
}

/** A tube of half axes rx and rz about the bone from one joint straight down to another, its middle moved aside. */
function tube(from: string, to: string, rx: number, rz: number, aside: readonly [number, number] = [0, 0]) {
  const [a, b] = [place(from), place(to)];
  return Array.from({ length: 400 }, (_, i) => {
    const t = (i % 20) / 19;
    const angle = (2 * Math.PI * Math.floor(i / 20)) / 20;
    return { joint: from, at: [a[0] + aside[0] + rx * Math.cos(angle), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2]) + aside[1] + rz * Math.sin(angle)] };
  });
}

describe("a body with a surface", () => {
  it("has volumes as thick as the mesh around them, in its middle; those without a mesh stay", () => {
    const made = characterOf(skeleton, clip, {}, { skin: skinOf(tube("LeftLeg", "LeftFoot", 0.09, 0.05, [0.01, 0.02])) });
    const volume = made.volumes.find((v) => v.joint === stick.joint("LeftLeg"));
    const before = bare.volumes.find((v) => v.joint === stick.joint("LeftLeg"));
    if (!volume || !before) throw new Error("no volume");
    const [wide, deep] = [Math.max(volume.size[0], volume.size[2]), Math.min(volume.size[0], volume.size[2])];
    expect(wide).toBeGreaterThan(0.083);
    expect(wide).toBeLessThan(0.091);
    expect(deep).toBeGreaterThan(0.045);
    expect(deep).toBeLessThan(0.052);
    expect(volume.size[1]).toBe(before.size[1]);
    expect(volume.origin[0]).toBeCloseTo(0.01, 2);
    expect(volume.origin[2]).toBeCloseTo(0.02, 2);
    const other = (c: typeof made) => c.volumes.find((v) => v.joint === stick.joint("RightLeg"));
    expect(other(made)).toEqual(other(bare));
  });

  it("has its knees at the front of the mesh; points without a mesh around them stay", () => {
    const made = characterOf(skeleton, clip, {}, { skin: skinOf([...tube("LeftUpLeg", "LeftLeg", 0.08, 0.08), ...tube("LeftLeg", "LeftFoot", 0.06, 0.06)]) });
    const point = (id: string, of = made) => of.contactPoints.find((p) => p.id === id);
    const forward = bare.rig.forward;
    const knee = point("leftKnee");
    const ahead = [0, 1, 2].reduce((s, c) => s + (knee?.local[c] ?? 0) * forward[c], 0);
    expect(ahead).toBeGreaterThan(0.055);
    expect(ahead).toBeLessThan(0.082);
    expect(knee?.placed).toBe(true);
    expect(point("rightKnee")).toEqual(point("rightKnee", bare));
  });

  it("has soles under its feet: a heel at the rear of the mesh, the ball under the toe joint, both at its lowest", () => {
    const [foot, toe] = [place("LeftFoot"), place("LeftToeBase")];
    const sole = foot[1] - 0.07;
    const slab = Array.from({ length: 200 }, (_, i) => ({
      joint: i % 20 < 14 ? "LeftFoot" : "LeftToeBase",
      at: [foot[0] + 0.04 * ((i % 10) / 9 - 0.5), sole + 0.02 * ((i % 7) / 6), foot[2] - 0.08 + (0.08 + toe[2] - foot[2] + 0.05) * ((i % 20) / 19)],
    }));
    const made = characterOf(skeleton, clip, {}, { skin: skinOf(slab) });
    const soles = solesOnSkin(made.contactPoints, restSurface(skeleton, skinOf(slab)), made.rig, made.height);
    expect(Object.keys(soles).sort()).toEqual(["leftHeel", "leftToe"]);
    expect(soles.leftHeel[1]).toBeCloseTo(-0.07, 2);
    expect(soles.leftHeel[2]).toBeCloseTo(-0.08, 1);
    expect(soles.leftToe[1]).toBeCloseTo(-0.07, 2);
    expect(soles.leftToe[2]).toBeCloseTo(toe[2] - foot[2], 6);
  });
});
