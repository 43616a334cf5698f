import { GRID } from "@stride/demo";
import { withoutSpikes } from "../motion/src/signal/spikes.ts";
// clips without spikes: which frames would be mended?
let all = 0;
for (const id of ["clean", "clean4", "mixed", "travel"]) for (const c of GRID.find((g) => g.id === id)!.cases()) {
  const joints = c.faulty.rotations.map((_, j) => j);
  const m = withoutSpikes(c.faulty, joints); let n = 0;
  m.rotations.forEach((t, j) => t.forEach((chunk, k) => { if (chunk !== c.faulty.rotations[j][k]) for (let i = 0; i < chunk.length; i += 4) if (chunk[i] !== c.faulty.rotations[j][k][i] || chunk[i+1] !== c.faulty.rotations[j][k][i+1]) n++; }));
  if (n) { console.log(id, c.name, n); all += n; }
}
console.log("total", all);
