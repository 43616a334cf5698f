// npm run bodies [-- ina osk pim]: models the demo's bodies and writes them to demo/bodies.
import { mkdirSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { INA, OSK, PIM } from "../demo/src/characters.ts";
import { INA_SHELLS } from "../demo/src/modelling/ina.ts";
import { OSK_SHELLS } from "../demo/src/modelling/osk.ts";
import { PIM_SHELLS } from "../demo/src/modelling/pim.ts";
import { bodyFile } from "../demo/src/modelling/write.ts";

const BODIES = { ina: [INA, INA_SHELLS], osk: [OSK, OSK_SHELLS], pim: [PIM, PIM_SHELLS] } as const;
const folder = join(import.meta.dirname, "..", "demo", "bodies");
const asked = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
for (const [id, [character, shells]] of Object.entries(BODIES)) {
  if (asked.length > 0 && !asked.includes(id)) continue;
  const { bytes, vertices, triangles } = await bodyFile(character, shells);
  writeFileSync(join(folder, `${id}.glb`), bytes);
  console.log(`${id}.glb: ${vertices} vertices, ${triangles} triangles, ${(bytes.length / 1000).toFixed(0)} kB`);
}
