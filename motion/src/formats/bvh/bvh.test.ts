import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft } from "../../clip/clip.ts";
import { clipWorld } from "../../kinematics/forward.ts";
import { normalizeQuatFlat } from "../../math/quat.ts";
import { identityRest, type Skeleton } from "../../skeleton/skeleton.ts";
import { MotionFormatError } from "../errors.ts";
import { readBvh } from "./read.ts";
import { defaultLayout, writeBvh } from "./write.ts";

const bytes = (text: string) => new TextEncoder().encode(text);
const SMALL = `HIERARCHY
ROOT Hips
{
	OFFSET 0 0 0
	CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
	JOINT Leg
	{
		OFFSET 0 -10 0
		CHANNELS 3 Yrotation Xrotation Zrotation
		End Site
		{
			OFFSET 0 -8 0
		}
	}
}
MOTION
Frames: 2
Frame Time: 0.0333333
1 2 3 90 0 0 0 0 0
1 2 3 0 0 90 10 20 30
`;
const read = (text: string) => readBvh(bytes(text), { fileName: "a.bvh", unitScale: 1, upAxis: "y" });

describe("reading", () => {
  it("takes tabs, CRLF, lone CR, extra spaces, wrapped frames, lower case and a byte order mark alike", () => {
    const plain = read(SMALL);
    const odd = [
      SMALL.replaceAll("\n", "\r\n"),
      SMALL.replaceAll("\n", "\r"),
      `\ufeff${SMALL}`,
      SMALL.replaceAll(" ", "  \t "),
      SMALL.replace("1 2 3 90 0 0 0 0 0", "1 2 3 90\n0 0 0 0 0"),
      SMALL.replace("Frames: 2", "Frames : 2").replace("HIERARCHY", "hierarchy"),
      SMALL.replace("1 2 3 90 0", "+1.0 2e0 .3e1 90.000000000000000000 -0"),
    ];
    for (const text of odd) expect(read(text).clip.rotations).toEqual(plain.clip.rotations);
    expect(plain.clip.fps).toBe(30);
    expect(plain.skeleton.names).toEqual(["Hips", "Leg"]);
  });

  it("turns channels in the order of the file: Z first, then X, then Y", () => {
    const { skeleton, clip } = read(SMALL);
    const world = clipWorld(skeleton, clip);
    // Frame 0: a quarter turn about Z takes (0, −10, 0) to (10, 0, 0).
    expect(Array.from(world.positions.slice(3, 6), (v) => Math.round(v * 1e4) / 1e4)).toEqual([11, 2, 3]);
  });

  it("turns a Z-up file upright", () => {
    const { clip, skeleton } = readBvh(bytes(SMALL), { unitScale: 1, upAxis: "z" });
    expect(Array.from(clip.positions[0][0].slice(0, 3))).toEqual([1, 3, -2]);
    expect(Array.from(skeleton.offsets.slice(3, 6))).toEqual([0, 0, 10]);
  });

  it("reads position channels of inner joints whether they hold the offset or not", () => {
    const inner = (y: number) =>
      SMALL.replace("CHANNELS 3 Yrotation", "CHANNELS 6 Xposition Yposition Zposition Yrotation").replace(/^(1 2 3 \S+ \S+ \S+) /gm, `$1 0 ${y} 0 `);
    for (const y of [0.1, -10.1]) {
      const { clip } = read(inner(y));
      expect(clip.positions[1][0][1]).toBeCloseTo(y < -5 ? -10.1 : -9.9, 5);
    }
  });

  it("leaves out whole frames beyond the count, and says so", () => {
    const { clip, warnings } = read(`${SMALL}1 2 3 4 5 6 7 8 9\n`);
    expect(clip.frameCount).toBe(2);
    expect(warnings).toHaveLength(1);
  });

  const BAD: readonly (readonly [string, string, RegExp])[] = [
    ["nothing", "", /expected HIERARCHY/],
    ["another kind of file", "\u0000PNG\r\n", /:1: expected HIERARCHY/],
    ["a hierarchy cut off", SMALL.slice(0, 120), /ends|expected/],
    ["a missing brace", SMALL.replace("{\n\tOFFSET 0 0 0", "\tOFFSET 0 0 0"), /:3: expected \{/],
    ["a short OFFSET", SMALL.replace("OFFSET 0 -10 0", "OFFSET 0 -10"), /:9: expected number 3 of 3 after OFFSET/],
    ["a wrong channel", SMALL.replace("Xrotation Zrotation", "Qrotation Zrotation"), /:9: expected channel 2 of 3/],
    ["a repeated channel", SMALL.replace("CHANNELS 3 Yrotation Xrotation", "CHANNELS 3 Yrotation Yrotation"), /names Yrotation twice/],
    ["a NaN", SMALL.replace("1 2 3 0 0 90", "1 NaN 3 0 0 90"), /:20: expected number 2 of 9 in frame 1, got "NaN"/],
    ["an infinity", SMALL.replace("1 2 3 0 0 90", "1 1e999 3 0 0 90"), /:20: expected number/],
    ["a short frame", SMALL.replace("1 2 3 90 0 0 0 0 0", "1 2 3 90 0 0 0 0"), /:19: expected 9 numbers in a frame, got 8|:2\d: /],
    ["a frame cut off", SMALL.slice(0, -8), /can hold at most|the file ends/],
    ["too few frames", SMALL.replace("Frames: 2", "Frames: 3"), /Frames: says 3/],
    ["a huge count", SMALL.replace("Frames: 2", "Frames: 99999999999"), /Frames: says 99999999999, but what follows can hold at most/],
    ["no frames", SMALL.replace("Frames: 2", "Frames: 0"), /positive whole number of frames/],
    ["a frame time of nothing", SMALL.replace("0.0333333", "0"), /frame time between/],
    ["no motion", SMALL.slice(0, SMALL.indexOf("MOTION")), /expected MOTION/],
  ];
  for (const [what, text, message] of BAD) {
    it(`refuses ${what} in one line`, () => {
      expect(() => read(text)).toThrow(MotionFormatError);
      expect(() => read(text)).toThrow(message);
      try {
        read(text);
      } catch (error) {
        expect((error as Error).message).not.toContain("\n");
      }
    });
  }

  it("refuses ten thousand levels, a line of 64 MB and markup where a keyword belongs, each within seconds", () => {
    const deep = `HIERARCHY\nROOT r\n{\nOFFSET 0 0 0\n${"JOINT j\n{\nOFFSET 0 1 0\n".repeat(10_000)}`;
    const long = new Uint8Array(64 * 1024 * 1024).fill(65);
    long.set(bytes("HIERARCHY\nROOT "));
    const started = Date.now();
    expect(() => read(deep)).toThrow(/nested more than/);
    expect(() => readBvh(long, { fileName: "long.bvh" })).toThrow(/a line of \d+ characters/);
    expect(() => read(SMALL.replace("MOTION", "<script>alert(1)</script>"))).toThrow(/got "<script>/);
    expect(Date.now() - started).toBeLessThan(8000);
  });

  it("keeps markup in names as text", () => {
    expect(read(SMALL.replace("JOINT Leg", "JOINT <b>Leg</b> & co")).skeleton.names[1]).toBe("<b>Leg</b> & co");
  });
});

/** Random trees in any order of joints, random poses. */
const motion = fc
  .record({
    parents: fc.array(fc.nat(), { minLength: 0, maxLength: 9 }),
    seed: fc.integer({ min: 1, max: 1e6 }),
    frames: fc.oneof(fc.integer({ min: 1, max: 5 }), fc.constantFrom(64, 65, 130)),
    unit: fc.constantFrom(1, 0.01, 0.0254),
    up: fc.constantFrom("y" as const, "z" as const),
  })
  .map(({ parents, seed, frames, unit, up }) => {
    let s = seed;
    const random = () => {
      s = (s * 16807) % 2147483647;
      return (s / 2147483647) * 2 - 1;
    };
    const tree = Int16Array.from([-1, ...parents.map((p, i) => p % (i + 1))]);
    const count = tree.length;
    const skeleton: Skeleton = {
      names: Array.from({ length: count }, (_, j) => `j${j}`),
      parents: tree,
      offsets: Float64Array.from({ length: count * 3 }, (_, i) => (i < 3 ? 0 : random())),
      restRotations: identityRest(count),
      tips: [{ joint: count - 1, offset: [0, 0.1, 0] }],
    };
    const draft = ClipDraft.make("random", 30, frames, count, Int16Array.of(0));
    const q = new Float64Array(4);
    for (let f = 0; f < frames; f++) {
      for (let j = 0; j < count; j++) {
        for (let i = 0; i < 4; i++) q[i] = random();
        normalizeQuatFlat(q, 0);
        draft.setRotation(j, f, q);
      }
      draft.setPosition(
        0,
        f,
        [0, 1, 2].map(() => random() * 3),
      );
    }
    return { skeleton, clip: draft.done(), unit, up };
  });

describe("writing", () => {
  it("reads back as the same motion, whatever the tree, its order, unit and axes", () => {
    fc.assert(
      fc.property(motion, ({ skeleton, clip, unit, up }) => {
        const text = [...writeBvh(skeleton, clip, defaultLayout(skeleton, clip, unit, up))].join("");
        const back = readBvh(bytes(text), { unitScale: unit, upAxis: up });
        const place = (s: Skeleton, c: Clip) => {
          const { positions } = clipWorld(s, c);
          return new Map(
            s.names.map((name, j) => [
              name,
              Array.from({ length: c.frameCount }, (_, f) => Array.from(positions.slice((f * c.jointCount + j) * 3, (f * c.jointCount + j) * 3 + 3))),
            ]),
          );
        };
        const before = place(skeleton, clip);
        for (const [name, frames] of place(back.skeleton, back.clip)) {
          frames.forEach((p, f) => p.forEach((v, i) => expect(Math.abs(v - (before.get(name)?.[f][i] ?? Number.NaN))).toBeLessThan(2e-5)));
        }
      }),
      { numRuns: 150 },
    );
  });

  it("keeps offsets, channel order and frame time to the letter", () => {
    const file = read(SMALL);
    const text = [...writeBvh(file.skeleton, file.clip, file.layout)].join("");
    expect(text).toContain("CHANNELS 3 Yrotation Xrotation Zrotation");
    expect(text).toContain("Frame Time: 0.0333333\n");
    expect(text).toContain("OFFSET 0.000000 -10.000000 0.000000");
  });
});
