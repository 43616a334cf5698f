import { demoClips } from "@stride/demo";
import { defaultLayout, writeBvh } from "@stride/motion";
import type { ClipStore } from "./store/clips.ts";
import type { Db } from "./store/database.ts";
import { summarize } from "./summary.ts";

/** Puts the clips of Saltgate Harbour into a library that has never had them. Files in centimetres, as captures usually come. */
export function loadDemo(db: Db, clips: ClipStore): number {
  const loaded = db.prepare("SELECT 1 FROM setting WHERE key = 'demo-loaded'").get();
  if (loaded) return 0;
  const made = demoClips().map(({ id, title, tags, truth, clip }) => {
    const { skeleton, name } = truth.character;
    const bytes = Buffer.from(writeBvh(skeleton, clip, defaultLayout(skeleton, clip, 0.01)));
    const fileName = `${id}.bvh`;
    return { name: title, fileName, bytes, tags: [name, ...tags], summary: summarize(bytes, { fileName }) };
  });
  db.transaction(() => {
    for (const clip of made) clips.add(clip);
    db.prepare("INSERT INTO setting (key, value) VALUES ('demo-loaded', 'yes')").run();
  })();
  return made.length;
}
