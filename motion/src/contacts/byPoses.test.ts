import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { foundContact } from "../testing/contacts.ts";
import { onFrames, posesOf } from "./byPoses.ts";
import type { Contact } from "./contact.ts";

const N = 90;
/** Two joints: the first goes along, the second turns; each shows on a frame what it does on the one that is held. */
function clipOf(fps: number, along: (f: number) => number, turns: (f: number) => number): Clip {
  const draft = ClipDraft.make("steps", fps, N, 2, Int16Array.of(0));
  for (let f = 0; f < N; f++) {
    const half = 0.01 * turns(f);
    draft.setPosition(0, f, [0, 1, 0.02 * along(f)]);
    draft.setRotation(0, f, [0, 0, 0, 1]);
    draft.setRotation(1, f, [Math.sin(half), 0, 0, Math.cos(half)]);
  }
  return draft.done();
}
const twos = (f: number) => f - (f % 2);
const found = (start: number, end: number, rest: Partial<Contact> = {}) => foundContact("leftToe", start, end, rest);

describe("a clip that goes by steps", () => {
  it("is its poses, half as many a second, as they are", () => {
    const clip = clipOf(30, twos, twos);
    const poses = posesOf(clip);
    expect(poses?.clip.frameCount).toBe(N / 2);
    expect(poses?.clip.fps).toBeCloseTo(15, 9);
    for (const f of [0, 7, 44]) {
      const [p, q, was] = [new Float64Array(3), new Float64Array(4), new Float64Array(4)];
      readPosition(poses?.clip as Clip, 0, f, p, 0);
      expect(p[2]).toBeCloseTo(0.02 * 2 * f, 6);
      readRotation(poses?.clip as Clip, 1, f, q, 0);
      readRotation(clip, 1, 2 * f, was, 0);
      expect(q).toEqual(was);
    }
  });

  it("is one of which a part moves on between only if that goes by the same steps: on any new frame it shows a pose", () => {
    expect(posesOf(clipOf(30, twos, (f) => f))).toBeNull();
    expect(
      posesOf(
        clipOf(
          30,
          (f) => f,
          (f) => f,
        ),
      ),
    ).toBeNull();
    // What stays where it is has no steps of its own.
    expect(posesOf(clipOf(30, () => 0, twos))?.clip.frameCount).toBe(N / 2);
  });

  it("is left as it is where too few poses a second say how anything goes", () => {
    const threes = (f: number) => f - (f % 3);
    expect(posesOf(clipOf(30, threes, threes))).toBeNull();
    expect(posesOf(clipOf(60, threes, threes))?.clip.fps).toBeCloseTo(20, 9);
  });

  it("has its contacts on every frame that holds their poses, with what is doubtful of them, and its ground's way", () => {
    const poses = posesOf(clipOf(30, twos, twos));
    if (!poses) throw new Error("no poses");
    const way = Float64Array.from({ length: N }, (_, i) => Math.floor(i / 2));
    const { contacts, way: spread } = onFrames({ contacts: [found(3, 8), found(40, 44, { doubtful: [2, 0] })], way }, poses, N);
    expect(contacts.map((c) => [c.start, c.end, c.doubtful])).toEqual([
      [6, 17, undefined],
      [80, 89, [4, 0]],
    ]);
    expect(spread).toHaveLength(2 * N);
    expect([spread?.[0], spread?.[2], spread?.[4], spread?.[2 * N - 1]]).toEqual([0, 0, 1, 44]);
    expect(onFrames({ contacts: [], way: null }, poses, N).way).toBeNull();
  });
});
