import { describe, expect, it } from "vitest";
import { chainReader } from "../kinematics/forward.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { stick } from "../testing/patched.ts";
import { jointTrack, jointTracks, pointTrack, restOffset } from "./tracks.ts";

const { skeleton, clip } = stick;

describe("courses of joints", () => {
  it("are each joint's own chain, to the bit, however many are asked for together and in whatever order", () => {
    const joints = ["LeftToeBase", "Hips", "Head", "RightHand", "LeftLeg"].map(stick.joint);
    const tracks = jointTracks(skeleton, clip, joints);
    const [p, q] = [new Float64Array(3), new Float64Array(4)];
    joints.forEach((joint, k) => {
      const reader = chainReader(skeleton, clip, joint);
      const alone = jointTrack(skeleton, clip, joint);
      expect(tracks[k]).toEqual(alone);
      expect(alone.frameCount).toBe(90);
      // Both sides of a chunk's edge, and both ends.
      for (const f of [0, 1, 62, 63, 64, 65, 88, 89]) {
        reader.read(f, p, q);
        for (let i = 0; i < 3; i++) expect(alone.positions[f * 3 + i]).toBeCloseTo(p[i], 12);
        for (let i = 0; i < 4; i++) expect(alone.rotations[f * 4 + i]).toBe(Math.fround(q[i]));
      }
    });
    expect(jointTracks(skeleton, clip, [])).toEqual([]);
  });

  it("carry a point of a joint along", () => {
    const track = jointTrack(skeleton, clip, stick.joint("LeftFoot"));
    const local = [0.03, -0.06, 0.13];
    const course = pointTrack(track, local);
    const v = new Float64Array(3);
    for (const f of [0, 40, 89]) {
      rotateVecFlat(v, 0, track.rotations, f * 4, local, 0);
      for (let i = 0; i < 3; i++) expect(course[f * 3 + i]).toBeCloseTo(track.positions[f * 3 + i] + v[i], 12);
    }
    expect([...pointTrack(track, [0, 0, 0])]).toEqual([...track.positions]);
  });

  it("lie at rest where the skeleton's offsets lead", () => {
    // From the foot to the toes: 6 cm down, 13 cm ahead; from the thigh to the foot two bones of 43 cm down.
    const [x, y, z] = restOffset(skeleton, stick.joint("LeftToeBase"), stick.joint("LeftFoot"));
    [x, y + 0.06, z - 0.13].forEach((d) => {
      expect(d).toBeCloseTo(0, 9);
    });
    expect(restOffset(skeleton, stick.joint("LeftFoot"), stick.joint("LeftUpLeg"))[1]).toBeCloseTo(-0.86, 9);
  });
});
