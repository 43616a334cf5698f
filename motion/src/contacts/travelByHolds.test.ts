import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { ClipDraft } from "../clip/clip.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { stick } from "../testing/patched.ts";
import { findContacts } from "./find.ts";
import { travelByHolds } from "./travelByHolds.ts";

const FPS = 30;
const FRAMES = 180;
const character = characterOf(stick.skeleton, stick.clip, {});
/** The height of both hands over the hips in the pose at rest, metres. */
const HANDS = 0.44;

/** A stick figure that swings from a bar through both its hands, which drifts by so many metres a second along x and z; or flies by. */
function hanging(x: number, z: number, flies = 0) {
  const draft = ClipDraft.make("hangs", FPS, FRAMES, stick.clip.jointCount, stick.clip.positionJoints);
  const v = new Float64Array(3);
  for (let f = 0; f < FRAMES; f++) {
    const angle = 0.4 * Math.sin(f / 11);
    const q = [Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)];
    for (let joint = 0; joint < stick.clip.jointCount; joint++) draft.setRotation(joint, f, [0, 0, 0, 1]);
    draft.setRotation(0, f, q);
    rotateVecFlat(v, 0, q, 0, [0, HANDS, 0], 0);
    const t = f / FPS;
    draft.setPosition(0, f, [x * t, 2.4 - v[1], z * t - v[2] + flies * t]);
  }
  return draft.done();
}

describe("a body that hangs by its hands", () => {
  it.each([
    [0, 0],
    [0.03, -0.02],
  ])("in a clip that drifts by %d and %d m/s: that is what they show, and they hold on all through", (x, z) => {
    const clip = hanging(x, z);
    const travel = travelByHolds(character, clip) as Float64Array;
    const seconds = (FRAMES - 1) / FPS;
    expect(travel[FRAMES * 2 - 2] - travel[0]).toBeCloseTo(x * seconds, 2);
    expect(travel[FRAMES * 2 - 1] - travel[1]).toBeCloseTo(z * seconds, 2);
    const { contacts, support } = findContacts(character, clip);
    expect(support.byFeet).toBe(false);
    expect(contacts.map((c) => [c.point, c.start, c.end, c.on])).toEqual([
      ["leftHand", 0, FRAMES - 1, "place"],
      ["rightHand", 0, FRAMES - 1, "place"],
    ]);
  });

  it("is none where it flies", () => {
    expect(travelByHolds(character, hanging(0, 0, 3))).toBeNull();
    expect(findContacts(character, hanging(0, 0, 3)).contacts).toEqual([]);
  });
});
