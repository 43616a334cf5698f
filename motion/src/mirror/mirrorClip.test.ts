import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { type Clip, ClipDraft, flatTrack, readPosition, readRotation } from "../clip/clip.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { axisAngleQuatFlat, quatAngleFlat } from "../math/quat.ts";
import { identityRest, type Skeleton } from "../skeleton/skeleton.ts";
import { stick } from "../testing/patched.ts";
import { mirrorFor, type StrayRootKeys } from "./mirror.ts";
import { mirroredClip } from "./mirrorClip.ts";
import { mirrorPairs } from "./pairs.ts";

const KEEP = { heading: "keep", place: "keep" } as const;
const ACROSS = { heading: "mirror", place: "mirror" } as const;

/** The stick figure under a joint of its own, which is turned by so much throughout; the body stands where it stood. */
function underRoot(degrees: number): { skeleton: Skeleton; clip: Clip } {
  const { skeleton, clip } = stick;
  const n = skeleton.names.length + 1;
  const rooted: Skeleton = {
    names: ["Reference", ...skeleton.names],
    parents: Int16Array.from([-1, ...Array.from(skeleton.parents, (p) => p + 1)]) as unknown as Skeleton["parents"],
    offsets: Float64Array.from([0, 0, 0, ...skeleton.offsets]),
    restRotations: identityRest(n),
    tips: skeleton.tips.map((t) => ({ ...t, joint: t.joint + 1 })),
  };
  const draft = ClipDraft.make("rooted", clip.fps, clip.frameCount, n, Int16Array.from([0, ...Array.from(clip.positionJoints, (j) => j + 1)]));
  const turn = axisAngleQuatFlat(new Float64Array(4), 0, 0, 1, 0, (degrees * Math.PI) / 180);
  const pose = new PoseFrame(skeleton, clip);
  const own = new PoseFrame(rooted, draft.clip);
  const q = new Float64Array(4);
  const p = new Float64Array(3);
  for (let f = 0; f < clip.frameCount; f++) {
    pose.load(clip, f);
    draft.setRotation(0, f, turn as Float64Array);
    for (let j = 0; j < clip.jointCount; j++) {
      readRotation(clip, j, f, q, 0);
      draft.setRotation(j + 1, f, q);
    }
    for (let s = 0; s < clip.positionJoints.length; s++) {
      readPosition(clip, s, f, p, 0);
      draft.setPosition(s + 1, f, p);
    }
    // The hips take the joint's turn back out.
    own.load(draft.clip, f);
    own.setWorld(1, pose.worldRotations.slice(0, 4));
    own.update();
    const [x, y, z] = [0, 1, 2].map((i) => pose.worldPositions[i] - own.worldPositions[3 + i]);
    own.moveWorld(1, x, y, z);
    own.store(draft, f, null);
  }
  return { skeleton: rooted, clip: draft.done() };
}

function world(skeleton: Skeleton, clip: Clip, f: number) {
  const pose = new PoseFrame(skeleton, clip);
  pose.load(clip, f);
  return pose;
}

