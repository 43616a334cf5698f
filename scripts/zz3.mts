import { readFileSync } from "node:fs";
import { DEFAULT_RECIPE, Evaluator, emptyWork, oneSource, quantile, readMotion, clipWorld, jointTrack } from "@stride/motion";
import { stillSpans, slidesIn } from "../demo/src/grid/stillToes.ts";
for (const name of ["01_01", "01_03", "Boxing_Toes"]) {
  const file = readMotion(readFileSync(`/usr/share/assimp/models/BVH/${name}.bvh`), { fileName: name + ".bvh" });
  const run = (clip: typeof file.clip) => new Evaluator(oneSource(file.skeleton, clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const { base, result } = run(file.clip);
  const { roles } = base.character.body;
  const toes = [roles.leftToe!, roles.rightToe!];
  const spans = toes.map((j) => stillSpans(file.skeleton, file.clip, j));
  const all = (clip: typeof file.clip) => toes.flatMap((j, i) => slidesIn(file.skeleton, clip, j, spans[i]));
  const m = (v: number[]) => `mean ${(v.reduce((a, b) => a + b, 0) / v.length).toFixed(3)} p95 ${quantile(v, 0.95).toFixed(3)} max ${Math.max(...v).toFixed(2)}`;
  const a = clipWorld(file.skeleton, file.clip).positions, b = clipWorld(file.skeleton, result.clip).positions; const s = file.clip.jointCount * 3;
  let moved = 0, jb = 0, ja = 0, lost = 0;
  for (let i = 0; i < a.length; i += 3) { const root = i - (i % s); moved += Math.hypot(...[0, 1, 2].map((k) => a[i + k] - b[i + k] - (a[root + k] - b[root + k]))) / (a.length / 3) * 100; }
  for (let i = 3 * s; i < a.length; i += 3) { ja += Math.hypot(...[0, 1, 2].map((k) => a[i + k] - 3 * a[i + k - s] + 3 * a[i + k - 2 * s] - a[i + k - 3 * s])); jb += Math.hypot(...[0, 1, 2].map((k) => b[i + k] - 3 * b[i + k - s] + 3 * b[i + k - 2 * s] - b[i + k - 3 * s])); }
  const again = run(result.clip).result.clip; const c = clipWorld(file.skeleton, again).positions; let ch = 0; for (let i = 0; i < a.length; i += 3) ch += Math.hypot(c[i] - b[i], c[i + 1] - b[i + 1], c[i + 2] - b[i + 2]) / (a.length / 3) * 100;
  const root = jointTrack(file.skeleton, file.clip, roles.hips!).positions, root2 = jointTrack(file.skeleton, result.clip, roles.hips!).positions; let rm = 0; for (let i = 0; i < root.length; i += 3) rm += Math.hypot(root[i] - root2[i], root[i + 1] - root2[i + 1], root[i + 2] - root2[i + 2]) / (root.length / 3) * 100;
  console.log(name, file.clip.fps, "spans", spans.map((x) => x.length).join("+"), "before", m(all(file.clip)), "after", m(all(result.clip)), "pose", moved.toFixed(2), "jerk", (jb / ja).toFixed(3), "again", ch.toFixed(3), "root moved", rm.toFixed(2), "ground", JSON.stringify(base.ground), "contacts", base.contacts.length, base.points.filter((p) => p.bears).map((p) => `${p.id} ${(100 * p.clearance).toFixed(2)}`).join(" "));
}
