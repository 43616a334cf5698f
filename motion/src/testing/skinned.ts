import type { Skin, SkinMaterial } from "../character/skin.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import { stick } from "./patched.ts";

const material: SkinMaterial = { name: "", colour: [1, 1, 1, 1], doubleSided: false, roughness: 1, picture: null };
const IDENTITY = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const world = restWorld(stick.skeleton);

/** A vertex in the world while the stick figure rests, wholly on one joint. */
export interface Vertex {
  readonly joint: string;
  readonly at: readonly number[];
}

/** Where a joint of the stick figure rests. */
export const restPlace = (name: string) => [0, 1, 2].map((c) => world.positions[stick.joint(name) * 3 + c]);

/** A skin of loose vertices for the stick figure. */
export function skinOf(vertices: readonly Vertex[]): Skin {
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
        face: null,
      },
    ],
  };
}

/** A tube of half axes rx and rz about the bone from one joint straight down to another, its middle moved aside. */
export function tube(from: string, to: string, rx: number, rz: number, aside: readonly [number, number] = [0, 0]): Vertex[] {
  const [a, b] = [restPlace(from), restPlace(to)];
  return Array.from({ length: 400 }, (_, i) => {
    const t = (i % 20) / 19;
    const angle = (2 * Math.PI * Math.floor(i / 20)) / 20;
    return { joint: from, at: [a[0] + aside[0] + rx * Math.cos(angle), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2]) + aside[1] + rz * Math.sin(angle)] };
  });
}
