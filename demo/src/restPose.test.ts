import { ClipDraft, characterIn, restPoseOf, type Skeleton } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { INA, PIM } from "./characters.ts";
import { about } from "./turn.ts";

function at(skeleton: Skeleton) {
  const draft = ClipDraft.make("still", 30, 1, skeleton.names.length, Int16Array.of(0));
  skeleton.names.forEach((_, j) => {
    draft.setRotation(j, 0, [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)]);
  });
  draft.setPosition(0, 0, [0, 1, 0]);
  return characterIn({ skeleton, clip: draft.done() }).character;
}

/** Ina resting with her arms so many degrees down. */
function armsDown(degrees: number): Skeleton {
  const rest = INA.skeleton.restRotations.slice();
  const turn = (degrees * Math.PI) / 180;
  rest.set(about("z", -turn), (INA.roles.leftUpperArm as number) * 4);
  rest.set(about("z", turn), (INA.roles.rightUpperArm as number) * 4);
  return { ...INA.skeleton, restRotations: rest };
}

describe("a rest pose", () => {
  it.each([
    [0, "T"],
    [10, "T"],
    [45, "A"],
    [85, "arms down"],
    [-50, "arms up"],
  ])("with arms %d° down is called %s", (degrees, name) => {
    const { name: found, armsDownDegrees } = restPoseOf(at(armsDown(degrees)));
    expect(found).toBe(name);
    expect(armsDownDegrees).toBeCloseTo(degrees, 3);
  });

  it("of an animal is none of these", () => {
    expect(restPoseOf(at(PIM.skeleton))).toEqual({ name: "unknown", armsDownDegrees: null });
  });
});
