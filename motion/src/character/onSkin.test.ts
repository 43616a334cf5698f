import { describe, expect, it } from "vitest";
import { stick } from "../testing/patched.ts";
import { restPlace, skinOf, tube } from "../testing/skinned.ts";
import { characterOf } from "./character.ts";
import { restSurface, solesOnSkin } from "./onSkin.ts";

const { skeleton, clip } = stick;
const bare = characterOf(skeleton, clip);
describe("a body with a surface", () => {
  it("has volumes as thick as the mesh around them, in its middle; those without a mesh stay", () => {
    const made = characterOf(skeleton, clip, {}, { skin: skinOf(tube("LeftLeg", "LeftFoot", 0.09, 0.05, [0.01, 0.02])) });
    const volume = made.volumes.find((v) => v.joint === stick.joint("LeftLeg"));
    const before = bare.volumes.find((v) => v.joint === stick.joint("LeftLeg"));
    if (!volume || !before) throw new Error("no volume");
    const [wide, deep] = [Math.max(volume.size[0], volume.size[2]), Math.min(volume.size[0], volume.size[2])];
    expect(wide).toBeGreaterThan(0.083);
    expect(wide).toBeLessThan(0.091);
    expect(deep).toBeGreaterThan(0.045);
    expect(deep).toBeLessThan(0.052);
    expect(volume.size[1]).toBe(before.size[1]);
    expect(volume.origin[0]).toBeCloseTo(0.01, 2);
    expect(volume.origin[2]).toBeCloseTo(0.02, 2);
    const other = (c: typeof made) => c.volumes.find((v) => v.joint === stick.joint("RightLeg"));
    expect(other(made)).toEqual(other(bare));
  });

  it("has its knees at the front of the mesh; points without a mesh around them stay", () => {
    const made = characterOf(skeleton, clip, {}, { skin: skinOf([...tube("LeftUpLeg", "LeftLeg", 0.08, 0.08), ...tube("LeftLeg", "LeftFoot", 0.06, 0.06)]) });
    const point = (id: string, of = made) => of.contactPoints.find((p) => p.id === id);
    const forward = bare.rig.forward;
    const knee = point("leftKnee");
    const ahead = [0, 1, 2].reduce((s, c) => s + (knee?.local[c] ?? 0) * forward[c], 0);
    expect(ahead).toBeGreaterThan(0.055);
    expect(ahead).toBeLessThan(0.082);
    expect(knee?.placed).toBe(true);
    expect(point("rightKnee")).toEqual(point("rightKnee", bare));
  });

  it("has soles under its feet: a heel at the rear of the mesh, the ball under the toe joint, both at its lowest", () => {
    const [foot, toe] = [restPlace("LeftFoot"), restPlace("LeftToeBase")];
    const sole = foot[1] - 0.07;
    const slab = Array.from({ length: 200 }, (_, i) => ({
      joint: i % 20 < 14 ? "LeftFoot" : "LeftToeBase",
      at: [foot[0] + 0.04 * ((i % 10) / 9 - 0.5), sole + 0.02 * ((i % 7) / 6), foot[2] - 0.08 + (0.08 + toe[2] - foot[2] + 0.05) * ((i % 20) / 19)],
    }));
    const made = characterOf(skeleton, clip, {}, { skin: skinOf(slab) });
    const soles = solesOnSkin(made.contactPoints, restSurface(skeleton, skinOf(slab)), made.rig, made.height);
    expect(Object.keys(soles).sort()).toEqual(["leftHeel", "leftToe"]);
    expect(soles.leftHeel[1]).toBeCloseTo(-0.07, 2);
    expect(soles.leftHeel[2]).toBeCloseTo(-0.08, 1);
    expect(soles.leftToe[1]).toBeCloseTo(-0.07, 2);
    expect(soles.leftToe[2]).toBeCloseTo(toe[2] - foot[2], 6);
    // And the tip of its toe at the front of the sole, in the toe's own frame.
    const tip = made.contactPoints.find((p) => p.id === "leftToeTip");
    const front = Math.max(...slab.filter(({ joint }) => joint === "LeftToeBase").map(({ at }) => at[2]));
    expect(tip).toMatchObject({ joint: stick.joint("LeftToeBase"), placed: true, bears: false });
    expect(toe[2] + (tip?.local[2] ?? 0)).toBeCloseTo(front, 2);
    expect(toe[1] + (tip?.local[1] ?? 0)).toBeLessThan(sole + 0.008);
  });

  it("has its palms on the side of the hand that faces down while the arm is held out, its back and seat on the trunk", () => {
    const hand = restPlace("LeftHand");
    const out = bare.rig.left;
    // A flat box along the arm: three centimetres thick, lower below than above.
    const box = Array.from({ length: 90 }, (_, i) => {
      const [along, across, up] = [0.14 * ((i % 9) / 8), 0.08 * ((Math.floor(i / 9) % 5) / 4 - 0.5), i < 45 ? -0.02 : 0.01];
      return { joint: "LeftHand", at: [0, 1, 2].map((c) => hand[c] + along * out[c] + across * bare.rig.forward[c] + up * bare.rig.up[c]) };
    });
    const hips = restPlace("Hips");
    const chest = restPlace(skeleton.names[bare.rig.chest]);
    const trunk = [
      { joint: skeleton.names[bare.rig.chest], at: [0, 1, 2].map((c) => chest[c] - 0.12 * bare.rig.forward[c]) },
      { joint: skeleton.names[bare.rig.chest], at: [0, 1, 2].map((c) => chest[c] + 0.1 * bare.rig.forward[c]) },
      { joint: "Hips", at: [0, 1, 2].map((c) => hips[c] - 0.1 * bare.rig.forward[c] - 0.1 * bare.rig.up[c]) },
      { joint: "Hips", at: [0, 1, 2].map((c) => hips[c] - 0.11 * bare.rig.forward[c] - 0.11 * bare.rig.up[c] + 0.07 * out[c]) },
    ];
    const made = characterOf(skeleton, clip, {}, { skin: skinOf([...box, ...trunk]) });
    const point = (id: string) => made.contactPoints.find((p) => p.id === id);
    const [palm, middle] = [point("leftHand"), bare.contactPoints.find((p) => p.id === "leftHand")];
    const along = (v: readonly number[] | undefined, axis: ArrayLike<number>) => [0, 1, 2].reduce((s, c) => s + (v?.[c] ?? Number.NaN) * axis[c], 0);
    expect(palm?.placed).toBe(true);
    expect(along(palm?.local, bare.rig.up)).toBeCloseTo(-0.02, 6);
    expect(Math.abs(along(palm?.local, out) - along(middle?.local, out))).toBeLessThan(0.012);
    expect(along(point("back")?.local, bare.rig.forward)).toBeCloseTo(-0.12, 6);
    // Of two places as low the one in the middle.
    expect(along(point("seat")?.local, out)).toBeCloseTo(0, 6);
    expect(along(point("seat")?.local, bare.rig.up)).toBeCloseTo(-0.1, 6);
  });
});
