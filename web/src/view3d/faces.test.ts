import { clipWorld, cropWarp, readMotion, skinOfFile } from "@stride/motion";
import { AnimationMixer, type Mesh, type SkinnedMesh, Vector3 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { expect, it } from "vitest";
import { face } from "../../../motion/src/testing/talkingFace.ts";
import { SkinnedBody } from "./skinnedBody.ts";

const COLORS = { wood: "#ccc", left: "#ccc", right: "#ccc", ink: "#000", picked: "#00f" };
const BEGIN = 0.5;

async function worn() {
  const bytes = await face(BEGIN, "LINEAR", { grows: false, rest: [0.2, 0, 0.1, 0] });
  const file = readMotion(bytes, { fileName: "face.glb", fps: 10, unitScale: 1 });
  const skin = skinOfFile(file, "face.glb");
  if (!skin) throw new Error("no skin");
  const body = new SkinnedBody(
    skin,
    COLORS,
    false,
    file.skeleton.names.map(() => null),
    file.skeleton.parents,
    () => {},
  );
  const { positions, rotations, jointCount } = clipWorld(file.skeleton, file.clip);
  return { bytes, file, body, view: { frameCount: file.clip.frameCount, fps: 10, jointCount, positions, rotations } };
}

/** Where the corners of a drawn part stand in the world. */
function corners(mesh: Mesh): number[][] {
  return [0, 1, 2].map((v) => mesh.getVertexPosition(v, new Vector3()).toArray());
}

it("a face moves in the view as three.js's own player moves it, from whatever it is at rest", async () => {
  const { bytes, body, view, file } = await worn();
  expect(file.warnings.join()).toContain("1 of its tracks weigh morph targets: shown");
  Object.assign(globalThis, { self: globalThis });
  const { scene, animations } = await new GLTFLoader().parseAsync(bytes.slice().buffer, "");
  const mixer = new AnimationMixer(scene);
  mixer.clipAction(animations[0]).play();
  let there: Mesh | undefined;
  scene.traverse((node) => {
    if ((node as Mesh).isMesh) there = node as Mesh;
  });
  if (!there) throw new Error("no mesh");
  const time = cropWarp(0, 2);
  for (const f of [0, 3, 7, 10, 15, 20]) {
    // Its player stops just before the end, where it would begin again.
    mixer.setTime(Math.min(BEGIN + f / 10, animations[0].duration - 1e-6));
    scene.updateMatrixWorld(true);
    const wanted = corners(there).map((p) => new Vector3(...p).applyMatrix4((there as Mesh).matrixWorld).toArray());
    body.pose({ ...view, time }, f);
    const drawn = [...body.group.children, ...body.shadows].filter((child) => (child as SkinnedMesh).isSkinnedMesh) as SkinnedMesh[];
    expect(drawn.length).toBe(4);
    for (const mesh of drawn) corners(mesh).forEach((place, v) => place.forEach((part, c) => expect(part).toBeCloseTo(wanted[v][c], 5)));
  }
});

it("goes along where time is changed: what is shown of the source is shown of its face", async () => {
  const { body, view } = await worn();
  const mouth = (frame: number, time: ReturnType<typeof cropWarp>) => {
    body.pose({ ...view, time }, frame);
    return ((body.group.children[0] as SkinnedMesh).morphTargetInfluences as number[])[1];
  };
  expect(mouth(0, cropWarp(1, 2))).toBeCloseTo(0.5, 6);
  expect(mouth(5, cropWarp(1, 2))).toBeCloseTo(0.25, 6);
  // Between two frames of the file it is between what it is at them.
  expect(mouth(10, { seconds: 4, pieces: [{ outStart: 0, outEnd: 4, inStart: 0, inEnd: 2 }] })).toBeCloseTo(0.25, 6);
  expect(mouth(9, { seconds: 4, pieces: [{ outStart: 0, outEnd: 4, inStart: 0, inEnd: 2 }] })).toBeCloseTo(0.225, 6);
  // A pose that is shown for itself leaves the face as it was.
  body.pose(view, 0);
  expect(((body.group.children[0] as SkinnedMesh).morphTargetInfluences as number[])[1]).toBeCloseTo(0.225, 6);
});
