import { readFileSync } from "node:fs";
import { skatingWalk } from "@stride/demo";
import { clipWorld, DEFAULT_RECIPE, Evaluator, emptyWork, type MotionFile, oneSource, readMotion } from "@stride/motion";
import { AnimationMixer } from "three";
import { BVHLoader } from "three/examples/jsm/loaders/BVHLoader.js";
import { race, row, time } from "./timing.ts";

/** An open capture of 2,752 frames and 31 joints. */
export const CAPTURE = "/usr/share/assimp/models/BVH/01_01.bvh";

/** Reading, forward kinematics and plants on a capture, against three.js on the same file. */
export function capture(): void {
  const bytes = readFileSync(CAPTURE);
  const text = bytes.toString("utf8");
  const reading = race(
    16,
    () => readMotion(bytes, { fileName: CAPTURE, unitScale: 0.0564, upAxis: "y" }),
    () => new BVHLoader().parse(text),
  );
  row("Reading BVH, bytes a second against three's BVHLoader", `${(reading.theirs / reading.ours).toFixed(1)} ×`, "12 ×");
  const file = readMotion(bytes, { fileName: CAPTURE });
  const forward = kinematics(file, text);
  plants(file, forward);
  linear(file.clip.frameCount);
}

/** Milliseconds of one pass of forward kinematics over the file. */
function kinematics(file: MotionFile, text: string): number {
  const loaded = new BVHLoader().parse(text);
  const root = loaded.skeleton.bones[0];
  const mixer = new AnimationMixer(root);
  mixer.clipAction(loaded.clip).play();
  const step = loaded.clip.tracks[0].times[1];
  const { ours, theirs } = race(
    16,
    () => clipWorld(file.skeleton, file.clip),
    () => {
      for (let f = 0; f < file.clip.frameCount; f++) {
        mixer.setTime(f * step);
        root.updateMatrixWorld(true);
      }
    },
  );
  row("Forward kinematics against AnimationMixer", `${(theirs / ours).toFixed(1)} ×`, "10 ×");
  return ours;
}

function plants({ skeleton, clip }: MotionFile, forward: number): void {
  const evaluator = new Evaluator(oneSource(skeleton, clip));
  evaluator.evaluate(emptyWork());
  let drop = 4;
  const took = time(7, () => {
    // A setting that changes makes the plant solve anew; floor and contacts come from the cache.
    drop += 0.01;
    evaluator.evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches.map((p) => (p.kind === "plant" ? { ...p, settings: { hipsMayDropCm: drop } } : p)) });
  });
  row(`Plants on ${clip.frameCount} frames, ${clip.jointCount} joints, against one pass of FK`, `${(took / forward).toFixed(1)} ×`, "under 40 ×");
}

function linear(frames: number): void {
  const evaluation = (count: number) => {
    const { skeleton, clip } = skatingWalk(count, { fingers: false });
    return () => new Evaluator(oneSource(skeleton, clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  };
  const { ours, theirs } = race(4, evaluation(frames), evaluation(4 * frames), 2);
  row("Whole evaluation, four times the frames", `${(theirs / ours).toFixed(1)} × time`, "4 to 4.5 ×");
}
