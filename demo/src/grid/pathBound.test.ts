import { ClipDraft, quatAngleFlat, readRotation } from "@stride/motion";
import { expect, it } from "vitest";
import { quick } from "./cases.ts";
import { pathOff } from "./figures.ts";
import { bestSmoothed } from "./pathBound.ts";

const one = quick().find((c) => c.name === "tall, 60, run, 0.20 s, 1°");
if (!one) throw new Error("no such clip");
const { truth, faulty } = one;
const { skeleton } = truth.character;

it("smoothing that is chosen by the truth brings feet nearer to it, and leaves a clip as it is that is right", () => {
  const best = bestSmoothed(skeleton, truth.clip, faulty);
  expect(pathOff(truth, best)).toBeLessThan(0.6 * pathOff(truth, faulty));
  expect(pathOff(truth, bestSmoothed(skeleton, truth.clip, truth.clip))).toBeLessThan(1e-3);
});

it("a joint that turns along a parabola is not changed by any window, its trembling is", () => {
  const draft = ClipDraft.of(truth.clip);
  const angle = (f: number) => 0.2 + 0.004 * f + 0.00002 * f * f;
  const turn = (a: number) => [Math.sin(a / 2), 0, 0, Math.cos(a / 2)];
  for (let f = 0; f < truth.clip.frameCount; f++) draft.setRotation(1, f, turn(angle(f)));
  const right = draft.done();
  const shaken = ClipDraft.of(right);
  for (let f = 0; f < right.frameCount; f++) shaken.setRotation(1, f, turn(angle(f) + (f % 2 ? 0.01 : -0.01)));
  const best = bestSmoothed(skeleton, right, shaken.done());
  const [a, b] = [new Float64Array(4), new Float64Array(4)];
  for (let f = 20; f < right.frameCount - 20; f++) {
    readRotation(right, 1, f, a, 0);
    readRotation(best, 1, f, b, 0);
    expect(quatAngleFlat(a, 0, b, 0), `frame ${f}`).toBeLessThan(0.0005);
  }
});
