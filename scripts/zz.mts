import { Evaluator, oneSource, emptyWork, DEFAULT_RECIPE, clipWorld, findingsOf, measure, jointTrack } from "@stride/motion";
import { demoClips } from "@stride/demo";
for (const id of ["porter-slip-on-the-ice", "porter-down-the-gangway"]) {
  const d = demoClips().find((c) => c.id === id)!;
  const { skeleton, roles } = d.truth.character;
  const { base, result } = new Evaluator(oneSource(skeleton, d.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const a = clipWorld(skeleton, base.clip).positions, b = clipWorld(skeleton, result.clip).positions;
  let mv = 0; for (let i = 0; i < a.length; i += 3) mv += 100 * Math.hypot(a[i] - b[i], a[i + 1] - b[i + 1], a[i + 2] - b[i + 2]) / (a.length / 3);
  console.log(id, "moved", mv.toFixed(2), base.contacts.filter((c) => /back|seat|head|Hand|Knee|Elbow/.test(c.point)).map((c) => `${c.point} ${c.start}-${c.end}`).join(", "), "| findings", findingsOf(result, measure(result)).map((f) => f.title + " " + f.value.toFixed(1)).join("; "), JSON.stringify(result.ground));
  for (const p of ["leftToe", "rightToe"]) { console.log(p, "true", d.truth.contacts.filter((c) => c.point === p).map((c) => `${c.start}-${c.end}`).join(" "), "found", base.contacts.filter((c) => c.point === p).map((c) => `${c.start}-${c.end}`).join(" "));
    if (id.includes("gang")) { const t = jointTrack(skeleton, result.clip, roles[p]!).positions; for (const c of d.truth.contacts.filter((c) => c.point === p)) console.log(p, c.start, Array.from({ length: c.end - c.start + 1 }, (_, i) => (100 * Math.hypot(t[(c.start + i) * 3] - t[(c.start + 3) * 3], t[(c.start + i) * 3 + 2] - t[(c.start + 3) * 3 + 2])).toFixed(1)).join(" ")); } }
}
