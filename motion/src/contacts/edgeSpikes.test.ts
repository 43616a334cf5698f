import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { multiplyQuatFlat } from "../math/quat.ts";
import { at, stick } from "../testing/patched.ts";
import type { Contact } from "./contact.ts";
import { carriedOverSpikes, edgeSpikes } from "./edgeSpikes.ts";

const character = characterOf(stick.skeleton, stick.clip);
const { contacts } = stick.evaluator().evaluate(stick.work()).base;
/** A stand of a toe in the middle of the clip: as long as it is told. */
const stand = contacts.find((c) => c.point === "leftToe" && c.start > 20 && c.end < stick.clip.frameCount - 20 && c.end - c.start > 10) as Contact;

/** The clip with a joint turned about an axis of its own on one frame, degrees. */
function struck(name: string, f: number, degrees: number, axis: readonly [number, number, number] = [1, 0, 0]): Clip {
  const draft = ClipDraft.of(stick.clip);
  const q = new Float64Array(4);
  const half = (degrees * Math.PI) / 360;
  readRotation(stick.clip, stick.joint(name), f, q, 0);
  multiplyQuatFlat(q, 0, q, 0, [...axis.map((v) => v * Math.sin(half)), Math.cos(half)], 0);
  draft.setRotation(stick.joint(name), f, q);
  return draft.done();
}

const carried = (clip: Clip, contact: Contact) => carriedOverSpikes(character, { came: clip, mended: clip }, [contact])[0];

describe("contacts beside a spike of their leg", () => {
  it("stay as they are in a clip that has none", () => {
    expect(stand, `a stand at ${at(30)} s`).toBeDefined();
    expect(carriedOverSpikes(character, { came: stick.clip, mended: stick.clip }, contacts)).toEqual(contacts);
    expect(edgeSpikes(character, { came: stick.clip, mended: stick.clip }, contacts).size).toBe(0);
  });

  it.each(["LeftUpLeg", "LeftLeg", "LeftFoot"])("go on over one of %s, and over the frames beyond it on which the part lies in place", (name) => {
    for (const [f, short] of [
      [stand.start, { ...stand, start: stand.start + 1 }],
      [stand.start + 1, { ...stand, start: stand.start + 2 }],
      [stand.end, { ...stand, end: stand.end - 1 }],
      [stand.end - 1, { ...stand, end: stand.end - 2 }],
    ] as const) {
      const clip = struck(name, f, 18);
      expect(carried(clip, short), `${name} at ${f}`).toMatchObject({ start: stand.start, end: stand.end });
      const found = edgeSpikes(character, { came: clip, mended: clip }, [stand]);
      expect([...found], `${name} at ${f}`).toEqual([[stick.joint(name), [f]]]);
    }
  });

  it("are told by one that turns a bone mostly about itself, too", () => {
    const clip = struck("LeftUpLeg", stand.start, 20, [0.35, Math.sqrt(1 - 0.35 ** 2), 0]);
    expect(carried(clip, { ...stand, start: stand.start + 1 }).start).toBe(stand.start);
  });

  it("do not go on where the part is elsewhere, be the frame spiked or not", () => {
    // Two frames before its landing and after its lift the foot is on its way.
    for (const f of [stand.start - 3, stand.end + 3]) {
      expect(carried(struck("LeftUpLeg", f, 18), stand)).toBe(stand);
      const moved = { ...stand, ...(f < stand.start ? { start: f + 1 } : { end: f - 1 }) };
      expect(carried(stick.clip, moved)).toBe(moved);
    }
  });

  it("that a spike had parted become one", () => {
    const f = Math.round((stand.start + stand.end) / 2);
    const clip = struck("LeftLeg", f, 18);
    const parts = [
      { ...stand, end: f - 1 },
      { ...stand, start: f + 1 },
    ];
    const whole = carriedOverSpikes(character, { came: clip, mended: clip }, parts);
    expect(whole).toHaveLength(1);
    expect(whole[0]).toMatchObject({ start: stand.start, end: stand.end });
  });

  it("are looked at where parts bear the body on the ground, and nowhere else", () => {
    const clip = struck("LeftLeg", stand.start, 18);
    const short = { ...stand, start: stand.start + 1 };
    for (const other of [
      { ...short, on: "place" as const },
      { ...short, point: "head" },
    ])
      expect(carried(clip, other)).toBe(other);
  });
});
