import { readdirSync, readFileSync } from "node:fs";
import { demoClips } from "@stride/demo";
import { Evaluator, oneSource, PoseFrame, RECIPE_FORMAT, readMotion, readRecipe, readWork, WORK_FORMAT, writeFresh } from "@stride/motion";
import { describe, expect, it } from "vitest";

/** A work as version 1 saved it, with world positions [joint][3] that version 1 made of it on some frames, metres. */
interface Kept {
  readonly clip: string;
  readonly document: Record<string, unknown>;
  readonly result: { readonly frameCount: number; readonly frames: readonly number[]; readonly positions: readonly (readonly number[])[] };
}

const folder = new URL("./kept/", import.meta.url);
const kept = readdirSync(folder)
  .filter((name) => name.endsWith(".json"))
  .map((name) => JSON.parse(readFileSync(new URL(name, folder), "utf8")) as Kept);

/** The demo's clip as a library keeps it: a file in centimetres. */
function sourceOf(id: string) {
  const demo = demoClips().find((c) => c.id === id);
  if (!demo) throw new Error(`no clip ${id}`);
  const text = [...writeFresh(demo.truth.character.skeleton, demo.clip, 0.01)].join("");
  return readMotion(new TextEncoder().encode(text), { fileName: `${id}.bvh` });
}

describe("works kept from version 1", () => {
  it("are six, and hold every kind of patch there was", () => {
    const kinds = new Set(kept.flatMap((k) => (k.document.patches as { kind: string }[]).map((p) => p.kind)));
    expect(kept).toHaveLength(6);
    expect([...kinds].sort()).toEqual(["amplitude", "floor", "handShape", "layer", "plant", "repair", "touchUp", "trim"]);
    expect(kept.every((k) => k.document.format === "patch-stride.work/1")).toBe(true);
  });

  it.each(kept)("$clip opens, and evaluates to the motion that it made then, within a thousandth of a millimetre", ({ clip: id, document, result: was }) => {
    const { skeleton, clip } = sourceOf(id);
    const work = readWork(document, { fps: clip.fps });
    expect(work.format).toBe(WORK_FORMAT);
    const { result } = new Evaluator(oneSource(skeleton, clip)).evaluate(work);
    expect(result.clip.frameCount).toBe(was.frameCount);
    const frame = new PoseFrame(skeleton, result.clip);
    let worst = 0;
    was.frames.forEach((f, i) => {
      frame.load(result.clip, f);
      was.positions[i].forEach((v, c) => {
        worst = Math.max(worst, Math.abs(frame.worldPositions[c] - v));
      });
    });
    expect(worst).toBeLessThan(1e-6);
  });

  it("read again as they were written anew: nothing is lost on the way", () => {
    for (const { clip: id, document } of kept) {
      const { clip } = sourceOf(id);
      const work = readWork(document, { fps: clip.fps });
      expect(readWork(JSON.parse(JSON.stringify(work)), { fps: clip.fps })).toEqual(work);
    }
  });

  it("and recipes of then run in seconds of the clip at hand", () => {
    const recipe = {
      format: "patch-stride.recipe/1",
      name: "Then",
      patches: [{ id: "t", kind: "trim", name: "Trim", settings: { keepFromFrame: 12, keepToFrame: 60 } }],
    };
    expect(readRecipe(recipe, { fps: 60 })).toMatchObject({ format: RECIPE_FORMAT, patches: [{ settings: { from: 0.2, to: 1 } }] });
    expect(readRecipe(recipe, { fps: 30 })).toMatchObject({ patches: [{ settings: { from: 0.4, to: 2 } }] });
    expect(readRecipe({ format: RECIPE_FORMAT, name: "Short", patches: [{ kind: "plant" }] }, { fps: 30 }).patches[0]).toMatchObject({
      name: "Plant feet",
      weight: 1,
      range: null,
    });
  });
});
