import { validateBytes } from "gltf-validator";
import { AnimationMixer, LoopOnce, type Object3D, Vector3 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import type { MotionFile } from "../formats/format.ts";
import { clipWorld } from "../kinematics/forward.ts";

/** World places of all joints, [frame][joint][3]. */
export function places({ skeleton, clip }: Pick<MotionFile, "skeleton" | "clip">): Float64Array {
  return Float64Array.from(clipWorld(skeleton, clip).positions);
}

/** The longest side of the box around some places. */
export function heightOf(positions: Float64Array): number {
  const sides = [0, 1, 2].map((axis) => {
    const values = positions.filter((_, k) => k % 3 === axis);
    return values.reduce((a, b) => Math.max(a, b)) - values.reduce((a, b) => Math.min(a, b));
  });
  return Math.max(...sides);
}

/** The largest difference of any number; infinite where there are not as many. */
export function furthest(a: Float64Array, b: Float64Array): number {
  return a.length === b.length ? a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i])), 0) : Number.POSITIVE_INFINITY;
}

/** What the validator of the format's own authors says of a file. */
export async function verdict(bytes: Uint8Array): Promise<{ errors: number; warnings: number; said: string[] }> {
  const { issues } = await validateBytes(bytes);
  const said = issues.messages.filter((m) => m.severity < 2).map((m) => `${m.pointer}: ${m.message}`);
  return { errors: issues.numErrors, warnings: issues.numWarnings, said };
}

/** Places of named nodes as three.js's loader and mixer play a file, [frame][name][3]. */
export async function played(bytes: Uint8Array, names: readonly string[], frames: number, fps: number): Promise<Float64Array> {
  Object.assign(globalThis, { self: globalThis });
  const { scene, animations } = await new GLTFLoader().parseAsync(bytes.slice().buffer, "");
  const nodes = new Map<string, Object3D>();
  scene.traverse((node) => nodes.set(node.userData.name ?? node.name, node));
  const mixer = new AnimationMixer(scene);
  const action = mixer.clipAction(animations[0]);
  action.setLoop(LoopOnce, 1);
  action.clampWhenFinished = true;
  action.play();
  const out = new Float64Array(frames * names.length * 3);
  const v = new Vector3();
  for (let f = 0; f < frames; f++) {
    mixer.setTime(Math.min(f / fps, animations[0].duration));
    scene.updateMatrixWorld(true);
    names.forEach((name, j) => {
      const node = nodes.get(name);
      if (!node) throw new Error(`there is no node ${name}`);
      v.setFromMatrixPosition(node.matrixWorld).toArray(out, (f * names.length + j) * 3);
    });
  }
  return out;
}
