import { emptyWork, makePatch, type SettleSettings } from "@stride/motion";
import { beforeEach, describe, expect, it } from "vitest";
import type { SettleView } from "../worker/views.ts";
import { initialState, useBench } from "./bench.ts";
import { recordedFrames } from "./record.ts";
import { moveLanding, settleOf, withLanding } from "./settling.ts";

const patch = makePatch("settle", "Settle", "s", { at: 1.6 });
const view: SettleView = {
  landings: [
    { point: "leftHind", lift: 5, land: 15 },
    { point: "rightHind", lift: 20, land: 30 },
  ],
  target: null,
  differences: [],
};
const landings = (settings: Record<string, unknown>) => (settings as Partial<SettleSettings>).landings;

describe("landings of a settle", () => {
  beforeEach(() => useBench.setState({ ...initialState(), doc: { ...emptyWork(), patches: [patch] }, patchId: "s" }, true));

  it("are all written once one is moved, the others where they were proposed", () => {
    const doc = withLanding(useBench.getState().doc, patch, view.landings, "rightHind", 24, 30);
    expect(landings(doc.patches[0].settings)).toEqual([
      { point: "leftHind", at: 0.5 },
      { point: "rightHind", at: 0.8 },
    ]);
  });

  it("follow the hand without being written, are one step when let go, and never lie on the first frame", () => {
    moveLanding(patch, view, "leftHind", 12, 30, false);
    expect(useBench.getState().past).toHaveLength(0);
    expect(landings(useBench.getState().draft?.patches[0].settings ?? {})?.[0]).toEqual({ point: "leftHind", at: 0.4 });
    moveLanding(patch, view, "leftHind", -8, 30, true);
    expect(useBench.getState().past).toHaveLength(1);
    expect(landings(useBench.getState().doc.patches[0].settings)?.[0]).toEqual({ point: "leftHind", at: 1 / 30 });
  });

  it("are those of the patch that is picked, while it takes part", () => {
    expect(settleOf(useBench.getState())?.id).toBe("s");
    useBench.setState({ patchId: null });
    expect(settleOf(useBench.getState())).toBeNull();
    useBench.setState({ patchId: "s", doc: { ...emptyWork(), patches: [{ ...patch, muted: true }] } });
    expect(settleOf(useBench.getState())).toBeNull();
  });
});

describe("a recording", () => {
  it("is what lies between two presses, whichever way one went", () => {
    expect(recordedFrames(10, 40)).toEqual([10, 40]);
    expect(recordedFrames(40, 10)).toEqual([10, 40]);
  });
});
