import { INA, PIM } from "@stride/demo";
import { type BodyMap, restWorld } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { mirrorPairs, proportionsOf } from "./proportions.ts";

const mapOf = ({ plan, roles }: typeof INA): BodyMap => ({ plan, roles, guesses: [] });

describe("a body's proportions", () => {
  it("are the table's for a body that was built by the table", () => {
    const found = proportionsOf(INA.skeleton, mapOf(INA), restWorld(INA.skeleton).positions, 1.72);
    for (const name of ["Thigh", "Shin", "Upper arm", "Forearm"]) {
      const row = found.find((p) => p.name === name);
      expect(row?.share).toBeCloseTo(row?.usual as number, 6);
    }
    expect(found.find((p) => p.name === "Thigh")?.metres).toBeCloseTo(0.245 * 1.72, 6);
    // Along the spine's joints, not straight over one of them.
    expect(found.find((p) => p.name === "Trunk, hips to chest")?.metres).toBeCloseTo((0.06 + 0.075 + 0.08) * 1.72, 6);
    expect(found.find((p) => p.name === "Shoulders apart")?.metres).toBeCloseTo(2 * (0.02 + 0.092) * 1.72, 6);
  });

  it("of an animal are lengths alone, and what it lacks is left out", () => {
    const found = proportionsOf(PIM.skeleton, mapOf(PIM), restWorld(PIM.skeleton).positions, 0.78);
    expect(found.length).toBeGreaterThan(4);
    expect(found.every((p) => p.share === null && p.usual === null)).toBe(true);
    const { leftShin, ...without } = PIM.roles;
    expect(leftShin).toBeGreaterThan(0);
    expect(
      proportionsOf(PIM.skeleton, { plan: "quadruped", roles: without, guesses: [] }, restWorld(PIM.skeleton).positions, 1).some((p) => p.name === "Thigh"),
    ).toBe(false);
  });

  it("has partners for all parts of a side that the other has too", () => {
    const pairs = mirrorPairs(mapOf(INA));
    expect(pairs.length).toBe(Object.keys(INA.roles).filter((role) => role.startsWith("left")).length);
    const names = pairs.map(({ left, right }) => [INA.skeleton.names[left], INA.skeleton.names[right]]);
    for (const [left, right] of names) expect(right).toBe(left.replace("Left", "Right"));
  });
});
