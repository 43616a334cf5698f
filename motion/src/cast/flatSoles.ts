import { legsOf } from "../character/contactPoints.ts";
import { groundNormal } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, fromToQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { restWorld } from "../skeleton/skeleton.ts";

/** Feet that stand flat for so long in all show how they stand, seconds; and so many frames of it are looked at. */
const ENOUGH_SECONDS = 0.2;
const MOST_FRAMES = 200;
/** A sole that is off by less stands flat, by more it is none, radians. */
const FLAT = (0.5 * Math.PI) / 180;
const FURTHEST = (30 * Math.PI) / 180;

/** The change of a joint and its partner, as castChange gives it. */
type Change = (joint: number, partner: number, upright?: boolean) => Float64Array;

/**
 * Changes with the feet of two legs made up for how they stand: with A of W = W_partner · A, u the normal of the ground in the partner's frame while it stands flat and v that in the joint's own, A becomes R · A with R the least
 * turn from A · v to u. A foot that stands flat there stands flat here, however either body's feet are built or rest.
 */
export function withFlatSoles(change: Change, target: Motion, source: Motion): Change {
  const [here, there] = [flatUps(target), flatUps(source)];
  if (here.size === 0 || there.size === 0) return change;
  return (joint, partner, upright) => {
    const made = change(joint, partner, upright);
    const [v, u] = [here.get(joint), there.get(partner)];
    if (!v || !u) return made;
    const seen = rotateVecFlat(new Float64Array(3), 0, made, 0, v, 0);
    const dot = seen[0] * u[0] + seen[1] * u[1] + seen[2] * u[2];
    const apart = Math.acos(Math.max(-1, Math.min(1, dot)));
    if (apart < FLAT || apart > FURTHEST) return made;
    const turn = fromToQuatFlat(new Float64Array(4), 0, seen[0], seen[1], seen[2], u[0], u[1], u[2]);
    return multiplyQuatFlat(turn, 0, turn, 0, made, 0) as Float64Array;
  };
}

/** Per foot and toe joint the normal of the ground in its frame (unit length) while heel and toe both rest on it; at rest of a body that does nothing. Left out where that is not to be seen. */
function flatUps(motion: Motion): Map<number, Float64Array> {
  const { character, clip, contacts, ground } = motion;
  const { skeleton, body, rig } = character;
  const out = new Map<number, Float64Array>();
  const q = new Float64Array(4);
  const v = new Float64Array(3);
  if (body.plan !== "biped") return out;
  const pose = new PoseFrame(skeleton, clip);
  const rest = restWorld(skeleton).rotations;
  for (const leg of legsOf(skeleton, body, rig)) {
    if (leg.parts.length < 2) continue;
    const joints = leg.toe >= 0 ? [leg.end, leg.toe] : [leg.end];
    if (clip.frameCount === 1) {
      for (const j of joints) out.set(j, rotateVecFlat(new Float64Array(3), 0, conjugateQuatFlat(q, 0, rest, j * 4), 0, rig.up, 0) as Float64Array);
      continue;
    }
    const [heel, toe] = leg.parts.map((id) => {
      const down = new Uint8Array(clip.frameCount);
      for (const c of contacts) if (c.point === id && c.on === "ground") down.fill(1, c.start, c.end + 1);
      return down;
    });
    const flat = Array.from(heel.keys()).filter((f) => heel[f] && toe[f]);
    if (flat.length < ENOUGH_SECONDS * clip.fps) continue;
    const step = Math.ceil(flat.length / MOST_FRAMES);
    const sums = joints.map(() => new Float64Array(3));
    for (let i = 0; i < flat.length; i += step) {
      pose.load(clip, flat[i]);
      pose.update();
      joints.forEach((j, k) => {
        const normal = groundNormal(ground, pose.worldPositions[j * 3], pose.worldPositions[j * 3 + 2]);
        rotateVecFlat(v, 0, conjugateQuatFlat(q, 0, pose.worldRotations, j * 4), 0, normal, 0);
        for (let c = 0; c < 3; c++) sums[k][c] += v[c];
      });
    }
    joints.forEach((j, k) => {
      const size = Math.hypot(...sums[k]);
      if (size > 0)
        out.set(
          j,
          sums[k].map((part) => part / size),
        );
    });
  }
  return out;
}
