import { ClipDraft, characterIn, type Motion, type Skeleton } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { provenPoints } from "../../motion/src/cast/standingPoints.ts";
import { INA } from "./characters.ts";
import { bodyOf } from "./testing/bodies.ts";
import { ofTruth, WALK } from "./testing/evaluated.ts";

/** A body at rest with its hips so high. */
function at(skeleton: Skeleton, height: number): Motion {
  const draft = ClipDraft.make("still", 30, 1, skeleton.names.length, Int16Array.of(0));
  skeleton.names.forEach((_, j) => {
    draft.setRotation(j, 0, [0, 0, 0, 1]);
  });
  draft.setPosition(0, 0, [0, height, 0]);
  return characterIn({ skeleton, clip: draft.done() });
}
/** Hips over soles as the body was built: hip, thigh, shin, ankle (shares of height). */
const STANDING = (0.02 + 0.245 + 0.246 + 0.039) * 1.72;
const point = (m: Motion | { points: Motion["points"] }, id: string) => {
  const found = m.points.find((p) => p.id === id);
  if (!found) throw new Error(`no ${id}`);
  return found;
};

describe("soles of a body that does not move", () => {
  it("are read off how it stands: the toe's joint as high as it was built, the heel down to the ground", () => {
    const ina = at(INA.skeleton, STANDING);
    expect(point(ina, "leftToe").clearance).toBeCloseTo(0.008 * 1.72, 4);
    expect(point(ina, "leftHeel").local[1]).toBeCloseTo(-INA.ankleHeight, 4);
  });

  it("say nothing where it hangs in the air", () => {
    expect(point(at(INA.skeleton, 3), "leftToe").clearance).toBe(0);
  });

  it("lie as far behind the foot as on the body that is cast, in proportion to its foot", () => {
    const walk = ofTruth(WALK);
    const heel = point(walk, "leftHeel").local;
    const same = provenPoints(at(INA.skeleton, STANDING), walk).find((p) => p.id === "leftHeel");
    expect(same?.local[2]).toBeCloseTo(heel[2], 6);
    const tall = bodyOf(2.75, 1.1, 2, 2);
    const there = provenPoints(at(tall.skeleton, (STANDING * 2.75) / 1.72), walk).find((p) => p.id === "leftHeel");
    expect(there?.local[2]).toBeCloseTo((heel[2] * 2.75) / 1.72, 3);
    expect(there?.local[1]).toBeCloseTo(-tall.ankleHeight, 3);
  });
});
