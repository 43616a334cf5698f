import { bakedOnto, characterIn, clipWorld, groundHeight, legLengthOf, type Motion, quatAngleFlat, readRotation } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo, JOG, ofTruth, WALK } from "./testing/evaluated.ts";

const IDLE = "porter-waiting-weight-shift";
const PATROL = "diver-dock-patrol";
const characterOf = (id: string) => characterIn({ skeleton: demo(id).truth.character.skeleton, clip: demo(id).truth.clip });

/** Mean angle between the joints of two motions of one body, degrees. */
function meanDegrees(a: Motion, b: Motion): number {
  const [p, q] = [new Float64Array(4), new Float64Array(4)];
  let sum = 0;
  for (let j = 0; j < a.clip.jointCount; j++)
    for (let f = 0; f < a.clip.frameCount; f++) {
      readRotation(a.clip, j, f, p, 0);
      readRotation(b.clip, j, f, q, 0);
      sum += quatAngleFlat(p, 0, q, 0);
    }
  return ((sum / (a.clip.jointCount * a.clip.frameCount)) * 180) / Math.PI;
}

/** How far each stance point slides in the middle of its true span, cm: by the generator's footfalls, on the joints of whichever body. */
function slides(id: string, { character, clip, points }: Motion): number[] {
  const world = clipWorld(character.skeleton, clip);
  return demo(id).truth.contacts.flatMap(({ point, start, end }) => {
    const joint = points.find((p) => p.id === point)?.joint;
    const [a, b] = [Math.ceil(start + 0.3 * (end - start)), Math.floor(start + 0.7 * (end - start))];
    if (joint === undefined || b - a < 2) return [];
    const at = (f: number, i: number) => world.positions[(f * world.jointCount + joint) * 3 + i];
    const middle = (a + b) >> 1;
    return [100 * Math.max(...Array.from({ length: b - a + 1 }, (_, k) => Math.hypot(at(a + k, 0) - at(middle, 0), at(a + k, 2) - at(middle, 2))))];
  });
}

describe("a performance on another body", () => {
  it("on the same one keeps its bits", () => {
    const walk = ofTruth(WALK);
    const { motion, without } = bakedOnto(walk, characterOf(IDLE));
    expect(without).toEqual([]);
    expect(motion.clip).toBe(walk.clip);
  });

  it.each([
    [WALK, PATROL],
    [JOG, PATROL],
    [IDLE, PATROL],
    [PATROL, WALK],
  ])("%s on the body of %s slides no more than it did, goes as far as its legs are long, and stays above the floor", (id, onto) => {
    const source = ofTruth(id);
    const { motion } = bakedOnto(source, characterOf(onto));
    expect(motion.clip).toMatchObject({ fps: source.clip.fps, frameCount: source.clip.frameCount });
    const scale = legLengthOf(motion.character) / legLengthOf(source.character);
    const [before, after] = [slides(id, source), slides(id, motion)];
    // A heel that rolls moves in its span; nothing moves more than there, for its size.
    expect(Math.max(...after)).toBeLessThan(scale * Math.max(...before) + 0.2 * scale);
    const way = ({ character, clip }: Motion) => {
      const { positions, jointCount } = clipWorld(character.skeleton, clip);
      const at = (f: number, i: number) => positions[(f * jointCount + character.rig.hips) * 3 + i];
      return Math.hypot(at(clip.frameCount - 1, 0) - at(0, 0), at(clip.frameCount - 1, 2) - at(0, 2));
    };
    // The travel is what the feet of the new body say: within three per cent of its size.
    expect(Math.abs(way(motion) / (scale * way(source) || 1) - 1)).toBeLessThan(id === IDLE ? 1.01 : 0.03);
    const { positions, jointCount } = clipWorld(motion.character.skeleton, motion.clip);
    for (const { joint } of motion.points.filter((p) => p.bears))
      for (let f = 0; f < motion.clip.frameCount; f++) {
        const o = (f * jointCount + joint) * 3;
        expect(positions[o + 1] - groundHeight(motion.ground, positions[o], positions[o + 2])).toBeGreaterThan(-0.002);
      }
  });

  it("there and back is what it was, but for what the other body has not", () => {
    const patrol = ofTruth(PATROL);
    const there = bakedOnto(patrol, characterOf(WALK));
    expect(there.without).toEqual([]);
    expect(meanDegrees(patrol, bakedOnto(there.motion, characterOf(PATROL)).motion)).toBeLessThan(0.5);
    // A body without fingers loses them, and says so.
    const lost = bakedOnto(ofTruth(WALK), characterOf(PATROL)).without;
    expect(lost.length).toBeGreaterThan(3);
    expect(lost.every((ref) => "role" in ref && /Thumb|Index|Middle|Ring|Little|Pinky/.test(ref.role))).toBe(true);
  });
});
