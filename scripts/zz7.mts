import { DEFAULT_RECIPE, Evaluator, emptyWork, makePatch, measure, oneSource, jointTrack } from "@stride/motion";
import { GRID } from "@stride/demo";
const cases = GRID.find((g) => g.id === "mixed")!.cases().filter((c) => /walk|curve|run|side/.test(c.name) && /all|\+12|jitter/.test(c.name));
for (const c of cases) {
  const { skeleton, roles } = c.truth.character;
  const ev = new Evaluator(oneSource(skeleton, c.faulty));
  const out: string[] = [];
  for (const extra of [[], [makePatch("repair", "Smooth", "s", { smooth: 1, smoothOver: 0.13, pops: false, flips: false })]]) {
    const { result } = ev.evaluate({ ...emptyWork(), patches: [...DEFAULT_RECIPE.patches, ...extra] });
    const m = measure(result);
    const spans = m.spans.filter((s) => s.contact.point.endsWith("Toe"));
    const joint = (c: typeof spans[0]["contact"]) => { const t = jointTrack(skeleton, result.clip, c.joint).positions; let w = 0; const x0 = t[c.start * 3], z0 = t[c.start * 3 + 2]; for (let f = c.start; f <= c.end; f++) w = Math.max(w, 100 * Math.hypot(t[f * 3] - x0, t[f * 3 + 2] - z0)); return w; };
    out.push(`all ${Math.max(...m.spans.map((s) => s.slideCm)).toFixed(2)} toes ${Math.max(...spans.map((s) => s.slideCm)).toFixed(2)}`);
  }
  console.log(c.name, "|", out.join(" | "));
}