describe("a joint above the hips", () => {
  const mirrored = (degrees: number, stray: StrayRootKeys) => {
    const { skeleton, clip } = underRoot(degrees);
    const character = characterOf(skeleton, clip);
    const { mirror, shift } = mirrorFor(character, clip, KEEP);
    return { skeleton, clip, character, out: mirroredClip(character, clip, mirror, shift, stray) };
  };
  const plain = () => {
    const character = characterOf(stick.skeleton, stick.clip);
    const { mirror, shift } = mirrorFor(character, stick.clip, KEEP);
    return mirroredClip(character, stick.clip, mirror, shift);
  };

  it("goes on reading zero where it reads zero, and the body is the mirrored one all the same", () => {
    const { skeleton, out } = mirrored(0, "turn");
    expect(flatTrack(out.rotations[0], 4).every((v, i) => (i % 4 === 3 ? Math.abs(Math.abs(v) - 1) < 1e-6 : Math.abs(v) < 1e-6))).toBe(true);
    expect(flatTrack(out.positions[0], 3).every((v) => Math.abs(v) < 1e-6)).toBe(true);
    const other = plain();
    for (const f of [0, 33, 71]) {
      const [a, b] = [world(skeleton, out, f), world(stick.skeleton, other, f)];
      for (let i = 0; i < b.worldPositions.length; i++) expect(a.worldPositions[i + 3]).toBeCloseTo(b.worldPositions[i], 5);
    }
  });

  it("that is turned by accident keeps its key, or reads zero once it is dropped; the body stands the same either way", () => {
    const kept = mirrored(90, "turn");
    const dropped = mirrored(90, "drop");
    const q = new Float64Array(4);
    readRotation(kept.out, 0, 40, q, 0);
    expect((quatAngleFlat(q, 0, new Float64Array([0, 0, 0, 1]), 0) * 180) / Math.PI).toBeCloseTo(90, 3);
    readRotation(dropped.out, 0, 40, q, 0);
    expect(quatAngleFlat(q, 0, new Float64Array([0, 0, 0, 1]), 0)).toBeLessThan(1e-6);
    for (const f of [0, 40, 80]) {
      const [a, b] = [world(kept.skeleton, kept.out, f), world(dropped.skeleton, dropped.out, f)];
      for (let i = 3; i < a.worldPositions.length; i++) expect(a.worldPositions[i]).toBeCloseTo(b.worldPositions[i], 5);
    }
  });
});

describe("where a mirrored body stands", () => {
  it("is where it stood, facing as it faced; or as seen across x = 0", () => {
    const character = characterOf(stick.skeleton, stick.clip);
    const place = (clip: Clip) => Array.from(world(stick.skeleton, clip, 0).worldPositions.slice(0, 3));
    const made = (where: Parameters<typeof mirrorFor>[2]) => {
      const { mirror, shift } = mirrorFor(character, stick.clip, where);
      return mirroredClip(character, stick.clip, mirror, shift);
    };
    const [x, y, z] = place(stick.clip);
    const kept = place(made(KEEP));
    for (const [i, v] of [x, y, z].entries()) expect(kept[i]).toBeCloseTo(v, 6);
    const across = made(ACROSS);
    for (const f of [0, 44]) {
      const [a, b] = [world(stick.skeleton, stick.clip, f).worldPositions, world(stick.skeleton, across, f).worldPositions];
      expect(b[0]).toBeCloseTo(-a[0], 6);
      expect(b[2]).toBeCloseTo(a[2], 6);
    }
  });
});

describe("pairs of joints", () => {
  it("are found by part, below known parts by place; what hangs on one side alone is told", () => {
    const { skeleton } = stick;
    const at = (name: string) => skeleton.names.indexOf(name);
    const extra: Skeleton = {
      names: [...skeleton.names, "Pouch", "Strap_A", "Strap_B"],
      parents: Int16Array.from([...skeleton.parents, at("LeftLeg") >= 0 ? at("LeftLeg") : 1, at("Chest"), at("Chest")]) as unknown as Skeleton["parents"],
      offsets: Float64Array.from([...skeleton.offsets, 0.1, 0, 0, 0.12, 0.05, 0.1, -0.12, 0.05, 0.1]),
      restRotations: identityRest(skeleton.names.length + 3),
      tips: skeleton.tips,
    };
    const draft = ClipDraft.make("x", 30, 2, extra.names.length, Int16Array.of(0));
    for (let j = 0; j < extra.names.length; j++) for (const f of [0, 1]) draft.setRotation(j, f, [0, 0, 0, 1]);
    const character = characterOf(extra, draft.done());
    const { partner, unpaired } = mirrorPairs(character);
    const n = skeleton.names.length;
    expect(partner[n + 1]).toBe(n + 2);
    expect(partner[n + 2]).toBe(n + 1);
    expect(partner[n]).toBe(n);
    expect(unpaired).toEqual([n]);
  });
});
