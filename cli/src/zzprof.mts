import { skatingWalk } from "@stride/demo";
import { DEFAULT_RECIPE, Evaluator, emptyWork, oneSource } from "@stride/motion";
const { skeleton, clip } = skatingWalk(14400, { fingers: true });
const ts: number[] = []; for (let i = 0; i < 5; i++) { const t = performance.now(); new Evaluator(oneSource(skeleton, { ...clip })).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches }); ts.push(performance.now() - t); } console.log(process.cwd(), Math.min(...ts).toFixed(0), ts.map((t) => t.toFixed(0)).join(" "));
