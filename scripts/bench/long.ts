import { LONG_WALK_FPS as FPS, skatingWalk } from "@stride/demo";
import { clipWorld, DEFAULT_RECIPE, Evaluator, emptyWork, type Motion, makePatch, measureSteps, oneSource, type Patch, type Work } from "@stride/motion";
import { row, time } from "./timing.ts";

/** Two minutes at 120 frames a second. */
const FRAMES = 14_400;

/** What changes on a two-minute capture of 52 joints cost, in milliseconds and in passes of forward kinematics over the clip. */
export function longClip(): void {
  const { skeleton, clip } = skatingWalk(FRAMES, { fingers: true });
  const pass = time(7, () => clipWorld(skeleton, clip));
  const tell = (what: string, ms: number, target: string) => row(`  ${what}`, `${ms.toFixed(0)} ms, ${(ms / pass).toFixed(1)} FK`, target);
  row(`Two minutes at ${FPS} fps, ${clip.jointCount} joints: a pass of FK`, `${pass.toFixed(0)} ms`, "—");
  const start = () => new Evaluator(oneSource(skeleton, clip));
  const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });

  tell(
    "contacts, floor and plant, from nothing",
    time(3, () => start().evaluate(work(...DEFAULT_RECIPE.patches))),
    "1500 ms",
  );
  let turn = 0;
  const evaluator = start();
  evaluator.evaluate(work());
  tell(
    "a 49-frame touch-up, changed",
    time(9, () => evaluator.evaluate(work(touchUp("one", 5000, ++turn % 20)))),
    "30 ms",
  );
  tell(
    "a one-curve layer over the whole, changed",
    time(7, () => evaluator.evaluate(work(layer(++turn % 20)))),
    "250 ms",
  );
  tell(
    "floor and plant, changed",
    time(5, () => evaluator.evaluate(work(...dropping(++turn)))),
    "1500 ms",
  );
  const ten = (degrees: number) =>
    work(...DEFAULT_RECIPE.patches, ...Array.from({ length: 8 }, (_, i) => touchUp(`t${i}`, 1000 + i * 1500, i === 7 ? degrees : 12)));
  const first = evaluator.evaluate(ten(1));
  tell(
    "a small window in the last of ten, planted again",
    time(9, () => evaluator.evaluate(ten((++turn % 20) + 1))),
    "60 ms",
  );
  figuresAfter(evaluator, ten, tell);
  memory(first.stages.map((s) => s.motion).concat(first.result), clip.frameCount * clip.jointCount);
}

function figuresAfter(evaluator: Evaluator, ten: (degrees: number) => Work, tell: (what: string, ms: number, target: string) => void): void {
  let slice = 0;
  let total = 0;
  const measure = (motions: readonly Motion[]) => {
    total = 0;
    slice = 0;
    for (const motion of new Set(motions)) {
      const steps = measureSteps(motion);
      for (;;) {
        const started = performance.now();
        const { done } = steps.next();
        const took = performance.now() - started;
        slice = Math.max(slice, took);
        total += took;
        if (done) break;
      }
    }
  };
  // Of the three times, the last: by then the machine's code is warm, and all but what changes is measured.
  for (const degrees of [21, 22, 23]) {
    const { base, stages, result } = evaluator.evaluate(ten(degrees));
    measure([base, ...stages.slice(-2).map((s) => s.motion), result]);
  }
  tell("figures after that", total, "500 ms");
  tell("  its longest step without letting others in", slice, "50 ms");
}

/** What the motions of a stack hold, against the source clip and its world transforms. */
function memory(motions: readonly Motion[], samples: number): void {
  const chunks = new Set<Float32Array>();
  for (const { clip, settled } of motions)
    for (const of of [clip, settled]) if (of) for (const track of [...of.rotations, ...of.positions]) for (const chunk of track) chunks.add(chunk);
  let bytes = 0;
  for (const chunk of chunks) bytes += chunk.byteLength;
  const source = samples * 4 * 4;
  const world = samples * 7 * 4;
  row("  samples held for ten patches, against source and world", `${((bytes + world) / (source + world)).toFixed(2)} ×`, "1.5 ×");
}

function touchUp(id: string, frame: number, degrees: number): Patch {
  return {
    ...makePatch("touchUp", id, id, {
      at: frame / FPS,
      edits: [{ op: "turn", parts: [{ role: "spine" }], space: "own", degrees: [degrees, 0, 0], shared: false, pivot: null }],
      holds: [],
    }),
    range: { start: (frame - 4) / FPS, end: (frame + 4) / FPS },
    rampIn: 20 / FPS,
    rampOut: 20 / FPS,
  };
}

function layer(value: number): Patch {
  const key = (at: number, v: number) => ({ at, value: v, tangent: "smooth" });
  const target = { drives: "turn", part: { role: "leftUpperArm" }, axis: "x" };
  return makePatch("layer", "layer", "layer", { channels: [{ target, keys: [key(1, 0), key(60, value), key(119, 0)] }] });
}

/** The default recipe with another setting of its plant, so that it is solved anew. */
function dropping(turn: number): Patch[] {
  return DEFAULT_RECIPE.patches.map((p) => (p.kind === "plant" ? { ...p, settings: { ...p.settings, hipsMayDropCm: 4 + (turn % 20) / 10 } } : p));
}
