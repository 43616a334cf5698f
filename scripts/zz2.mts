import { Evaluator, oneSource, emptyWork, findingsOf, measure } from "@stride/motion";
import { GRID } from "@stride/demo";
for (const id of ["clean", "clean4"]) for (const c of GRID.find((g) => g.id === id)!.cases()) {
  const { base } = new Evaluator(oneSource(c.truth.character.skeleton, c.faulty)).evaluate(emptyWork());
  const f = findingsOf(base, measure(base));
  if (f.length) console.log(c.name, f.length, f.slice(0, 9).map((x) => `${x.kind} ${x.part} ${x.startFrame}-${x.endFrame} ${x.value.toFixed(1)}`).join("; "));
}
