import { emptyWork, type LayerSettings, makePatch, type Work } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { initialState, useBench } from "../state/bench.ts";
import { mergeDown } from "./patchActions.ts";

const layerIn = (work: Work, id: string) => work.patches.find((p) => p.id === id)?.settings as LayerSettings;

describe("merging a layer down", () => {
  const channel = (joint: string) => ({ target: { drives: "turn", part: { joint }, axis: "x" }, keys: [{ at: 0.2, value: 1, tangent: "smooth" }] });
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
    expect(layerIn(doc, "a").channels.map((c) => (c.target.drives === "turn" ? c.target.part : null))).toEqual([{ joint: "Head" }, { joint: "Chest" }]);
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
