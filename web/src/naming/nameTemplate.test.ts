import { describe, expect, it } from "vitest";
import { fillTemplate, freeNumber } from "./nameTemplate.ts";

describe("a name template", () => {
  it("is filled with what is known; the rest stays, and nothing that a file cannot be called", () => {
    expect(fillTemplate("{name}_{side} {what}", { name: "Walk", side: "left" })).toBe("Walk_left {what}");
    expect(fillTemplate("a/b:{name}?", { name: "x" })).toBe("a-b-x-");
    expect(fillTemplate("  ", {})).toBe("clip");
  });

  it("counts on to the first number that makes a free name", () => {
    const values = { name: "Walk" };
    expect(freeNumber("{name} {n}", values, [])).toBe(1);
    expect(freeNumber("{name} {n}", values, ["Walk 1", "Walk 2", "Walk 4"])).toBe(3);
    expect(freeNumber("{name} {n}", values, ["Walk 1", "Walk 2"])).toBe(3);
    expect(freeNumber("{name}", values, ["Walk"])).toBe(1);
  });
});
