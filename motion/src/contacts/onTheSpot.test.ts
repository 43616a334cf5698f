import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { type Clip, ClipDraft, readPosition } from "../clip/clip.ts";
import { clipWorld } from "../kinematics/forward.ts";
import { patch, stick } from "../testing/patched.ts";
import { figureClip } from "../travel/figureClip.ts";
import { passingGround, wayOnTheSpot } from "./onTheSpot.ts";
import { PointTracks } from "./pointTracks.ts";

const { fps, frameCount: n } = stick.clip;
/** The figure's walk with its root taken to where `at` says, from where it is: metres. */
function sent(at: (place: readonly number[], f: number) => readonly [number, number]): Clip {
  const draft = ClipDraft.of(stick.clip);
  const p = [0, 0, 0];
  for (let f = 0; f < n; f++) {
    readPosition(stick.clip, 0, f, p, 0);
    const [x, z] = at(p, f);
    draft.setPosition(0, f, [x, p[1], z]);
  }
  return draft.done();
}
const [first, last] = [0, n - 1].map((f) => {
  const p = [0, 0, 0];
  readPosition(stick.clip, 0, f, p, 0);
  return [...p];
});
const speed = (last[2] - first[2]) / ((n - 1) / fps);
/** With the even part of its way taken out, and with all of it. */
const evenly = sent(([x, , z], f) => [x, z - (speed * f) / fps]);
const wholly = sent(() => [first[0], first[2]]);
const wayOf = (clip: Clip) => wayOnTheSpot(characterOf(stick.skeleton, clip, {}), clip);

describe("a walk on the spot", () => {
  it("is told by its feet, and how fast the ground passes under it", () => {
    // The figure skates: its feet show the speed that it would walk at.
    const skates = passingGround(new PointTracks(stick.skeleton, stick.clip, characterOf(stick.skeleton, stick.clip, {}).contactPoints)).velocity[1];
    for (const clip of [evenly, wholly]) {
      const way = wayOf(clip) as Float64Array;
      expect(way[(n - 1) * 2 + 1] / ((n - 1) / fps)).toBeCloseTo(speed - skates, 1);
      expect(Math.abs(way[(n - 1) * 2])).toBeLessThan(0.03);
    }
  });

  it("is none where the body goes by itself, stands, or is carried past", () => {
    expect(wayOf(stick.clip)).toBeNull();
    expect(wayOf(sent(([x, , z], f) => [x, z - (0.5 * speed * f) / fps]))).toBeNull();
    // One pose that is moved along backwards: its feet go one way, high or low.
    const still = ClipDraft.of(stick.clip);
    for (let f = 0; f < n; f++) {
      for (let j = 0; j < stick.skeleton.names.length; j++) still.setRotation(j, f, [0, 0, 0, 1]);
      still.setPosition(0, f, [0, first[1], -0.02 * (f % 2)]);
    }
    expect(wayOf(still.done())).toBeNull();
  });

  it("has the contacts of the walk that it was, stays on the spot when it is planted, and travels once that is put in from the feet", () => {
    const walks = stick.evaluator(stick.clip).evaluate(stick.work()).base;
    for (const clip of [evenly, wholly]) {
      const evaluator = stick.evaluator(clip);
      const { base, result } = evaluator.evaluate(stick.work(patch("plant", {})));
      expect(base.support.byFeet).toBe(true);
      expect(base.support.passing).toBeGreaterThan(0.8);
      expect(base.contacts.length).toBe(walks.contacts.length);
      base.contacts.forEach((c, i) => {
        expect(c.point).toBe(walks.contacts[i].point);
        expect(Math.max(Math.abs(c.start - walks.contacts[i].start), Math.abs(c.end - walks.contacts[i].end)), `${c.point} ${c.start}`).toBeLessThanOrEqual(2);
      });
      // What is exported is the clip as it came, and with planted feet still on the spot.
      const [came, figure] = [clip, figureClip(base)].map((c) => clipWorld(stick.skeleton, c).positions);
      came.forEach((v, i) => {
        expect(Math.abs(v - figure[i])).toBeLessThan(1e-5);
      });
      const hips = (of: Clip, f: number) => clipWorld(stick.skeleton, of).positions[f * stick.skeleton.names.length * 3 + 2];
      expect(Math.abs(hips(figureClip(result), n - 1) - hips(figureClip(result), 0))).toBeLessThan(0.1);
      const put = evaluator.evaluate(stick.work(patch("travel", { travel: "feet" }))).result;
      expect(put.groundTravel).toBeNull();
      expect((hips(put.clip, n - 1) - hips(put.clip, 0)) / ((n - 1) / fps)).toBeCloseTo(base.support.passing, 1);
    }
  });

  it("is on still ground where a person says so", () => {
    const { base } = stick.evaluator(evenly).evaluate({ ...stick.work(), carriedBy: "stillGround" });
    expect(base.support).toMatchObject({ passing: 0, said: true });
    expect(base.groundTravel).toBeNull();
    expect(base.clip).toBe(evenly);
  });
});
