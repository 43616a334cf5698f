import { jointTrack, type Motion, makePatch, type Patch, quantile } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo, evaluateWith, floorAndPlant, JOG, refOf, WALK } from "./testing/evaluated.ts";
import { contactSlides, speedJumps } from "./testing/motionFigures.ts";

const IDLE = "porter-waiting-weight-shift";
const SLOW = "porter-unhurried-walk";
const CROUCHED = "porter-crouched-walk";
const TURN = "porter-turn-and-stop";

const join = (other: string, settings: Record<string, unknown> = {}, id = "join"): Patch => makePatch("join", "Join", id, { clip: refOf(other), ...settings });
const hips = ({ character, clip }: Motion) => jointTrack(character.skeleton, clip, character.rig.hips).positions;
/** Level direction of travel over the frames around one, radians. */
const way = (motion: Motion, f: number, over: number) => {
  const p = hips(motion);
  const [a, b] = [(f - over) * 3, (f + over) * 3];
  return Math.atan2(p[b] - p[a], p[b + 2] - p[a + 2]);
};

describe("two clips joined", () => {
  it("are A + B − overlap long where both play, A + B where one hands over; A keeps its bits before the seam", () => {
    const a = demo(WALK).clip;
    const b = demo(SLOW).clip;
    const crossed = evaluateWith(WALK, [SLOW], join(SLOW, { overlap: 0.5 }));
    expect(crossed.result.clip.frameCount - 1).toBe(a.frameCount - 1 + b.frameCount - 1 - 15);
    const handed = evaluateWith(WALK, [SLOW], join(SLOW, { how: "handOver", overlap: 0.5 }));
    expect(handed.result.clip.frameCount - 1).toBe(a.frameCount - 1 + b.frameCount - 1);
    for (let j = 0; j < a.jointCount; j++) expect(crossed.result.clip.rotations[j][0].subarray(0, 64 * 4)).toEqual(a.rotations[j][0].subarray(0, 64 * 4));
    // The piece of the second that was asked for, and no more.
    const piece = evaluateWith(WALK, [SLOW], join(SLOW, { from: 1, to: 2, overlap: 0.2 }));
    expect(piece.result.clip.frameCount - 1).toBe(a.frameCount - 1 + 30 - 6);
  });

  it("go on in one direction, whichever way the second goes by itself", () => {
    for (const other of [SLOW, CROUCHED, TURN]) {
      const { result } = evaluateWith(WALK, [other], ...floorAndPlant, join(other));
      const seam = demo(WALK).clip.frameCount - 1 - 6;
      const turn = way(result, seam + 12, 8) - way(result, seam - 12, 8);
      expect(Math.abs(turn - 2 * Math.PI * Math.round(turn / (2 * Math.PI))), other).toBeLessThan(0.2);
    }
  });

  it("keep what stands through the seam in its place, and jump no further than the clips do by themselves", () => {
    const slides: number[] = [];
    for (const [first, second, how] of [
      [WALK, SLOW, "crossfade"],
      [WALK, JOG, "crossfade"],
      [SLOW, WALK, "crossfade"],
      [WALK, IDLE, "crossfade"],
      [IDLE, SLOW, "handOver"],
      [WALK, TURN, "handOver"],
      [TURN, SLOW, "handOver"],
      [CROUCHED, WALK, "handOver"],
    ]) {
      const e = evaluateWith(first, [second], ...floorAndPlant, join(second, { how }));
      const { clip } = e.result;
      const n = e.stages[1].motion.clip.frameCount;
      const over = Math.round(0.4 * clip.fps);
      const at = how === "crossfade" ? n - 1 - over : n - 1;
      slides.push(...contactSlides(e.result));
      const own = [...speedJumps(e.stages[1].motion.clip), ...speedJumps(evaluateWith(second, [], ...floorAndPlant).result.clip)];
      const seam = speedJumps(clip, at - 1, at + over + 1);
      expect(Math.max(...seam), `${first} ${second} ${how}`).toBeLessThanOrEqual(quantile(own, 0.99));
      // A contact that goes through the seam is one, and its foot does not move.
      const through = e.result.contacts.filter((c) => c.start < at - 2 && c.end > at + over + 2);
      for (const slide of contactSlides({ ...e.result, contacts: through })) expect(slide).toBeLessThan(0.1);
    }
    expect(quantile(slides, 0.95)).toBeLessThan(0.2);
  });

  it("stand one after another as often as one likes, and each may be cut where it is left", () => {
    const a = demo(WALK).clip.frameCount - 1;
    const e = evaluateWith(
      WALK,
      [SLOW, IDLE],
      ...floorAndPlant,
      join(SLOW, { leave: 80 / 30, overlap: 0.3, from: 0.5, to: 2.5 }, "one"),
      join(IDLE, { overlap: 0.6 }, "two"),
    );
    expect(a).toBeGreaterThan(80);
    expect(e.result.clip.frameCount - 1).toBe(80 - 9 + 60 - 18 + demo(IDLE).clip.frameCount - 1);
    expect(new Set(e.result.contacts.map((c) => c.of))).toEqual(new Set([undefined, `${SLOW}.bvh`, `${IDLE}.bvh`]));
    expect(quantile(contactSlides(e.result), 0.95)).toBeLessThan(0.2);
  });

  it("are refused where they overlap by more than there is, and told where no foot stands in both", () => {
    expect(() => evaluateWith(WALK, [SLOW], join(SLOW, { from: 1, to: 1.2, overlap: 0.5 }))).toThrow(
      /overlap: 15 frames are more than there is of the shorter of the two \(6 frames\)/,
    );
    expect(() => evaluateWith(WALK, [SLOW], join(SLOW, { from: 2, to: 1 }))).toThrow(/frames 60–30 of "porter-unhurried-walk.bvh" are no piece of it/);
    const missing = evaluateWith(WALK, [], join(SLOW));
    expect(missing.notes).toEqual([expect.objectContaining({ stops: true, field: "clip" })]);
    expect(missing.result).toBe(missing.base);
  });
});
