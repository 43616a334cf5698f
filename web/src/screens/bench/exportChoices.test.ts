import { WRITE_ENDINGS } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { asked, choicesOf, kindLabel, NOTHING_CHOSEN, otherKinds, problemOf } from "./exportChoices.ts";

describe("what a kind of file leaves open", () => {
  it("is known for every kind that is written, and each is called something", () => {
    for (const ending of WRITE_ENDINGS) {
      expect(choicesOf(ending).length, ending).toBeGreaterThan(0);
      expect(kindLabel(ending)).not.toBe(ending);
    }
    expect(otherKinds(WRITE_ENDINGS, ".glb")).not.toContain(".glb");
    expect(otherKinds(WRITE_ENDINGS, ".glb")).not.toContain(".vrm");
    expect(otherKinds(WRITE_ENDINGS, ".glb")).toContain(".vrma");
  });

  it("is asked for only where it applies and differs from the usual", () => {
    const chosen = { ...NOTHING_CHOSEN, names: "vrm", thin: true, points: null } as const;
    expect(asked(".glb", chosen)).toEqual({ names: "vrm", thin: { degrees: 0.25, metres: 0.0005 } });
    expect(asked(".vrma", chosen)).toEqual({ thin: { degrees: 0.25, metres: 0.0005 } });
    expect(asked(".bvh", chosen)).toEqual({ names: "vrm" });
    expect(asked(".csv", { ...chosen, points: ["leftHeel"] })).toEqual({ points: ["leftHeel"] });
    expect(asked(".glb", { ...chosen, points: ["leftHeel"], names: "own" })).toEqual({ thin: { degrees: 0.25, metres: 0.0005 } });
    for (const ending of WRITE_ENDINGS) expect(asked(ending, NOTHING_CHOSEN)).toEqual({});
  });

  it("that cannot be written is told, of the kind at hand alone", () => {
    expect(problemOf(".trc", { ...NOTHING_CHOSEN, points: [] })).toMatch(/at least one point/);
    expect(problemOf(".glb", { ...NOTHING_CHOSEN, points: [] })).toBeNull();
    expect(problemOf(".glb", { ...NOTHING_CHOSEN, thin: true, degrees: Number.NaN })).toMatch(/0 to 90/);
    expect(problemOf(".glb", { ...NOTHING_CHOSEN, degrees: -1 })).toBeNull();
    expect(problemOf(".glb", { ...NOTHING_CHOSEN, thin: true })).toBeNull();
  });
});
