// npm run bench [-- capture long time combine files hour page library scroll cast]: ratios against a reference measured in the same run, so that they mean the same on any machine.
import { capture } from "./capture.ts";
import { cast } from "./cast.ts";
import { combinedClips } from "./combine.ts";
import { hour, tenMinutes } from "./files.ts";
import { library } from "./library.ts";
import { longClip } from "./long.ts";
import { page } from "./page.ts";
import { scroll } from "./scroll.ts";
import { timePatches } from "./time.ts";

const ROOMS: Record<string, () => void | Promise<void>> = {
  capture,
  long: longClip,
  time: timePatches,
  combine: combinedClips,
  files: tenMinutes,
  hour,
  page,
  library,
  scroll,
  cast,
};
const asked = process.argv.slice(2);
const unknown = asked.filter((name) => !ROOMS[name]);
if (unknown.length > 0) {
  console.error(`there is no bench called ${unknown.join(", ")}; there are ${Object.keys(ROOMS).join(", ")}`);
  process.exit(2);
}
for (const [name, run] of Object.entries(ROOMS)) if (asked.length === 0 || asked.includes(name)) await run();
