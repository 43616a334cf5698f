import { Evaluator, oneSource, emptyWork, makePatch, jointTrack } from "@stride/motion";
import { GRID } from "@stride/demo";
for (const name of ["usual, 30, run, 0.20 s, 1°", "tall, 60, run, 0.20 s, 0.3°", "1.6 m, blade, pastern, hoof +0.08, codes, trot, 0.3°"]) {
const c = GRID.find((g) => g.id === "quick")!.cases().find((c) => c.name === name)!;
const { skeleton, roles } = c.truth.character;
const hips = roles.hips!;
const dist = (clip: any) => { const out: string[] = []; for (const toe of [roles.leftToe!, roles.rightToe!]) { const a = jointTrack(skeleton, c.truth.clip, toe).positions, ah = jointTrack(skeleton, c.truth.clip, hips).positions, b = jointTrack(skeleton, clip, toe).positions, bh = jointTrack(skeleton, clip, hips).positions; let s = 0, m = 0, mf = 0; const n = clip.frameCount; for (let f = 0; f < n; f++) { const d = 100 * Math.hypot(...[0, 1, 2].map((i) => a[f * 3 + i] - ah[f * 3 + i] - b[f * 3 + i] + bh[f * 3 + i])); s += d / n; if (d > m) { m = d; mf = f; } } out.push(`${s.toFixed(2)} max ${m.toFixed(1)}@${mf}`); } return out.join(" | "); };
console.log(name, "before", dist(c.faulty));
for (const s of [{}, { travelStrength: 0 }, { steadyLegs: 0 }, { travelStrength: 0, steadyLegs: 0 }, {hipsMayDropCm: 0}]) {
  const ev = new Evaluator(oneSource(skeleton, c.faulty)).evaluate({ ...emptyWork(), patches: [makePatch("floor", "f", "f"), makePatch("plant", "p", "p", s)] });
  console.log(JSON.stringify(s), dist(ev.result.clip), "ground", JSON.stringify(ev.base.ground));
}
}
