import { readFileSync } from "node:fs";
import { bakedOnto, characterIn, clipWorld, DEFAULT_RECIPE, Evaluator, emptyWork, oneSource, readMotion } from "@stride/motion";
import { CAPTURE } from "./capture.ts";
import { row, time } from "./timing.ts";

/** A capture of 2,752 frames cast onto a body of the demo, against one pass of forward kinematics over the capture. */
export function cast(): void {
  const file = readMotion(readFileSync(CAPTURE), { fileName: CAPTURE });
  const source = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches }).result;
  const path = new URL("../../demo/bodies/ina.glb", import.meta.url);
  const body = characterIn(readMotion(readFileSync(path), { fileName: "ina.glb" }));
  const baked = bakedOnto(source, body).motion;
  const forward = time(7, () => clipWorld(file.skeleton, file.clip));
  const own = time(7, () => clipWorld(body.character.skeleton, baked.clip));
  // A fresh motion each time: what was cast once is kept.
  const took = time(5, () => bakedOnto({ ...source }, body));
  const { frameCount, jointCount } = file.clip;
  row(`Cast of ${frameCount} frames, ${jointCount} onto ${body.clip.jointCount} joints, against one pass of FK`, `${(took / forward).toFixed(1)} ×`, "40 ×");
  row("  against one pass of FK over the result", `${(took / own).toFixed(1)} ×`, "—");
  row("  without hands led", `${(time(5, () => bakedOnto({ ...source }, body, () => {}, { hands: false })) / forward).toFixed(1)} ×`, "—");
}
