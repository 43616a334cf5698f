import { describe, expect, it } from "vitest";
import type { ContactPoint } from "../character/contactPoints.ts";
import { ClipDraft } from "../clip/clip.ts";
import { expQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { identityRest } from "../skeleton/skeleton.ts";
import { findGrips } from "./findGrips.ts";
import { jointTrack } from "./tracks.ts";

const FPS = 60;
const FRAMES = 240;
const skeleton = {
  names: ["Hand"],
  parents: Int16Array.of(-1),
  offsets: new Float64Array(3),
  tips: [null],
  restRotations: identityRest(1),
} as unknown as Parameters<typeof jointTrack>[0];
const palm = { id: "leftHand", joint: 0, local: [0.045, 0, 0], limb: 0 } as unknown as ContactPoint;
const hips = Float64Array.from({ length: FRAMES * 3 }, (_, i) => (i % 3 === 0 ? 0.2 * Math.sin(i / 90) : 1));

/** A hand that turns by up to `swing` radians about two axes, its point `grip` in one place from frame 60 to 200 and carried off by 60 cm a second outside. */
function gripping(grip: readonly number[], swing: number) {
  const draft = ClipDraft.make("grip", FPS, FRAMES, 1, Int16Array.of(0));
  const q = new Float64Array(4);
  const v = new Float64Array(3);
  for (let f = 0; f < FRAMES; f++) {
    expQuatFlat(q, 0, [swing * Math.sin(f / 14), 0, swing * Math.cos(f / 19)], 0);
    rotateVecFlat(v, 0, q, 0, [...grip], 0);
    const away = (0.6 / FPS) * (f < 60 ? 60 - f : f > 200 ? f - 200 : 0);
    draft.setRotation(0, f, q);
    draft.setPosition(0, f, [0.3 - v[0] + away, 1.9 - v[1], 0.1 - v[2]]);
  }
  return draft.done();
}

const gripOf = (clip: ReturnType<typeof gripping>, hipsCourse = hips) => findGrips(palm, clip, jointTrack(skeleton, clip, 0), hipsCourse, 0.85);

describe("a hand that holds on", () => {
  it.each([
    [0.045, 0, 0],
    [0, 0, 0],
    [0.08, 0.02, -0.01],
  ])("is found with the point of it that stays (%d, %d, %d) and for as long as it does", (...grip) => {
    const { local, spans } = gripOf(gripping(grip, 0.25));
    expect(Math.hypot(...local.map((v, i) => v - grip[i]))).toBeLessThan(0.008);
    expect(spans).toHaveLength(1);
    expect(Math.abs(spans[0][0] - 60)).toBeLessThanOrEqual(4);
    expect(Math.abs(spans[0][1] - 200)).toBeLessThanOrEqual(4);
  });

  it("is none where the hand swings free, nor where the hips stay with it", () => {
    const far = gripOf(gripping([0.3, 0.2, 0], 0.25));
    expect(far.spans).toEqual([]);
    const still = gripOf(gripping([0.045, 0, 0], 0.25), new Float64Array(FRAMES * 3));
    expect(still.spans).toEqual([]);
  });
});
