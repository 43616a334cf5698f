import { makePatch, type Patch, type StoredPose } from "@stride/motion";
import type { KeptPatches, PoseRow } from "@stride/server";
import { beforeEach, describe, expect, it } from "vitest";
import { initialState, useBench } from "../state/bench.ts";
import { addKept, placedAt } from "./patchActions.ts";
import { shelfItems, takeFromShelf } from "./shelf.ts";

const ranged = (id: string, start: number, end: number): Patch => ({ ...makePatch("repair", id, id), range: { start, end }, rampIn: 0.2 });
const kept = (patches: Patch[] | null): KeptPatches => ({
  id: "k",
  name: "Knees",
  recipe: patches && { format: "patch-stride.recipe/2", name: "Knees", patches },
  problem: patches ? null : "broken",
  createdAt: "",
});

describe("the shelf", () => {
  beforeEach(() => useBench.setState({ ...initialState(), clocks: { fps: 30, seconds: 5, warps: [], receives: {} } }));

  it("holds what can be used: poses, hand shapes and patches; what cannot be read is left out", () => {
    const pose = { id: "p", kind: "pose", name: "Ready", data: {} as StoredPose, picture: "", createdAt: "" } as unknown as PoseRow;
    const hand = { id: "h", kind: "hand", name: "Grip", data: {}, picture: "", createdAt: "" } as unknown as PoseRow;
    const items = shelfItems([pose, hand, { id: "u", kind: "unreadable" }], [kept([ranged("a", 1, 2)]), kept(null)]);
    expect(items.map((i) => [i.is, i.id])).toEqual([
      ["pose", "p"],
      ["hand", "h"],
      ["patches", "k"],
    ]);
  });

  it("lays patches on so that the first range begins at the frame, in one step; those without a range stay whole", () => {
    const recipe = { patches: [makePatch("floor", "Floor", "f"), ranged("a", 1, 1.5), ranged("b", 2, 2.25)] };
    addKept("Knees", recipe, 45);
    const { doc, past } = useBench.getState();
    expect(doc.patches.map((p) => [p.name, p.range])).toEqual([
      ["Floor", null],
      ["a", { start: 1.5, end: 2 }],
      ["b", { start: 2.5, end: 2.75 }],
    ]);
    expect(doc.patches[1].rampIn).toBeCloseTo(0.2, 12);
    expect(past.map((s) => s.label)).toEqual(["Add Knees"]);
    // Ids are their own, however often they are laid on.
    addKept("Knees", recipe, 0);
    const ids = useBench.getState().doc.patches.map((p) => p.id);
    expect(new Set(ids).size).toBe(6);
    expect(placedAt([makePatch("floor", "Floor", "f")], 3)[0].range).toBeNull();
  });

  it("puts a hand shape on both hands as a patch of its name", async () => {
    const shape = { thumb: 1 };
    const hand = { id: "h", kind: "hand", name: "Grip", data: shape, picture: "", createdAt: "" } as unknown as Extract<PoseRow, { kind: "hand" }>;
    await takeFromShelf({ is: "hand", id: "h", row: hand }, 10);
    const [patch] = useBench.getState().doc.patches;
    expect([patch.kind, patch.name, patch.settings.left, patch.settings.right]).toEqual(["handShape", "Grip", shape, shape]);
  });
});
