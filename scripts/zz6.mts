import { readFileSync } from "node:fs";
import { DEFAULT_RECIPE, Evaluator, emptyWork, oneSource, readMotion, clipWorld, makePatch } from "@stride/motion";
const name = process.argv[2] ?? "Boxing_Toes";
const file = readMotion(readFileSync(`/usr/share/assimp/models/BVH/${name}.bvh`), { fileName: name + ".bvh" });
const jerk = (clip: typeof file.clip) => { const p = clipWorld(file.skeleton, clip).positions, J = clip.jointCount, s = J * 3; const out = new Float64Array(J); for (let i = 3 * s; i < p.length; i += 3) out[(i / 3) % J] += Math.hypot(...[0, 1, 2].map((k) => p[i + k] - 3 * p[i + k - s] + 3 * p[i + k - 2 * s] - p[i + k - 3 * s])); return out; };
const base = jerk(file.clip);
for (const s of [{}, { steadyLegs: 0 }, { travelStrength: 0 }, { hipsMayDropCm: 0 }]) {
  const { result } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: [makePatch("floor", "f", "f"), makePatch("plant", "p", "p", s)] });
  const j = jerk(result.clip);
  console.log(JSON.stringify(s), (j.reduce((a, b) => a + b) / base.reduce((a, b) => a + b)).toFixed(3), file.skeleton.names.map((n, i) => `${n} ${(100 * (j[i] - base[i]) / base.reduce((a, b) => a + b)).toFixed(2)}`).filter((t) => Math.abs(+t.split(" ").at(-1)!) > 0.09).join(", "));
}
