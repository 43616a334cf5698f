import { GRID, type Row } from "@stride/demo";

// npm run grid [-- class … --noises N --all --findings]: contacts and plants measured on clips whose truth is known, class by class; the worst case of each
// figure is named. Clips that tremble come with one noise, or with so many: what one of them shows may be luck.

const at = process.argv.indexOf("--noises");
const noises = at < 0 ? 1 : Number(process.argv[at + 1]);
const wanted = process.argv.slice(2).filter((a, i) => !a.startsWith("-") && i + 2 !== at + 1);
const all = process.argv.includes("--all");
for (const { id, title, rows: cases, limits } of GRID) {
  if (wanted.length > 0 && !wanted.includes(id)) continue;
  const rows = cases(noises).map((measure) => measure());
  console.log(`\n${id}: ${title} (${rows.length} clips)`);
  for (const { figure, label, most, least } of limits) {
    const value = (r: Row) => r[figure] as number;
    const worst = rows.reduce((a, b) => ((least === undefined ? value(b) > value(a) : value(b) < value(a)) ? b : a));
    const mean = rows.reduce((sum, r) => sum + value(r), 0) / rows.length;
    const over = rows.filter((r) => (least === undefined ? !(value(r) <= (most ?? 0)) : !(value(r) >= least)));
    console.log(
      `  ${label.padEnd(34)} mean ${mean.toFixed(3).padStart(7)}  worst ${value(worst).toFixed(3).padStart(7)} (${worst.name})  target ${least === undefined ? `≤ ${most}` : `≥ ${least}`}  over ${over.length}`,
    );
    if (all) for (const r of over) console.log(`      ${value(r).toFixed(3).padStart(8)} ${r.name}`);
  }
  if (process.argv.includes("--findings")) for (const r of rows) console.log(`      ${r.name}: ${r.findings}`);
}
