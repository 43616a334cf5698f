import { DEFAULT_RECIPE, Evaluator, emptyWork, jointTrack, makePatch, oneSource, quantile, groundHeight } from "@stride/motion";
import { BIPEDS, walk, run } from "../demo/src/grid/cases.ts";
import { performBiped } from "../demo/src/biped.ts";
import { performQuadruped } from "../demo/src/quadruped.ts";
import { angularAccelerations, limbJoints } from "../demo/src/score.ts";
import { PIM } from "../demo/src/characters.ts";
import { quadrupedWalk } from "../demo/src/plans.ts";
const grounds = {
  up8: { under: "level", lean: 0.3, shapes: [{ shape: "slope", x: 0, z: 1, heading: 0, width: 6, degrees: 8, length: 50, landing: 0 }] },
  down12: { under: "level", lean: 0.3, shapes: [{ shape: "slope", x: 0, z: 1, heading: 0, width: 6, degrees: -12, length: 2.5, landing: 20 }] },
  steps15: { under: "level", lean: 0.3, shapes: [{ shape: "steps", x: 0, z: 1, heading: 0, width: 6, rise: 0.15, tread: 0.7, count: 4, landing: 20 }] },
  stepsnarrow: { under: "level", lean: 0.3, shapes: [{ shape: "steps", x: 0, z: 1, heading: 0, width: 6, rise: 0.08, tread: 0.31, count: 8, landing: 20 }] },
  stepsdown: { under: "level", lean: 0.3, shapes: [{ shape: "steps", x: 0, z: 1, heading: 0, width: 6, rise: -0.17, tread: 0.7, count: 4, landing: 20 }] },
  box: { under: "level", lean: 0.3, shapes: [{ shape: "box", x: 0.1, z: 1.6, heading: 20, width: 0.8, length: 0.7, height: 0.3 }] },
};
const pim = performQuadruped(PIM, quadrupedWalk(PIM, { name: "pim", fps: 30, seed: 3, seconds: 4, stride: 0.6, cycle: 0.86, duty: 0.66, path: (s: number) => ({ x: 0, z: s, heading: 0 }) }));
const cases: [string, any][] = [];
for (const b of BIPEDS) { cases.push([b.character.id + " walk", performBiped(b.character, walk(b))]); }
cases.push(["run", performBiped(BIPEDS[0].character, run(BIPEDS[0]))]);
cases.push(["pim", pim]);
(globalThis as any).DBG=true; for (const [name, truth] of cases.filter(c=>c[0].startsWith("toeless")||c[0].startsWith("tall"))) for (const [gname, settings] of Object.entries(grounds)) for (const planted of [false]) {
  const { character, clip } = truth; const sk = character.skeleton;
  const ev = new Evaluator(oneSource(sk, clip));
  const t0 = performance.now();
  const { result, base } = ev.evaluate({ ...emptyWork(), patches: [...(planted ? DEFAULT_RECIPE.patches : []), makePatch("ground", "g", "g", settings)] });
  const ms = performance.now() - t0;
  let slide = 0, height = 0, through = 0, stretch = 0;
  const role = (p: string) => { const s = p.startsWith("left") ? "left" : "right"; return p.endsWith("Fore") ? character.roles[s + "HandEnd"] : character.roles[s + "Toe"] ?? character.roles[s + "Foot"]; };
  for (const c of truth.contacts) {
    if (c.point.endsWith("Heel")) continue;
    const a = jointTrack(sk, result.clip, role(c.point)).positions, b = jointTrack(sk, clip, role(c.point)).positions;
    for (let f = c.start; f <= c.end; f++) {
      const m = Math.round((c.start + c.end) / 2);
      slide = Math.max(slide, 100 * Math.abs(Math.hypot(a[f*3]-a[m*3], a[f*3+2]-a[m*3+2]) - Math.hypot(b[f*3]-b[m*3], b[f*3+2]-b[m*3+2])));
      const g = groundHeight(result.ground, a[f*3], a[f*3+2]);
      height = Math.max(height, 100 * Math.abs(a[f*3+1] - g - b[f*3+1]));
    }
  }
  for (const p of new Set(truth.contacts.map((c: any) => role(c.point)))) {
    const a = jointTrack(sk, result.clip, p as number).positions, b = jointTrack(sk, clip, p as number).positions;
    for (let f = 0; f < clip.frameCount; f++) through = Math.max(through, 100 * (Math.min(0.02, b[f*3+1]) - (a[f*3+1] - groundHeight(result.ground, a[f*3], a[f*3+2]))));
  }
  const legs = limbJoints(character);
  for (const limb of base.character.rig.limbs.filter((l: any) => l.kind === "leg")) {
    const [h, e] = [limb.upper, limb.end].map((j) => jointTrack(sk, result.clip, j).positions);
    const [h0, e0] = [limb.upper, limb.end].map((j) => jointTrack(sk, clip, j).positions);
    for (let f = 0; f < clip.frameCount; f++) stretch = Math.max(stretch, Math.hypot(h[f*3]-e[f*3],h[f*3+1]-e[f*3+1],h[f*3+2]-e[f*3+2]) / limb.length);
  }
  const acc = angularAccelerations(clip, legs), out = angularAccelerations(result.clip, legs);
  const limit = 3 * quantile(acc, 0.999);
  const hy = jointTrack(sk, result.clip, character.roles.hips).positions, hy0 = jointTrack(sk, clip, character.roles.hips).positions;
  const rise = Array.from({length: clip.frameCount}, (_, f) => hy[f*3+1]-hy0[f*3+1]);
  let pops = 0, frames = []; for (let f = 0; f < out.length; f++) if (out[f] > limit) { pops++; frames.push(f); }
  console.log(frames.join(" "),name.padEnd(22), gname.padEnd(12), planted ? "P" : " ", "slide", slide.toFixed(2), "height", height.toFixed(2), "through", through.toFixed(2), "stretch", stretch.toFixed(4), "pops", pops, (Math.max(...out)/limit).toFixed(1), "hips", Math.min(...rise).toFixed(2), Math.max(...rise).toFixed(2), "contacts", result.contacts.filter(c=>c.on==="place").length, result.contacts.length, ms.toFixed(0)+"ms");
}
