import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { footSkins } from "../character/footSkin.ts";
import type { Skin } from "../character/skin.ts";
import type { Clip } from "../clip/clip.ts";
import { Evaluator } from "../evaluate.ts";
import { planeGround } from "../ground/ground.ts";
import { clipWorld } from "../kinematics/forward.ts";
import { quatAngleFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { oneSource } from "../sources.ts";
import { patch, stick, worldAt } from "../testing/patched.ts";
import { cleared, depthAt, onGround, posedClip, restPlace, skinAt, skinOf } from "../testing/skinned.ts";

const { skeleton } = stick;
const [FOOT, TOE] = [stick.joint("LeftFoot"), stick.joint("LeftToeBase")];
const toe = restPlace("LeftToeBase");
/** How far the sole lies under the toe's joint, and how far it goes on in front of it, metres. */
const [THICK, LONG] = [0.015, 0.07];
const skin = skinOf(
  Array.from({ length: 48 }, (_, i) => ({
    joint: i < 8 ? "LeftFoot" : "LeftToeBase",
    at: [toe[0] + 0.06 * ((i % 4) / 3 - 0.5), toe[1] - (i % 8 < 4 ? THICK : -0.02), toe[2] + (i < 8 ? -0.1 : (LONG * (Math.floor(i / 8) - 0.5)) / 4.5)],
  })),
);

/** A sole of 8 × 22 cm under foot and toe, its toe end on the toe. */
const WIDE = 0.04;
const ball = restPlace("LeftToeBase");
const board = skinOf(
  [-0.15, -0.1, -0.05, -0.01, 0.03, LONG].flatMap((along) =>
    [-WIDE, 0, WIDE].map((aside) => ({ joint: along > 0 ? "LeftToeBase" : "LeftFoot", at: [ball[0] + aside, ball[1] - THICK, ball[2] + along] })),
  ),
);

/** Feet that are pitched by so many radians a frame, toes down, at rest otherwise. */
const pitched = (angles: readonly number[]) => turnedBy(angles.map((angle) => [angle, 0, 0]));

/** Feet turned at the ankle by rotation vectors, frame by frame, all else at rest. */
const turnedBy = (turns: readonly (readonly number[])[]) => posedClip(turns.map((turn) => ({ turns: { LeftFoot: turn } })));

/** The ball stands on the ground. */
const standing = (clip: Clip, of: Skin | null = skin) => onGround(clip, of, clipWorld(skeleton, clip).positions[TOE * 3 + 1] - THICK);

function lowest(motion: Motion, frame: number): number {
  const places = skinAt(motion, frame);
  // Those of the toe in front of what lies below its joint.
  return Math.min(...Array.from({ length: 48 }, (_, v) => (v < 16 ? 1 : places[v * 3 + 1]))) - motion.ground.height;
}

describe("toes over the ground", () => {
  it.each([5, 20, 45, 60])("a foot that rolls %d° over its ball leaves its toes lying flat", (degrees) => {
    const angle = (degrees * Math.PI) / 180;
    const motion = standing(pitched([angle, angle, angle]));
    expect(lowest(motion, 1)).toBeLessThan(-0.5 * LONG * Math.sin(angle));
    const made = cleared(motion);
    expect(Math.abs(lowest(made, 1))).toBeLessThan(1e-4);
    // Lying flat it is turned back by just as much as the foot is pitched.
    const { rotations, jointCount } = clipWorld(skeleton, made.clip);
    const o = (jointCount + TOE) * 4;
    expect((2 * Math.acos(Math.min(1, Math.abs(rotations[o + 3]))) * 180) / Math.PI).toBeLessThan(0.2);
    const places = [motion, made].map(({ clip }) => clipWorld(skeleton, clip).positions);
    expect(places[1]).toEqual(places[0]);
  });

  it("bends no more than toes do, evenly over a few frames, and keeps the bits of what needs none", () => {
    const steep = standing(pitched([1.4, 1.4, 1.4]));
    const made = cleared(steep);
    const { rotations, jointCount } = clipWorld(skeleton, made.clip);
    const left = 2 * Math.asin(Math.abs(rotations[(jointCount + TOE) * 4]));
    expect(left).toBeCloseTo(1.4 - (65 * Math.PI) / 180, 2);
    const flat = standing(pitched([0, 0, -0.2]));
    expect(cleared(flat).clip).toBe(flat.clip);
    const bare = standing(pitched([0.5, 0.5, 0.5]), null);
    expect(cleared(bare).clip).toBe(bare.clip);
    // A jump in what is needed is met by a bend that grows.
    const sudden = standing(pitched([...Array(10).fill(0), ...Array(10).fill(0.6)]));
    const course = Array.from({ length: 20 }, (_, f) => Math.asin(cleared(sudden).clip.rotations[TOE][0][f * 4]) * -2);
    expect(Math.abs(course[0])).toBe(0);
    expect(course[10]).toBeGreaterThan(0.59);
    for (let f = 1; f < 20; f++) expect(Math.abs(course[f] - course[f - 1])).toBeLessThan(0.35);
  });
});

describe("toes that bend along with what changes", () => {
  it("bend frame by frame as the foot rolls on, and nothing is raised for them", () => {
    const rolls = Array.from({ length: 40 }, (_, f) => 0.8 * Math.sin((Math.PI * f) / 39) ** 2);
    const motion = onGround(pitched(rolls), skin, 0);
    // The ball stays where it is on the ground: the ankle is as high over it as the foot's pitch has it.
    const ankle = worldAt(motion.clip, 0, FOOT).place[1];
    const grounded = { ...motion, ground: planeGround(ankle - 0.5) };
    for (const [f, roll] of rolls.entries()) {
      const one = onGround(pitched([roll, roll, roll]), skin, worldAt(motion.clip, f, TOE).place[1] - THICK);
      expect(lowest(cleared(one), 1), `pitched ${roll}`).toBeGreaterThan(-5e-4);
    }
    expect(cleared(grounded).clip).toBe(grounded.clip);
    const deepest = Math.min(...rolls.map((_, f) => worldAt(motion.clip, f, TOE).place[1]));
    const made = cleared({ ...motion, ground: planeGround(deepest - THICK) });
    for (const f of rolls.keys()) {
      expect(depthAt(made, f), `frame ${f}`).toBeLessThan(0.001);
      expect(worldAt(made.clip, f, FOOT).place[1] - worldAt(motion.clip, f, FOOT).place[1], `frame ${f}`).toBeLessThan(0.001);
    }
  });

  it("bend up onto a box that begins in front of the ball", () => {
    const flat = standing(pitched(Array(5).fill(0)));
    const [x, , z] = worldAt(flat.clip, 2, TOE).place;
    const box = { shape: "box", x, z: z + 0.02, heading: 0, width: 1, length: 1, height: 0.02 } as const;
    const motion = { ...flat, ground: { ...flat.ground, shapes: [box] } };
    expect(depthAt(motion, 2)).toBeGreaterThan(0.015);
    const made = cleared(motion);
    expect(depthAt(made, 2)).toBeLessThan(0.001);
    expect((quatAngleFlat(worldAt(made.clip, 2, TOE).turn, 0, worldAt(made.clip, 2, FOOT).turn, 0) * 180) / Math.PI).toBeGreaterThan(10);
    expect(Math.abs(worldAt(made.clip, 2, FOOT).place[1] - worldAt(motion.clip, 2, FOOT).place[1])).toBeLessThan(0.012);
  });

  it("leave the tip of a toe that stands by itself where it stands", () => {
    const rolls = Array.from({ length: 20 }, (_, f) => 0.4 + 0.02 * f);
    const motion = standing(pitched(rolls));
    const tip = motion.points.find((p) => p.id === "leftToeTip");
    if (!tip) throw new Error("no tip");
    const tipAt = (clip: Clip, f: number) => {
      const { place, turn } = worldAt(clip, f, tip.joint);
      return Array.from(rotateVecFlat(new Float64Array(3), 0, turn, 0, [...tip.local], 0), (v, c) => v + place[c]);
    };
    const [x, , z] = tipAt(motion.clip, 10);
    const anchor = { mode: "set", point: [x, motion.ground.height, z] } as const;
    const contact = { point: tip.id, joint: tip.joint, start: 5, end: 15, on: "place", anchor, rampIn: null, rampOut: null, origin: "set" } as const;
    const made = cleared({ ...motion, contacts: [contact] });
    const bend = (f: number) => quatAngleFlat(worldAt(made.clip, f, TOE).turn, 0, worldAt(made.clip, f, FOOT).turn, 0);
    for (let f = 5; f <= 15; f++) {
      const at = tipAt(made.clip, f);
      expect(Math.hypot(at[0] - x, at[2] - z), `frame ${f}`).toBeLessThan(1e-4);
      expect(depthAt(made, f), `frame ${f}`).toBeLessThan(0.001);
    }
    expect(bend(15)).toBeGreaterThan(0.1);
  });
});

it("a plant that cannot keep a skin out of the floor says so", () => {
  const plant = (settings: Record<string, unknown>, details = {}) =>
    new Evaluator(oneSource(skeleton, stick.clip, details)).evaluate(stick.work(patch("plant", settings))).notes.filter((n) => n.field === "clearSkin");
  expect(plant({ clearSkin: true })).toMatchObject([{ message: expect.stringMatching(/no skin of its own.*cast it onto the character/) }]);
  expect(plant({ clearSkin: false })).toEqual([]);
  expect(plant({ clearSkin: true }, { skin })).toEqual([]);
});

describe("a foot over its edges", () => {
  /** How deep the deepest of all vertices is, metres, where the ball is, and how the foot is turned. */
  const seen = (motion: Motion, frame: number) => {
    const { place } = worldAt(motion.clip, frame, TOE);
    return { depth: depthAt(motion, frame), ball: place, foot: worldAt(motion.clip, frame, FOOT).turn };
  };
  const rolled = (degrees: number, frames = 5) => {
    const clip = turnedBy(Array(frames).fill([0, 0, (degrees * Math.PI) / 180]));
    const motion = standing(clip, board);
    const { positions, jointCount } = clipWorld(skeleton, clip);
    return { ...motion, ground: planeGround(positions[(2 * jointCount + TOE) * 3 + 1] - THICK) };
  };

  it.each([-12, -4, 4, 12])("rolled by %d° it is turned back about its ball as far as its edge asks, and hardly raised", (degrees) => {
    const motion = rolled(degrees);
    const before = seen(motion, 2);
    expect(before.depth).toBeGreaterThan(0.9 * WIDE * Math.sin((Math.abs(degrees) * Math.PI) / 180));
    const after = seen(cleared(motion), 2);
    expect(after.depth).toBeLessThan(0.0005);
    for (const c of [0, 2]) expect(Math.abs(after.ball[c] - before.ball[c])).toBeLessThan(1e-5);
    expect(after.ball[1] - before.ball[1]).toBeLessThan(0.3 * before.depth);
    const back = (quatAngleFlat(before.foot, 0, after.foot, 0) * 180) / Math.PI;
    expect(back).toBeGreaterThan(0.7 * Math.abs(degrees));
    expect(back).toBeLessThan(Math.abs(degrees));
  });

  it("is turned no further than feet are, and raised out of the rest", () => {
    const motion = rolled(40);
    const made = cleared(motion);
    expect(seen(made, 2).depth).toBeLessThan(0.0005);
    expect((quatAngleFlat(seen(motion, 2).foot, 0, seen(made, 2).foot, 0) * 180) / Math.PI).toBeLessThan(20.1);
    expect(seen(made, 2).ball[1]).toBeGreaterThan(seen(motion, 2).ball[1] + 0.003);
  });

  it("is cleared by a plant's weight, and where the ground slopes as well", () => {
    const motion = rolled(10);
    const [none, half, whole] = [0, 0.5, 1].map((share) => seen(cleared(motion, true, share), 2).depth);
    expect(none).toBe(seen(motion, 2).depth);
    expect(half).toBeGreaterThan(0.2 * none);
    expect(half).toBeLessThan(0.8 * none);
    expect(whole).toBeLessThan(0.0005);
    const flat = rolled(0);
    const at = seen(flat, 2).ball;
    const sloped = { ...flat, ground: planeGround(flat.ground.height - 0.1 * at[0], 0.1, 0) };
    const made = cleared(sloped);
    expect(depthAt(made, 2)).toBeLessThan(0.0005);
    // Laid along the slope, not raised by what its edge lacked.
    expect(seen(made, 2).ball[1] - at[1]).toBeLessThan(0.0015);
  });

  it("that stands deep inside something is left there", () => {
    const motion = rolled(10);
    const sunk = { ...motion, ground: planeGround(motion.ground.height + 0.3) };
    expect(cleared(sunk).clip).toBe(sunk.clip);
  });
});

it("what is read of a foot is read anew when a person maps its toe otherwise", () => {
  const made = [{}, { leftToe: null }].map((body) => {
    const character = characterOf(skeleton, stick.clip, body, { skin: board });
    return footSkins(character, character.contactPoints).get(FOOT);
  });
  expect(made.map((foot) => foot?.toe)).toEqual([TOE, -1]);
  expect(made.map((foot) => foot?.bend !== null)).toEqual([true, false]);
  expect(made[1]?.places.mixed).toBe(made[1]?.places.shares.length);
  expect(made[0]?.places.mixed).toBeLessThan(made[0]?.places.shares.length ?? 0);
});
