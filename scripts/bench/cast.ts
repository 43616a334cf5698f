import { readFileSync } from "node:fs";
import {
  bakedOnto,
  characterIn,
  clipWorld,
  DEFAULT_RECIPE,
  Evaluator,
  emptyWork,
  type MotionFile,
  oneSource,
  readMotion,
  skinOfFile,
  sourceOf,
  type WorldClip,
} from "@stride/motion";
import { SkinnedBody } from "../../web/src/view3d/skinnedBody.ts";
import { endsAsJoints } from "./bodies.ts";
import { CAPTURE } from "./capture.ts";
import { race, row, time } from "./timing.ts";

/** A capture of 2,752 frames and 38 joints cast onto bodies of the demo, against one pass of forward kinematics over the capture; and what a skin costs the page's main thread beside the drawing. */
export function cast(): void {
  const file = endsAsJoints(readMotion(readFileSync(CAPTURE), { fileName: CAPTURE }));
  const source = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches }).result;
  for (const id of ["osk", "ina"]) {
    const read = bodyFile(id);
    const body = characterIn(sourceOf(read, `${id}.glb`));
    const baked = bakedOnto(source, body).motion;
    const own = time(7, () => clipWorld(body.character.skeleton, baked.clip));
    // A fresh motion each time: what was cast once is kept.
    const raced = race(
      6,
      () => bakedOnto({ ...source }, body),
      () => clipWorld(file.skeleton, file.clip),
      1,
    );
    const { frameCount, jointCount } = file.clip;
    row(
      `Cast of ${frameCount} frames, ${jointCount} onto ${body.clip.jointCount} joints, against one pass of FK`,
      `${(raced.ours / raced.theirs).toFixed(1)} ×`,
      "40 ×",
    );
    row("  against one pass of FK over the result", `${(raced.ours / own).toFixed(1)} ×`, "—");
    skinned(read, clipWorld(body.character.skeleton, baked.clip));
  }
}

function bodyFile(id: string): MotionFile {
  return readMotion(readFileSync(new URL(`../../demo/bodies/${id}.glb`, import.meta.url)), { fileName: `${id}.glb` });
}

/** Milliseconds a frame to pose a skin, doubled so as to have over 20,000 vertices: its bones written, and what three.js hands to the graphics card made of them. */
function skinned(file: MotionFile, world: WorldClip): void {
  const own = skinOfFile(file, "body.glb");
  if (!own) throw new Error("the body has no skin");
  const skin = { ...own, parts: [...own.parts, ...own.parts] };
  const colors = { wood: "#ccc", left: "#ccc", right: "#ccc", ink: "#000", picked: "#00f" };
  const sides = file.skeleton.names.map(() => null);
  const body = new SkinnedBody(skin, colors, false, sides, file.skeleton.parents, () => {});
  const view = {
    frameCount: world.positions.length / world.jointCount / 3,
    jointCount: world.jointCount,
    positions: world.positions,
    rotations: world.rotations,
  };
  const frames = 2000;
  const took = time(5, () => {
    for (let f = 0; f < frames; f++) {
      body.pose(view, f);
      body.shadows[0].skeleton.update();
    }
  });
  const vertices = skin.parts.reduce((n, p) => n + p.positions.length / 3, 0);
  row(`  its skin of ${vertices} vertices posed, a frame`, `${(took / frames).toFixed(3)} ms`, "8 ms");
  body.dispose();
}
