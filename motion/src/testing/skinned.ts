import { type Skin, type SkinMaterial, skinnedVertices } from "../character/skin.ts";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { groundHeight, planeGround } from "../ground/ground.ts";
import { clipWorld } from "../kinematics/forward.ts";
import { expQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { PLANT_DEFAULTS } from "../plants/settings.ts";
import { solvePlants } from "../plants/solve.ts";
import { restWorld } from "../skeleton/skeleton.ts";
import { oneSource } from "../sources.ts";
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

/** The stick figure at rest, but for joints turned by rotation vectors [frame], and its hips raised by so many metres. */
export function posedClip(frames: readonly { readonly turns?: Readonly<Record<string, readonly number[]>>; readonly up?: number }[]): Clip {
  const { skeleton } = stick;
  const draft = ClipDraft.make("posed", 30, frames.length, skeleton.names.length, Int16Array.of(0));
  frames.forEach(({ turns = {}, up = 0 }, f) => {
    skeleton.names.forEach((_, j) => draft.setRotation(j, f, skeleton.restRotations, j * 4));
    for (const [name, turn] of Object.entries(turns)) draft.setRotation(stick.joint(name), f, expQuatFlat(new Float64Array(4), 0, [...turn], 0));
    draft.setPosition(0, f, [0, up, 0]);
  });
  return draft.done();
}

/** A motion on a skin whose plants keep it out of a level ground, and nothing else: its contact points are never in the ground. */
export function onGround(clip: Clip, skin: Skin | null, height: number): Motion {
  const motion = new Evaluator(oneSource(stick.skeleton, clip, { skin })).unsearched(emptyWork());
  const points = motion.points.map((point) => ({ ...point, clearance: -10 }));
  return { ...motion, points, contacts: [], ground: planeGround(height) };
}

/** The same, planted. */
export function cleared(motion: Motion, clearSkin = true, share = 1): Motion {
  const weights = new Float64Array(motion.clip.frameCount).fill(share);
  return { ...motion, clip: solvePlants({ ...motion, plants: [{ settings: { ...PLANT_DEFAULTS, hipsMayDropCm: 0, clearSkin }, weights, trembles: 0 }] }) };
}

/** Where the vertices of a motion's skin are at a frame, [vertex][3], metres. */
export function skinAt({ character, clip }: Motion, frame: number): Float64Array {
  const { skin } = character.details;
  if (!skin) throw new Error("no skin");
  const { positions, rotations, jointCount: n } = clipWorld(character.skeleton, clip);
  const [p, q] = [positions.subarray(frame * n * 3, (frame + 1) * n * 3), rotations.subarray(frame * n * 4, (frame + 1) * n * 4)];
  return Float64Array.from(skin.parts.flatMap((part) => Array.from(skinnedVertices(skin, part, p, q))));
}

/** How deep the deepest vertex is in the motion's ground at a frame, metres. */
export function depthAt(motion: Motion, frame: number): number {
  const places = skinAt(motion, frame);
  let deepest = Number.NEGATIVE_INFINITY;
  for (let o = 0; o < places.length; o += 3) deepest = Math.max(deepest, groundHeight(motion.ground, places[o], places[o + 2]) - places[o + 1]);
  return deepest;
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
