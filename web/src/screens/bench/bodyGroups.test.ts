import { describe, expect, it } from "vitest";
import { bodyGroups, withGroup } from "./bodyGroups.ts";

const names = ["Root", "Hips", "Spine", "Head", "LEye", "LArm", "LThumb", "LThigh", "LToe", "Tail", "Coat"];
const parents = Int16Array.of(-1, 0, 1, 2, 3, 2, 5, 1, 7, 1, 2);
const roles = { hips: 1, spine: 2, head: 3, leftUpperArm: 5, leftThigh: 7, leftToe: 8, tail: 9 };

describe("parts that people take together", () => {
  it("are those that the body map knows, with what hangs on them; what stands over the hips goes with them", () => {
    expect(bodyGroups({ names, parents }, { roles })).toEqual([
      "hips",
      "hips",
      "trunk",
      "head",
      "head",
      "left arm",
      "left arm",
      "left leg",
      "left leg",
      "tail",
      "trunk",
    ]);
    expect(bodyGroups({ names: ["A", "B"], parents: Int16Array.of(-1, 0) }, { roles: {} })).toEqual(["rest", "rest"]);
  });

  it("go in together unless all are in, then out together", () => {
    expect([...withGroup(new Set([1]), [5, 6])].sort()).toEqual([1, 5, 6]);
    expect([...withGroup(new Set([1, 5]), [5, 6])].sort()).toEqual([1, 5, 6]);
    expect([...withGroup(new Set([1, 5, 6]), [5, 6])]).toEqual([1]);
  });
});
