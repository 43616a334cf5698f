import { curveValue, emptyWork, type Key, type LayerSettings, type Work } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { STRETCH_TOOLS, type StretchTool, stretchKeys } from "../worker/stretchTools.ts";
import type { CurveSpec, CurveView } from "../worker/views.ts";
import { changeKey, moveKey, putStretch, setKey, targetOf, zeroEnds } from "./curveEdits.ts";

const wave = Float64Array.from({ length: 60 }, (_, f) => 10 * Math.sin(f / 6));
const FPS = 30;
const view: CurveView = { unit: "°", fps: FPS, before: wave, result: wave };
const spec: CurveSpec = { kind: "angle", joint: 3, axis: "y" };
const parts = { skeleton: { names: ["J0", "J1", "J2", "J3"] }, body: { roles: {} } };
/** A frame of the result, on a layer that receives the same time. */
const place = (frame: number) => ({ frame, moment: frame / FPS });
/** Keys by their frames. */
const frames = (keys: readonly Key[]) => keys.map((k) => Math.round(k.at * FPS));
const layerIn = (work: Work, id: string) => work.patches.find((p) => p.id === id)?.settings as LayerSettings;

describe("keys on curves", () => {
  it("stand between two of zero when they are a curve's first and add; further keys take what the result lacks", () => {
    const first = setKey(emptyWork(), null, spec, view, place(30), wave[30] + 5, parts);
    const layer = layerIn(first.doc, first.patchId);
    expect(layer.mode).toBe("additive");
    expect(layer.channels[0].target).toEqual({ drives: "turn", part: { joint: "J3" }, axis: "y" });
    expect(layer.channels[0].keys.map((k) => [Math.round(k.at * FPS), Math.round(k.value * 1e4) / 1e4])).toEqual([
      [18, 0],
      [30, 5],
      [42, 0],
    ]);
    const shown = { ...view, result: wave.map((v, f) => v + curveValue(layer.channels[0].keys, f / FPS)) };
    const second = setKey(first.doc, first.patchId, spec, shown, place(24), 2, parts);
    const keys = layerIn(second.doc, second.patchId).channels[0].keys;
    expect(wave[24] + curveValue(keys, 24 / FPS)).toBeCloseTo(2, 4);
  });

  it("are moved, given tangents, deleted, and closed off with zeros at both ends", () => {
    const { doc, patchId } = setKey(emptyWork(), null, spec, view, place(30), wave[30] + 5, parts);
    const target = targetOf(spec, "additive", parts);
    const moved = moveKey(doc, patchId, target, 1, 4 / FPS, -2, 59 / FPS);
    expect(layerIn(moved, patchId).channels[0].keys[1]).toMatchObject({ at: 34 / FPS, value: 3 });
    expect(layerIn(moveKey(doc, patchId, target, 1, 400 / FPS, 0, 59 / FPS), patchId).channels[0].keys.at(-1)?.at).toBe(59 / FPS);
    expect(layerIn(changeKey(doc, patchId, target, 1, { tangent: "stepped" }), patchId).channels[0].keys[1].tangent).toBe("stepped");
    expect(layerIn(changeKey(doc, patchId, target, 18 / FPS, null), patchId).channels[0].keys).toHaveLength(2);
    expect(frames(layerIn(zeroEnds(doc, patchId, 59 / FPS), patchId).channels[0].keys)).toEqual([0, 18, 30, 42, 59]);
  });
});

/** An operation on a stretch (frames), written to a work. */
function stretched(doc: Work, patchId: string | null, stretch: { start: number; end: number }, tool: StretchTool, amount: number, playhead: number) {
  const keys = stretchKeys({ samples: wave, fps: FPS, stretch, tool, amount, playhead });
  return putStretch(doc, patchId, spec, { start: stretch.start / FPS, end: stretch.end / FPS }, keys, (m) => m, parts, tool);
}

describe("operations on a stretch", () => {
  it.each(STRETCH_TOOLS.map((t) => t.id))("%s writes few keys that take the curve over there alone, close to what it computes", (tool) => {
    const stretch = { start: 10, end: 40 };
    const amount = { flat: 4, smooth: 3, bridge: 0, scaleAverage: 50, scaleDefault: 50, scaleHere: 50, shift: 3, later: 5, slower: 150, thin: 0.4 }[tool];
    const { doc, patchId } = stretched(emptyWork(), null, stretch, tool, amount, 20);
    const { mode, channels } = layerIn(doc, patchId);
    expect(mode).toBe("override");
    const { keys } = channels[0];
    expect(frames(keys)[0]).toBe(10);
    expect(frames(keys).at(-1)).toBe(40);
    expect(keys.length).toBeLessThan(24);
    const at = (f: number) => curveValue(keys, f / FPS);
    const mean = wave.slice(10, 41).reduce((a, b) => a + b, 0) / 31;
    const expected: Partial<Record<typeof tool, (f: number) => number>> = {
      flat: () => 4,
      scaleAverage: (f) => mean + 0.5 * (wave[f] - mean),
      scaleDefault: (f) => 0.5 * wave[f],
      scaleHere: (f) => wave[20] + 0.5 * (wave[f] - wave[20]),
      shift: (f) => wave[f] + 3,
      later: (f) => wave[f - 5],
      thin: (f) => wave[f],
    };
    const wanted = expected[tool];
    if (wanted) for (const f of [18, 25, 33]) expect(Math.abs(at(f) - wanted(f)), `frame ${f}`).toBeLessThanOrEqual(tool === "thin" ? 0.4 : 0.051);
  });

  it("keeps to a layer of its own where the curve has keys elsewhere", () => {
    const first = stretched(emptyWork(), null, { start: 2, end: 12 }, "flat", 1, 0);
    const second = stretched(first.doc, first.patchId, { start: 30, end: 40 }, "flat", 1, 0);
    expect(second.patchId).not.toBe(first.patchId);
    const over = stretched(first.doc, first.patchId, { start: 8, end: 20 }, "flat", 1, 0);
    expect(over.patchId).toBe(first.patchId);
  });
});
