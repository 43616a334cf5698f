import { jointTrack, mapBody } from "@stride/motion";
import { GRID } from "@stride/demo";
const c = GRID.find((g) => g.id === "clean4")!.cases().find((c) => c.name.startsWith("0.78 m, trot"))!;
const { skeleton, roles } = c.truth.character;
for (const r of ["leftToe", "leftHandEnd"] as const) { const t = jointTrack(skeleton, c.faulty, roles[r]!).positions; console.log(r, Array.from({ length: 34 }, (_, f) => `${f}:${(100 * t[f * 3 + 1]).toFixed(1)}/${f ? (30 * Math.hypot(t[f * 3] - t[f * 3 - 3], t[f * 3 + 2] - t[f * 3 - 1])).toFixed(2) : ""}`).join(" ")); }
