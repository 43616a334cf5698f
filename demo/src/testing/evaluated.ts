import { type Clip, clipWorld, Evaluator, emptyWork, makePatch, oneSource, type Patch, type SourceRef, SuppliedSources, type Work } from "@stride/motion";
import { demoClips } from "../clips.ts";
import type { Performance } from "../performance.ts";

const clips = new Map(demoClips().map((c) => [c.id, c]));
export const demo = (id: string) => {
  const found = clips.get(id);
  if (!found) throw new Error(`no clip ${id}`);
  return found;
};
export const WALK = "porter-night-shift-walk";
export const JOG = "porter-late-for-the-ferry";
export const GOAT = "goat-down-the-quay";
export const GAITS = [WALK, JOG, GOAT];

export const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });
export const floorAndPlant = [makePatch("floor", "floor", "floor"), makePatch("plant", "plant", "plant")];
const evaluators = new Map<string, Evaluator>();
export const evaluator = (id: string) => {
  const { truth, clip } = demo(id);
  const known = evaluators.get(id) ?? new Evaluator(oneSource(truth.character.skeleton, clip));
  evaluators.set(id, known);
  return known;
};
export const evaluate = (id: string, ...patches: Patch[]) => evaluator(id).evaluate(work(...patches)).result;
export const ofTruth = (id: string, ...patches: Patch[]) => {
  const { truth } = demo(id);
  return new Evaluator(oneSource(truth.character.skeleton, truth.clip)).evaluate(work(...patches)).result;
};
export const retime = (beats: readonly (readonly [number, number])[], rest: Partial<Patch> = {}, id = "retime"): Patch => ({
  ...makePatch("retime", "Retime", id, { beats: beats.map(([from, to]) => ({ from, to })) }),
  ...rest,
});

/** How far the true stance points of a performance slide in a clip: each span's furthest from its middle, centimetres. `shown` gives the frame of the clip that shows a frame of the truth. */
export function trueSlides(truth: Performance, clip: Clip, shown: (frame: number) => number): number[] {
  const world = clipWorld(truth.character.skeleton, clip);
  const out: number[] = [];
  for (const { joint, start, end } of truth.contacts) {
    // The joint itself, in the part of its stance in which it surely rests: a heel joint rolls at both ends.
    const [a, b] = [shown(start + 0.3 * (end - start)), shown(start + 0.7 * (end - start))];
    const frames = [];
    for (let f = Math.ceil(a); f <= Math.floor(b); f++) if (f >= 0 && f < clip.frameCount) frames.push(f);
    if (frames.length < 3) continue;
    const middle = frames[frames.length >> 1];
    const at = (f: number, i: number) => world.positions[(f * world.jointCount + joint) * 3 + i];
    out.push(100 * Math.max(...frames.map((f) => Math.hypot(at(f, 0) - at(middle, 0), at(f, 2) - at(middle, 2)))));
  }
  return out;
}

export const toes = (truth: Performance): Performance => ({ ...truth, contacts: truth.contacts.filter((c) => /Toe|Fore|Hind/.test(c.point)) });

/** A reference to a clip of the demo, as if by its content. */
export const refOf = (id: string): SourceRef => ({
  name: `${id}.bvh`,
  sha256: Array.from(id.padEnd(32, "-").slice(-32), (c) => c.charCodeAt(0).toString(16).padStart(2, "0")).join(""),
});

/** Sources of a clip of the demo with every other one beside it, so that works can draw on them. */
export const withOthers = (id: string, others: readonly string[]) => {
  const source = (name: string) => ({ skeleton: demo(name).truth.character.skeleton, clip: demo(name).clip });
  return new SuppliedSources(
    source(id),
    others.map((name) => ({ ref: refOf(name), work: null, ...source(name) })),
  );
};

/** A work on one clip of the demo that draws on others. */
export const evaluateWith = (id: string, others: readonly string[], ...patches: Patch[]) => new Evaluator(withOthers(id, others)).evaluate(work(...patches));
