import { readFileSync } from "node:fs";
import { DEFAULT_RECIPE, Evaluator, emptyWork, oneSource, readMotion, jointTrack } from "@stride/motion";
import { travelError, travelDisplacement } from "../motion/src/contacts/travel.ts";
import { commonHeave } from "../motion/src/contacts/heave.ts";
import { PointTracks } from "../motion/src/contacts/pointTracks.ts";
for (const name of ["01_01", "01_03", "Boxing_Toes"]) {
  const file = readMotion(readFileSync(`/usr/share/assimp/models/BVH/${name}.bvh`), { fileName: name + ".bvh" });
  const { base } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  const t = new PointTracks(file.skeleton, file.clip, base.points);
  const hips = t.joint(base.character.body.roles.hips!).positions;
  const e = travelError(base.contacts, t.bearing, hips, file.clip.fps);
  const d = travelDisplacement(e, hips, file.clip.fps);
  const h = commonHeave(base.contacts, t.bearing, (id) => t.point(id)?.clearance ?? 0, base.ground, file.clip.frameCount, file.clip.fps);
  const rms = (v: Float64Array) => Math.sqrt(v.reduce((s, x) => s + x * x, 0) / v.length);
  let path = 0; for (let i = 3; i < hips.length; i += 3) path += Math.hypot(hips[i] - hips[i - 3], hips[i + 2] - hips[i - 1]);
  console.log(name, "share", e.share.toFixed(4), "drift", e.drift.map((v) => v.toFixed(4)), "disp max cm", (100 * Math.max(...d.map(Math.abs))).toFixed(1), "heave rms mm", (1000 * rms(h)).toFixed(2), "path", path.toFixed(1), "s", (file.clip.frameCount / file.clip.fps).toFixed(0), "rest rms m/s", rms(e.rest).toFixed(4));
  for (const p of ["leftToe", "rightToe"]) console.log(p, base.contacts.filter((c) => c.point === p).map((c) => { const o = Math.floor((c.start + c.end) / 2) * 3; const k = t.course(p)!; return `${c.start}-${c.end}@${(100 * k[o + 1]).toFixed(1)}`; }).join(" "));
}
