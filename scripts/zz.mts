import { Evaluator, oneSource, emptyWork } from "@stride/motion";
import { GRID } from "@stride/demo";
const [cls, ...rest] = process.argv.slice(2); const name = rest.join(" ");
for (const c of GRID.find((g) => g.id === cls)!.cases().filter((c) => c.name.includes(name)).slice(0, 1)) {
  console.log(c.name, c.faulty.frameCount);
  const { base } = new Evaluator(oneSource(c.truth.character.skeleton, c.faulty)).evaluate(emptyWork());
  console.log("ground", base.ground, base.points.filter((p) => p.bears).map((p) => `${p.id} ${p.local.map((v) => (v * 100).toFixed(2))} cl ${(p.clearance * 100).toFixed(2)} j${p.joint} named ${c.truth.character.skeleton.names[p.named]}`).join("\n"));
  for (const p of [...new Set(c.truth.contacts.map((k) => k.point))]) {
    const s = (l: typeof base.contacts) => l.filter((k) => k.point === p).map((k) => `${k.start}-${k.end}`).join(" ");
    console.log(p, "\n  true ", s(c.truth.contacts), "\n  found", s(base.contacts));
  }
}
