import { curveValue, emptyWork, type LayerSettings, makePatch, type Work } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { initialState, useBench } from "../state/bench.ts";
import { mergeDown } from "../timedesk/patchActions.ts";
import type { CurveSpec, CurveView } from "../worker/views.ts";
import { applyToStretch, changeKey, moveKey, STRETCH_TOOLS, setKey, targetOf, zeroEnds } from "./curveEdits.ts";

const wave = Float64Array.from({ length: 60 }, (_, f) => 10 * Math.sin(f / 6));
const view: CurveView = { unit: "°", before: wave, input: wave, result: wave };
const spec: CurveSpec = { kind: "angle", joint: 3, axis: "y" };
const nameOf = (joint: number) => `J${joint}`;
const layerIn = (work: Work, id: string) => work.patches.find((p) => p.id === id)?.settings as LayerSettings;

describe("keys on curves", () => {
  it("stand between two of zero when they are a curve's first and add; further keys take what the result lacks", () => {
    const first = setKey(emptyWork(), null, spec, view, 30, wave[30] + 5, nameOf);
    const layer = layerIn(first.doc, first.patchId);
    expect(layer.mode).toBe("additive");
    expect(layer.channels[0].target).toEqual({ drives: "turn", joint: "J3", axis: "y" });
    expect(layer.channels[0].keys.map((k) => [k.frame, Math.round(k.value * 1e4) / 1e4])).toEqual([
      [18, 0],
      [30, 5],
      [42, 0],
    ]);
    const shown = { ...view, result: wave.map((v, f) => v + curveValue(layer.channels[0].keys, f)) };
    const second = setKey(first.doc, first.patchId, spec, shown, 24, 2, nameOf);
    const keys = layerIn(second.doc, second.patchId).channels[0].keys;
    expect(wave[24] + curveValue(keys, 24)).toBeCloseTo(2, 4);
  });

  it("are moved, given tangents, deleted, and closed off with zeros at both ends", () => {
    const { doc, patchId } = setKey(emptyWork(), null, spec, view, 30, wave[30] + 5, nameOf);
    const target = targetOf(spec, "additive", nameOf);
    const moved = moveKey(doc, patchId, target, 30, 4, -2, 59);
    expect(layerIn(moved, patchId).channels[0].keys[1]).toMatchObject({ frame: 34, value: 3 });
    expect(layerIn(moveKey(doc, patchId, target, 30, 400, 0, 59), patchId).channels[0].keys.at(-1)?.frame).toBe(59);
    expect(layerIn(changeKey(doc, patchId, target, 30, { tangent: "stepped" }), patchId).channels[0].keys[1].tangent).toBe("stepped");
    expect(layerIn(changeKey(doc, patchId, target, 18, null), patchId).channels[0].keys).toHaveLength(2);
    expect(layerIn(zeroEnds(doc, patchId, 59), patchId).channels[0].keys.map((k) => k.frame)).toEqual([0, 18, 30, 42, 59]);
  });
});

describe("operations on a stretch", () => {
  it.each(STRETCH_TOOLS.map((t) => t.id))("%s writes few keys that take the curve over there alone, close to what it computes", (tool) => {
    const stretch = { start: 10, end: 40 };
    const amount = { flat: 4, smooth: 3, bridge: 0, scaleAverage: 50, scaleDefault: 50, scaleHere: 50, shift: 3, later: 5, slower: 150, thin: 0.4 }[tool];
    const { doc, patchId } = applyToStretch(emptyWork(), null, spec, view, stretch, tool, amount, 20, nameOf, tool);
    const { mode, channels } = layerIn(doc, patchId);
    expect(mode).toBe("override");
    const { keys } = channels[0];
    expect(keys[0].frame).toBe(10);
    expect(keys.at(-1)?.frame).toBe(40);
    expect(keys.length).toBeLessThan(24);
    const at = (f: number) => curveValue(keys, f);
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
    const first = applyToStretch(emptyWork(), null, spec, view, { start: 2, end: 12 }, "flat", 1, 0, nameOf, "one");
    const second = applyToStretch(first.doc, first.patchId, spec, view, { start: 30, end: 40 }, "flat", 1, 0, nameOf, "two");
    expect(second.patchId).not.toBe(first.patchId);
    const over = applyToStretch(first.doc, first.patchId, spec, view, { start: 8, end: 20 }, "flat", 1, 0, nameOf, "three");
    expect(over.patchId).toBe(first.patchId);
  });
});

describe("merging a layer down", () => {
  const channel = (joint: string) => ({ target: { drives: "turn", joint, axis: "x" }, keys: [{ frame: 5, value: 1, tangent: "smooth" }] });
  const layer = (id: string, joint: string, rest = {}) => ({
    ...makePatch("layer", id, id, { mode: "additive", composeIn: "own", channels: [channel(joint)], holds: [] }),
    ...rest,
  });
  const open = (...patches: Work["patches"]) => useBench.setState({ ...initialState(), doc: { ...emptyWork(), patches } });

  it("joins curves of two layers of one kind in one step, and refuses what would change the motion", () => {
    open(layer("a", "Head"), layer("b", "Chest"));
    expect(mergeDown(useBench.getState().doc.patches[1])).toBe(true);
    const { doc, past } = useBench.getState();
    expect(doc.patches).toHaveLength(1);
    expect(layerIn(doc, "a").channels.map((c) => (c.target.drives === "turn" ? c.target.joint : ""))).toEqual(["Head", "Chest"]);
    expect(past).toHaveLength(1);
    for (const [below, above] of [
      [layer("a", "Head"), layer("b", "Head")],
      [layer("a", "Head", { weight: 0.5 }), layer("b", "Chest")],
      [makePatch("plant", "a", "a"), layer("b", "Chest")],
    ]) {
      open(below, above);
      expect(mergeDown(above)).toBe(false);
      expect(useBench.getState().doc.patches).toHaveLength(2);
    }
  });
});
