import { type Clip, Evaluator, figureClip, jointTrack, type Motion, makePatch, type Patch, readPosition, SuppliedSources } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo, floorAndPlant, refOf, WALK, work } from "./testing/evaluated.ts";

const SLOW = "porter-unhurried-walk";
const CROUCHED = "porter-crouched-walk";

/** A performance with the even part of its way taken out. */
function spot(id: string): Clip {
  const { clip } = demo(id).truth;
  const n = clip.frameCount;
  const place = (f: number) => {
    const p = [0, 0, 0];
    readPosition(clip, 0, f, p, 0);
    return p;
  };
  const [a, b] = [place(0), place(n - 1)];
  const positions = clip.positions.map((track, s) => {
    let f = -1;
    return track.map((chunk) =>
      chunk.map((v, i) => {
        if (i % 3 === 0) f++;
        return s === 0 && i % 3 !== 1 ? v - ((b[i % 3] - a[i % 3]) * f) / (n - 1) : v;
      }),
    );
  });
  return { ...clip, positions };
}

const sourceOf = (id: string, clip: Clip) => ({ skeleton: demo(id).truth.character.skeleton, clip });
const evaluate = (id: string, others: readonly string[], ...patches: Patch[]) =>
  new Evaluator(
    new SuppliedSources(
      sourceOf(id, spot(id)),
      others.map((name) => ({ ref: refOf(name), work: null, ...sourceOf(name, spot(name)) })),
    ),
  ).evaluate(work(...patches)).result;

/** The furthest that the hips of what is shown, and exported, go from where they begin, metres. */
function strays(motion: Motion): number {
  const p = jointTrack(motion.character.skeleton, figureClip(motion), motion.character.rig.hips).positions;
  return Math.max(...Array.from({ length: p.length / 3 }, (_, f) => Math.hypot(p[f * 3] - p[0], p[f * 3 + 2] - p[2])));
}
/** How far the same go over their ground. */
function goes(motion: Motion): number {
  const p = jointTrack(motion.character.skeleton, motion.clip, motion.character.rig.hips).positions;
  return Math.hypot(p[p.length - 3] - p[0], p[p.length - 1] - p[2]);
}

describe("a walk on the spot stays there, over a ground that passes", () => {
  it("as it comes, and planted", () => {
    for (const patches of [[], floorAndPlant]) {
      const motion = evaluate(WALK, [], ...patches);
      expect(strays(motion)).toBeLessThan(0.08);
      expect(goes(motion)).toBeGreaterThan(3);
    }
  });

  it("repeated, whatever its travel is to do", () => {
    for (const travel of ["carry", "spot", "return"]) {
      const motion = evaluate(WALK, [], ...floorAndPlant, makePatch("loop", "Loop", "loop", { repeats: 3, travel }));
      expect(strays(motion), travel).toBeLessThan(0.08);
    }
  });

  it("with another such walk behind it, at that one's speed, and with one laid over it", () => {
    for (const how of ["crossfade", "handOver"]) {
      const joined = evaluate(WALK, [SLOW], ...floorAndPlant, makePatch("join", "Join", "join", { clip: refOf(SLOW), how }));
      expect(strays(joined), how).toBeLessThan(0.12);
      expect(goes(joined), how).toBeGreaterThan(goes(evaluate(WALK, [])) + 0.8 * goes(evaluate(SLOW, [])));
    }
    const mixed = evaluate(WALK, [CROUCHED], ...floorAndPlant, makePatch("mix", "Mix", "mix", { clip: refOf(CROUCHED) }));
    expect(strays(mixed)).toBeLessThan(0.12);
    expect(mixed.groundTravel).not.toBeNull();
  });

  it("until the way is put in; then it goes as far as it did", () => {
    const motion = evaluate(WALK, [], makePatch("travel", "Travel", "travel", { travel: "feet" }));
    expect(strays(motion)).toBeGreaterThan(3);
    expect(motion.groundTravel).toBeNull();
  });
});
