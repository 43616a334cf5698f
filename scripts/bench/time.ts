import { LONG_WALK_FPS as FPS, skatingWalk } from "@stride/demo";
import { carriedAlong, clipWorld, DEFAULT_RECIPE, Evaluator, emptyWork, makePatch, oneSource, type Patch, previewFrame, type Work } from "@stride/motion";
import { row, time } from "./timing.ts";

/** One minute at 120 frames a second. */
const FRAMES = 7200;
const SECONDS = (FRAMES - 1) / FPS;

/** What changes of time cost in a work of ten patches on a minute of capture: at the bottom, at the top, and while a beat is dragged. */
export function timePatches(): void {
  const { skeleton, clip } = skatingWalk(FRAMES, { fingers: true });
  const pass = time(7, () => clipWorld(skeleton, clip));
  const tell = (what: string, ms: number, target: string) => row(`  ${what}`, `${ms.toFixed(0)} ms, ${(ms / pass).toFixed(1)} FK`, target);
  row(`One minute at ${FPS} fps, ${clip.jointCount} joints, ten patches: a pass of FK`, `${pass.toFixed(0)} ms`, "—");
  const evaluator = new Evaluator(oneSource(skeleton, clip));
  let turn = 0;
  const under = () => work(retime("under", 20 + (++turn % 7) / 4), ...DEFAULT_RECIPE.patches, ...windows(7, 12));
  evaluator.evaluate(under());
  tell(
    "a beat moved at the bottom",
    time(5, () => evaluator.evaluate(under())),
    "1500 ms",
  );
  const fixed = retime("under", 21);
  const last = () => work(fixed, ...DEFAULT_RECIPE.patches, ...windows(7, (++turn % 20) + 1));
  evaluator.evaluate(last());
  tell(
    "a small window in the last patch over it",
    time(7, () => evaluator.evaluate(last())),
    "150 ms",
  );
  const over = (patch: Patch) => work(...DEFAULT_RECIPE.patches, ...windows(7, 12), patch);
  for (const [what, target, made] of [
    ["a beat moved at the top", "150 ms", () => retime("over", 20 + (++turn % 7) / 4)],
    ["a mirror at the top", "—", () => makePatch("mirror", "m", `m${++turn}`)],
    ["travel evened at the top", "—", () => makePatch("travel", "t", `t${++turn}`, { travel: "even", speed: 1 + (turn % 5) / 10 })],
    ["a loop of the best cycle at the top", "—", () => makePatch("loop", "l", `l${++turn}`, { repeats: 3 })],
  ] as const)
    tell(
      what,
      time(7, () => evaluator.evaluate(over(made()))),
      target,
    );
  const evaluation = evaluator.evaluate(under());
  const drag = () => {
    const moved = carriedAlong(
      evaluation.work,
      { ...evaluation.work, patches: [retime("under", 20 + (++turn % 9) / 5), ...evaluation.work.patches.slice(1)] },
      { seconds: SECONDS, fps: FPS },
    );
    if (!previewFrame(evaluation, moved, 3000)) throw new Error("a dragged beat has no preview");
  };
  tell("the frame under the playhead while a beat is dragged", time(9, drag), "50 ms");
}

function work(...patches: Patch[]): Work {
  return { ...emptyWork(), patches };
}

function retime(id: string, to: number): Patch {
  const [a, b] = [SECONDS / 3, (2 * SECONDS) / 3];
  return makePatch("retime", id, id, {
    beats: [
      { from: 0, to: 0 },
      { from: a, to },
      { from: b, to: b },
      { from: SECONDS, to: SECONDS },
    ],
  });
}

/** Smoothings of the head over half a second each; the last one's strength is told. */
function windows(count: number, strength: number): Patch[] {
  return Array.from({ length: count }, (_, i) => ({
    ...makePatch("repair", "r", `r${i}`, { smooth: i === count - 1 ? strength / 24 : 0.5 }),
    parts: [{ role: "head" as const }],
    range: { start: 3 + i * 5, end: 3.5 + i * 5 },
  }));
}
