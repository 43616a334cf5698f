import { type Clip, ClipDraft } from "../clip/clip.ts";
import { jointTrack } from "../contacts/tracks.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { axisAngleQuatFlat, conjugateQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { headingOf } from "../pose/spaces.ts";
import { ancestry } from "../skeleton/skeleton.ts";

/** Where one clip's upper body sits on another's hips. */
export interface Waist {
  /** joints of the spine that are taken over, from the lowest up */
  readonly spine: readonly number[];
  /** what each frame's hips are turned by against the other clip's, seen along either body's heading: rotation vectors [frame][3], radians, in the world of the motion below */
  readonly turns: Float64Array;
  /** mean and most of it, degrees, over the frames that have weight */
  readonly meanDegrees: number;
  readonly mostDegrees: number;
}

/**
 * How two motions of one body disagree at the waist: how the hips below are turned against the hips that the other clip's upper body came with, headings apart. Null where
 * no upper body is taken over without its hips.
 */
export function waistOf(below: Motion, other: Motion, joints: ReadonlySet<number>, weights: Float64Array): Waist | null {
  const { rig, skeleton } = below.character;
  const spine = rig.spine.filter((j) => joints.has(j));
  if (spine.length === 0 || joints.has(rig.hips)) return null;
  const n = below.clip.frameCount;
  const tracks = [below, other].map((m) => jointTrack(skeleton, m.clip, rig.hips));
  const turns = new Float64Array(n * 3);
  const [a, b, h] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  let [sum, count, most] = [0, 0, 0];
  const worldRotations = new Float64Array(skeleton.names.length * 4);
  for (let f = 0; f < n; f++) {
    if (weights[f] === 0) continue;
    const heading = tracks.map((track) => {
      for (let i = 0; i < 4; i++) worldRotations[rig.hips * 4 + i] = track.rotations[f * 4 + i];
      return headingOf({ worldRotations }, rig);
    });
    // The other's hips, brought to the heading of those below: D = H · W_other · W_below⁻¹.
    axisAngleQuatFlat(h, 0, 0, 1, 0, heading[0] - heading[1]);
    multiplyQuatFlat(a, 0, h, 0, tracks[1].rotations, f * 4);
    conjugateQuatFlat(b, 0, tracks[0].rotations, f * 4);
    multiplyQuatFlat(a, 0, a, 0, b, 0);
    logQuatFlat(turns, f * 3, a, 0);
    const size = Math.hypot(turns[f * 3], turns[f * 3 + 1], turns[f * 3 + 2]);
    sum += size;
    count++;
    most = Math.max(most, size);
  }
  const degrees = 180 / Math.PI;
  return { spine, turns, meanDegrees: (degrees * sum) / Math.max(1, count), mostDegrees: degrees * most };
}

/** A mixed clip whose chest is turned in the world as it is in the other clip: the disagreement at the waist is shared out along the spine, by weight. */
export function sharedAlongSpine(clip: Clip, below: Motion, { spine, turns }: Waist, weights: Float64Array): Clip {
  const { skeleton } = below.character;
  const draft = ClipDraft.of(clip);
  const pose = new PoseFrame(skeleton, clip);
  const [v, q] = [new Float64Array(3), new Float64Array(4)];
  const order = [...spine].sort((a, b) => ancestry(skeleton, a).length - ancestry(skeleton, b).length);
  weights.forEach((w, f) => {
    if (w === 0) return;
    pose.load(clip, f);
    for (let i = 0; i < 3; i++) v[i] = (w * turns[f * 3 + i]) / order.length;
    expQuatFlat(q, 0, v, 0);
    for (const joint of order) {
      pose.turnWorld(joint, q);
      pose.update();
    }
    pose.store(draft, f, null);
  });
  return draft.done();
}
