import { LONG_WALK_FPS as FPS, skatingWalk } from "@stride/demo";
import { clipWorld, DEFAULT_RECIPE, Evaluator, emptyWork, makePatch, type Patch, previewFrame, SuppliedSources, type Work } from "@stride/motion";
import { p95, row, time } from "./timing.ts";

/** One minute at 120 frames a second, and as many frames as one at 30, as the demo's clips have them. */
const FRAMES = 7200;
const FRAMES_AT_30 = 1800;
const SOURCES = 6;
const ref = (k: number) => ({ name: `walk ${k}`, sha256: String(k).repeat(64) });
const LEGS = ["hips", "leftThigh", "leftShin", "leftFoot", "leftToe", "rightThigh", "rightShin", "rightFoot", "rightToe"] as const;
const ARMS = ["leftUpperArm", "leftForearm", "leftHand", "rightUpperArm", "rightForearm", "rightHand"] as const;

/** What a work costs that draws on six clips of a minute each: opened, and while a setting of one is dragged. */
export function combinedClips(): void {
  const few = open(FRAMES_AT_30);
  row(`Six clips of ${FRAMES_AT_30} frames, evaluated for the first time`, `${(few.milliseconds / 1000).toFixed(2)} s`, "3 s with opening");
  const { evaluation, milliseconds, pass, megabytes, jointCount } = open(FRAMES);
  row(`Six of one minute at ${FPS} fps, ${jointCount} joints: a pass of FK`, `${pass.toFixed(0)} ms`, "—");
  row("  evaluated for the first time, contacts found", `${(milliseconds / 1000).toFixed(2)} s, ${(milliseconds / pass).toFixed(0)} FK`, "—");
  row("  memory that takes", `${megabytes} MB`, "stated");
  for (const [what, change] of [
    ["strength", (i: number) => mix(SOURCES - 1, {}, 0.3 + i / 100)],
    ["offset", (i: number) => mix(SOURCES - 1, { offset: 1 + i / FPS })],
    ["speed", (i: number) => mix(SOURCES - 1, { speed: 1 + i / 100 })],
  ] as const) {
    const took: number[] = [];
    for (let i = 1; i <= 20; i++) {
      const begun = performance.now();
      if (!previewFrame(evaluation, work(change(i)), 3000)) throw new Error(`a dragged ${what} has no preview`);
      took.push(performance.now() - begun);
    }
    row(`  ${what} of the last, slider to pose, p95`, `${p95(took).toFixed(0)} ms`, "50 ms");
  }
}

const mix = (k: number, settings = {}, weight = 0.6): Patch => ({
  ...makePatch("mix", `Mix ${k}`, `m${k}`, { clip: ref(k), offset: k / 5, ...settings }),
  parts: (k === 0 ? LEGS : ARMS).map((role) => ({ role })),
  weight: k === 0 ? 1 : weight,
});
const work = (last: Patch): Work => ({ ...emptyWork(), patches: [...DEFAULT_RECIPE.patches, ...Array.from({ length: SOURCES - 1 }, (_, k) => mix(k)), last] });

/** Six clips drawn on by a work on a seventh, evaluated as when it is opened. */
function open(frames: number) {
  const { skeleton, clip } = skatingWalk(frames, { fingers: true });
  const pass = time(5, () => clipWorld(skeleton, clip));
  const others = Array.from({ length: SOURCES }, (_, k) => {
    const other = skatingWalk(FRAMES, { fingers: true });
    return { ref: ref(k), skeleton: other.skeleton, clip: other.clip, work: null };
  });
  const before = process.memoryUsage().rss;
  const started = performance.now();
  const evaluator = new Evaluator(new SuppliedSources({ skeleton, clip }, others));
  const evaluation = evaluator.evaluate(work(mix(SOURCES - 1)));
  const milliseconds = performance.now() - started;
  return { evaluation, milliseconds, pass, megabytes: Math.round((process.memoryUsage().rss - before) / 1e6), jointCount: clip.jointCount };
}
