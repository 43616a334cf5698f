import { describe, expect, it } from "vitest";
import { skinnedVertices } from "../character/skin.ts";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { groundHeight, planeGround } from "../ground/ground.ts";
import { clipWorld } from "../kinematics/forward.ts";
import { expQuatFlat, quatAngleFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { oneSource } from "../sources.ts";
import { patch, stick } from "../testing/patched.ts";
import { restPlace, skinOf } from "../testing/skinned.ts";
import { PLANT_DEFAULTS } from "./settings.ts";
import { solvePlants } from "./solve.ts";

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
function turnedBy(turns: readonly (readonly number[])[]): Clip {
  const draft = ClipDraft.make("pitched", 30, turns.length, skeleton.names.length, Int16Array.of(0));
  turns.forEach((turn, f) => {
    skeleton.names.forEach((_, j) => draft.setRotation(j, f, [...skeleton.restRotations.subarray(j * 4, j * 4 + 4)]));
    draft.setRotation(FOOT, f, expQuatFlat(new Float64Array(4), 0, [...turn], 0));
    draft.setPosition(0, f, [0, 0, 0]);
  });
  return draft.done();
}

/** The ball stands on the ground. */
function standing(clip: Clip, details = { skin }): Motion {
  const motion = new Evaluator(oneSource(skeleton, clip, details)).unsearched(emptyWork());
  const { positions } = clipWorld(skeleton, clip);
  // Its points are never in the ground, so that the skin alone has a say.
  const points = motion.points.map((point) => ({ ...point, clearance: -1 }));
  return { ...motion, points, ground: planeGround(positions[TOE * 3 + 1] - THICK, 0, 0) };
}

/** Feet with nothing to hold, kept out of the ground by their skin. */
function cleared(motion: Motion, clearSkin = true, share = 1): Motion {
  const weights = new Float64Array(motion.clip.frameCount).fill(share);
  return { ...motion, clip: solvePlants({ ...motion, contacts: [], plants: [{ settings: { ...PLANT_DEFAULTS, hipsMayDropCm: 0, clearSkin }, weights }] }) };
}

function lowest({ clip, ground }: Motion, frame: number): number {
  const { positions, rotations, jointCount: n } = clipWorld(skeleton, clip);
  const places = skinnedVertices(
    skin,
    skin.parts[0],
    positions.subarray(frame * n * 3, (frame + 1) * n * 3),
    rotations.subarray(frame * n * 4, (frame + 1) * n * 4),
  );
  // Those of the toe in front of what lies below its joint.
  return Math.min(...Array.from({ length: 48 }, (_, v) => (v < 16 ? 1 : places[v * 3 + 1]))) - ground.height;
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
    const bare = standing(pitched([0.5, 0.5, 0.5]), { skin: null as never });
    expect(cleared(bare).clip).toBe(bare.clip);
    // A jump in what is needed is met by a bend that grows.
    const sudden = standing(pitched([...Array(10).fill(0), ...Array(10).fill(0.6)]));
    const course = Array.from({ length: 20 }, (_, f) => Math.asin(cleared(sudden).clip.rotations[TOE][0][f * 4]) * -2);
    expect(Math.abs(course[0])).toBe(0);
    expect(course[10]).toBeGreaterThan(0.59);
    for (let f = 1; f < 20; f++) expect(Math.abs(course[f] - course[f - 1])).toBeLessThan(0.35);
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
  /** How deep the deepest of all vertices is, metres, and where the ball is. */
  const seen = ({ clip, ground }: Motion, frame: number) => {
    const { positions, rotations, jointCount: n } = clipWorld(skeleton, clip);
    const [p, q] = [positions.subarray(frame * n * 3, (frame + 1) * n * 3), rotations.subarray(frame * n * 4, (frame + 1) * n * 4)];
    const heights = Array.from(skinnedVertices(board, board.parts[0], p, q)).filter((_, i) => i % 3 === 1);
    return { depth: ground.height - Math.min(...heights), ball: p.slice(TOE * 3, TOE * 3 + 3), foot: q.slice(FOOT * 4, FOOT * 4 + 4) };
  };
  const rolled = (degrees: number, frames = 5) => {
    const clip = turnedBy(Array(frames).fill([0, 0, (degrees * Math.PI) / 180]));
    const motion = standing(clip, { skin: board });
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
    const { positions, rotations, jointCount: n } = clipWorld(skeleton, made.clip);
    const places = skinnedVertices(board, board.parts[0], positions.subarray(2 * n * 3, 3 * n * 3), rotations.subarray(2 * n * 4, 3 * n * 4));
    const deepest = Math.max(
      ...Array.from({ length: places.length / 3 }, (_, v) => groundHeight(sloped.ground, places[v * 3], places[v * 3 + 2]) - places[v * 3 + 1]),
    );
    expect(deepest).toBeLessThan(0.0005);
    // Laid along the slope, not raised by what its edge lacked.
    expect(seen(made, 2).ball[1] - at[1]).toBeLessThan(0.0015);
  });

  it("that stands deep inside something is left there", () => {
    const motion = rolled(10);
    const sunk = { ...motion, ground: planeGround(motion.ground.height + 0.3) };
    expect(cleared(sunk).clip).toBe(sunk.clip);
  });
});
