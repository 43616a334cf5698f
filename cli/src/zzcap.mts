import { readFileSync } from "node:fs";
import { DEFAULT_RECIPE, Evaluator, emptyWork, oneSource, quantile, readMotion } from "@stride/motion";
import { slidesIn, stillSpans } from "../../demo/src/grid/stillToes.ts";
for (const name of process.argv.slice(2)) {
  const file = readMotion(readFileSync(`/usr/share/assimp/models/BVH/${name}.bvh`), { fileName: `${name}.bvh` });
  const once = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const { leftToe, rightToe } = once.base.character.body.roles;
  const per = [leftToe ?? -1, rightToe ?? -1].map((toe) => slidesIn(file.skeleton, once.result.clip, toe, stillSpans(file.skeleton, once.base.clip, toe)));
  const all = per.flat();
  console.log("#", name, "mean", (all.reduce((a, b) => a + b, 0) / all.length).toFixed(4), "p95", quantile(all, 0.95).toFixed(4), all.length, JSON.stringify(once.base.ground));
  for (const [k, toe] of [leftToe ?? -1, rightToe ?? -1].entries()) for (const s of stillSpans(file.skeleton, once.base.clip, toe) as { start: number; end: number }[]) { const d = slidesIn(file.skeleton, once.result.clip, toe, [s] as never); const m = quantile(d, 0.95); if (m > 0.25) console.log("  slide", k ? "right" : "left", JSON.stringify(s), m.toFixed(3)); }
  for (const c of once.base.contacts) console.log(c.point, `${c.start}-${c.end}`, c.on);
}
