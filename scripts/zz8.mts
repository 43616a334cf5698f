import { Evaluator, oneSource, emptyWork, findingsOf, measure } from "@stride/motion";
import { demoClips } from "@stride/demo";
for (const d of demoClips()) {
  const { base } = new Evaluator(oneSource(d.truth.character.skeleton, d.clip)).evaluate(emptyWork());
  const f = findingsOf(base, measure(base));
  console.log(d.id, d.clip.frameCount, "|", f.map((x) => `${x.title} ${x.value.toFixed(1)}${x.startFrame === 0 && x.endFrame === d.clip.frameCount - 1 ? "" : ` ${x.startFrame}-${x.endFrame}`}`).slice(0, 14).join("; "), "| contacts", base.contacts.map((c) => `${c.point} ${c.start}-${c.end}`).slice(0, 12).join(", "));
}
