import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readPosition } from "../clip/clip.ts";
import { differences, stick } from "../testing/patched.ts";
import { steadiedClip } from "./steadyClip.ts";

const { clip } = stick;
const root = clip.positionJoints[0];

/** The clip with its root's place off by up to so many metres, back and forth. */
function shaken(size: number): Clip {
  const draft = ClipDraft.of(clip);
  const p = new Float64Array(3);
  let state = 7;
  for (let f = 0; f < clip.frameCount; f++) {
    readPosition(clip, 0, f, p, 0);
    for (let i = 0; i < 3; i++) {
      state = (state * 16807) % 2147483647;
      p[i] += size * (state / 1073741823.5 - 1);
    }
    draft.setPosition(0, f, p);
  }
  return draft.done();
}
const off = (a: Clip) => {
  const [p, q] = [new Float64Array(3), new Float64Array(3)];
  let sum = 0;
  for (let f = 5; f < clip.frameCount - 5; f++) {
    readPosition(a, 0, f, p, 0);
    readPosition(clip, 0, f, q, 0);
    sum += Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]);
  }
  return sum / (clip.frameCount - 10);
};

describe("a body whose place trembles", () => {
  it("is steadied with the joints that it belongs to, and by nothing where it does not tremble or is not asked for", () => {
    const shaky = shaken(0.006);
    const steady = steadiedClip(shaky, [root]);
    expect(off(steady)).toBeLessThan(0.75 * off(shaky));
    expect(differences(shaky, steady).moved).toBe(true);
    expect(differences(shaky, steadiedClip(shaky, [stick.joint("LeftLeg")])).moved).toBe(false);
    expect(differences(clip, steadiedClip(clip, [root])).moved).toBe(false);
  });

  it("is steadied as far as the weights say, frame by frame", () => {
    const shaky = shaken(0.006);
    const whole = steadiedClip(shaky, [root]);
    const half = steadiedClip(shaky, [root], (f) => (f < 40 ? 0 : 0.5));
    const place = (of: Clip, f: number) => {
      const p = new Float64Array(3);
      readPosition(of, 0, f, p, 0);
      return [...p];
    };
    expect(place(half, 20)).toEqual(place(shaky, 20));
    for (let i = 0; i < 3; i++) expect(place(half, 60)[i]).toBeCloseTo((place(shaky, 60)[i] + place(whole, 60)[i]) / 2, 5);
  });
});
