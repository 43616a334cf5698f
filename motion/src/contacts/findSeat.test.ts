import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import type { ContactPoint } from "../character/contactPoints.ts";
import { ClipDraft } from "../clip/clip.ts";
import { stick } from "../testing/patched.ts";
import type { Contact } from "./contact.ts";
import { findSeat } from "./findSeat.ts";

const FPS = 30;
const FRAMES = 150;
/** Frames on which the body keeps its seat where it is. */
const SITS = [50, 100] as const;
const smooth = (u: number) => (u <= 0 ? 0 : u >= 1 ? 1 : u * u * (3 - 2 * u));
const turned = (axis: 0 | 1 | 2, angle: number) => [0, 1, 2].map((i) => (i === axis ? Math.sin(angle / 2) : 0)).concat(Math.cos(angle / 2));
const character = characterOf(stick.skeleton, stick.clip, {});
const seat = character.contactPoints.find((p) => p.id === "seat") as ContactPoint;

interface Sitting {
  /** height of the hips while it sits, and how far its thighs go forward, metres and radians */
  readonly low?: number;
  readonly thighs?: number;
  /** how far the chest sways, and the trunk leans, radians */
  readonly sways?: number;
  readonly leans?: number;
  readonly drift?: number;
  readonly until?: number;
}

/** A stick figure that comes down to a seat behind its feet, and rises again; it sways as it sits. */
function sitting({ low = 0.52, thighs = Math.PI / 2, sways = 0, leans = 0, drift = 0, until = SITS[1] }: Sitting = {}) {
  const draft = ClipDraft.make("sits", FPS, FRAMES, stick.clip.jointCount, stick.clip.positionJoints);
  for (let f = 0; f < FRAMES; f++) {
    const down = smooth((f - SITS[0] + 20) / 20) * (1 - smooth((f - until) / 20));
    for (let joint = 0; joint < stick.clip.jointCount; joint++) draft.setRotation(joint, f, [0, 0, 0, 1]);
    for (const side of ["Left", "Right"]) {
      draft.setRotation(stick.joint(`${side}UpLeg`), f, turned(0, -thighs * down));
      draft.setRotation(stick.joint(`${side}Leg`), f, turned(0, thighs * down));
    }
    draft.setRotation(stick.joint("Spine"), f, turned(0, down * (leans + sways * Math.sin(f / 7))));
    draft.setPosition(0, f, [(drift * f) / FPS, 0.95 + (low - 0.95) * down, -0.4 * down]);
  }
  return draft.done();
}

const contact = (point: string, on: Contact["on"] = "ground"): Contact => ({
  point,
  joint: character.contactPoints.find((p) => p.id === point)?.named ?? 0,
  start: 0,
  end: FRAMES - 1,
  on,
  anchor: { mode: "settle", point: null },
  rampIn: null,
  rampOut: null,
  origin: "found",
});
const FEET = ["leftHeel", "leftToe", "rightHeel", "rightToe"].map((id) => contact(id));
const found = (how: Sitting = {}, contacts: readonly Contact[] = FEET, travel = 0, points: readonly ContactPoint[] = character.contactPoints) =>
  findSeat(
    character,
    sitting(how),
    seat,
    contacts,
    points,
    Float64Array.from({ length: FRAMES * 2 }, (_, i) => (i % 2 === 0 ? (travel * i) / 2 / FPS : 0)),
  );
/** Points of the feet so far apart that the whole body is over them, wherever it sits. */
const wide = character.contactPoints.map((p) =>
  p.bears ? { ...p, local: [p.side === "left" ? 2 : -2, 0, p.id.endsWith("Toe") ? 2 : -2] as const, joint: stick.joint("Hips") } : p,
);

describe("a seat over the ground", () => {
  it("is one from when it is where it stays to when it leaves it, as the body would fall over by its feet alone", () => {
    const spans = found();
    expect(spans).toHaveLength(1);
    expect(Math.abs(spans[0][0] - SITS[0])).toBeLessThan(4);
    expect(Math.abs(spans[0][1] - SITS[1])).toBeLessThan(4);
  });

  it("is none where the body is over its feet and keeps still; but if its chest moves meanwhile and its hips do not", () => {
    expect(found({}, FEET, 0, wide)).toEqual([]);
    expect(found({ sways: 0.2 }, FEET, 0, wide)).toHaveLength(1);
    expect(found({ sways: 0.02 }, FEET, 0, wide)).toEqual([]);
    // Who kneels keeps the hips still as well.
    expect(found({ sways: 0.2 }, [...FEET, contact("leftKnee")], 0, wide)).toEqual([]);
  });

  it("is none under a trunk that lies, nor while a hand holds on", () => {
    expect(found({ leans: 0.7 })).toHaveLength(1);
    expect(found({ leans: 1.9 })).toEqual([]);
    expect(found({}, [...FEET, contact("leftHand", "place")])).toEqual([]);
    expect(found({}, [...FEET, contact("leftHand", "ground")])).toHaveLength(1);
    expect(found({}, [...FEET, { ...contact("leftHand", "place"), end: 70 }])).toHaveLength(1);
  });

  it("is low where feet rest, and as high as it likes where legs dangle", () => {
    const high = { low: 0.9, thighs: 0.4 };
    expect(found(high)).toEqual([]);
    expect(found(high, [])).not.toEqual([]);
  });

  it("is kept for half a second at least", () => {
    expect(found({ until: SITS[0] + 6 })).toEqual([]);
    expect(found({ until: SITS[0] + 20 })).toHaveLength(1);
  });

  it("is seen with the travel put right", () => {
    expect(found({ drift: 0.04 })).toEqual([]);
    expect(found({ drift: 0.04 }, FEET, 0.04)).toHaveLength(1);
  });
});
