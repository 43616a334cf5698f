import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { legsOf } from "../character/contactPoints.ts";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { multiplyQuatFlat } from "../math/quat.ts";
import { stick } from "../testing/patched.ts";
import { legSpikes, unseenFrames } from "./legSpikes.ts";

const character = characterOf(stick.skeleton, stick.clip);
const [left, right] = legsOf(stick.skeleton, character.body, character.rig);
const FRAME = 40;

/** The clip with joints turned about their own x on one frame, degrees. */
function turned(...by: readonly (readonly [string, number])[]): Clip {
  const draft = ClipDraft.of(stick.clip);
  const q = new Float64Array(4);
  for (const [name, degrees] of by) {
    const half = (degrees * Math.PI) / 360;
    readRotation(stick.clip, stick.joint(name), FRAME, q, 0);
    multiplyQuatFlat(q, 0, q, 0, [Math.sin(half), 0, 0, Math.cos(half)], 0);
    draft.setRotation(stick.joint(name), FRAME, q);
  }
  return draft.done();
}

const spikesIn = (clip: Clip, name: string) => legSpikes(character, clip).get(stick.joint(name)) ?? [];

describe("spikes of legs", () => {
  it("are none in a walk", () => {
    expect([...legSpikes(character, stick.clip).values()].flat()).toEqual([]);
    expect([...unseenFrames(character, stick.clip, left)]).toEqual([]);
  });

  it.each(["LeftUpLeg", "LeftLeg", "LeftFoot"])(
    "are where %s leaps for one frame: what its sole does there is not seen, what the other leg's does is",
    (name) => {
      const clip = turned([name, 20]);
      expect(spikesIn(clip, name)).toEqual([FRAME]);
      expect([...unseenFrames(character, clip, left)]).toEqual([FRAME]);
      expect([...unseenFrames(character, clip, right)]).toEqual([]);
    },
  );

  it("of the hips are of both legs", () => {
    const clip = turned(["Hips", 15]);
    for (const leg of [left, right]) expect([...unseenFrames(character, clip, leg)]).toEqual([FRAME]);
  });

  it("are not what a knee does whose hip and ankle go along, so that the foot keeps to its course", () => {
    // A leg that straightens, or bends, by so much at the knee and half of it the other way at either end has its foot where it was, to within a part of that.
    const clip = turned(["LeftUpLeg", -3.4], ["LeftLeg", 6.8], ["LeftFoot", -3.4]);
    expect(spikesIn(clip, "LeftLeg")).toEqual([]);
    expect([...unseenFrames(character, clip, left)]).toEqual([]);
    // The knee alone would be one.
    expect(spikesIn(turned(["LeftLeg", 6.8]), "LeftLeg")).toEqual([FRAME]);
  });

  it("are found once for a clip", () => {
    const clip = turned(["LeftLeg", 20]);
    expect(legSpikes(character, clip)).toBe(legSpikes(character, clip));
  });
});
