import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { join } from "node:path";
import { demoClips, INA, OSK, PIM } from "@stride/demo";
import { READ_ENDINGS, writeFresh } from "@stride/motion";
import { ROOT } from "./places.ts";
import type { ClipStore } from "./store/clips.ts";
import type { Db } from "./store/database.ts";
import { summarize } from "./summary.ts";

/** Bodies of the demo: a GLB each, modelled by the project (`npm run bodies`). */
const BODIES = join(ROOT, "demo/bodies");

/** Puts the characters of Saltgate Harbour into a library that has never had them. */
export function loadDemoBodies(db: Db, clips: ClipStore): number {
  if (db.prepare("SELECT 1 FROM setting WHERE key = 'demo-bodies-loaded'").get()) return 0;
  const made = [INA, OSK, PIM].map(({ id, name }) => {
    const fileName = `${id}.glb`;
    const bytes = readFileSync(join(BODIES, fileName));
    const sha256 = createHash("sha256").update(bytes).digest("hex");
    return { name, fileName, bytes, sha256, tags: [name, "body"], folder: "", reading: summarize(bytes, { fileName }) };
  });
  db.transaction(() => {
    for (const body of made) clips.add(body);
    db.prepare("INSERT INTO setting (key, value) VALUES ('demo-bodies-loaded', 'yes')").run();
  })();
  return made.length;
}

/** Puts the clips of Saltgate Harbour into a library that has never had them. Files in centimetres, as captures usually come. */
export function loadDemo(db: Db, clips: ClipStore): number {
  const loaded = db.prepare("SELECT 1 FROM setting WHERE key = 'demo-loaded'").get();
  if (loaded) return 0;
  const made = demoClips().map(({ id, title, tags, truth, clip }) => {
    const { skeleton, name } = truth.character;
    const bytes = Buffer.from([...writeFresh(skeleton, clip, 0.01)].join(""));
    const fileName = `${id}${READ_ENDINGS[0]}`;
    const sha256 = createHash("sha256").update(bytes).digest("hex");
    return { name: title, fileName, bytes, sha256, tags: [name, ...tags], folder: "", reading: summarize(bytes, { fileName }) };
  });
  db.transaction(() => {
    for (const clip of made) clips.add(clip);
    db.prepare("INSERT INTO setting (key, value) VALUES ('demo-loaded', 'yes')").run();
  })();
  return made.length;
}
