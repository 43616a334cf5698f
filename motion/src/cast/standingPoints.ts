import type { ContactPoint } from "../character/contactPoints.ts";
import { legLengthOf } from "../character/legLength.ts";
import { restSurface, solesOnSkin } from "../character/onSkin.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { restWorld } from "../skeleton/skeleton.ts";

/** A body at rest stands on the ground (y = 0, as glTF has it) when its lowest points are no further from it than these shares of its height. */
const STANDS = [-0.02, 0.08] as const;

/**
 * The contact points of a body that stands at rest and does nothing else: joints are as far over what they rest on as the mesh below them is, else as they stand over the ground; estimates of soles lie on the mesh, else on the ground. One that
 * hangs in the air, or sinks, says nothing of its soles.
 */
export function standingPoints({ character, clip, points }: Motion): readonly ContactPoint[] {
  const pose = new PoseFrame(character.skeleton, clip);
  pose.load(clip, 0);
  pose.update();
  const heightOf = (p: ContactPoint) => pose.point(new Float64Array(3), p.joint, p.local)[1];
  const lowest = Math.min(...points.filter((p) => p.bears).map(heightOf));
  if (!(lowest >= STANDS[0] * character.height && lowest <= STANDS[1] * character.height)) return points;
  const down = new Float64Array(3);
  const back = new Float64Array(4);
  const { skeleton, details, rig } = character;
  const soles = details.skin ? solesOnSkin(points, restSurface(skeleton, details.skin), rig, character.height) : {};
  return points.map((p) => {
    if (!p.bears || p.placed) return p;
    // A mesh shows where its sole is, also where a leg hangs a little over the ground at rest.
    const sole = soles[p.id];
    if (sole && !p.modelled) return { ...p, local: sole, clearance: 0, placed: true };
    const height = sole ? Math.hypot(...p.local.map((v, c) => v - sole[c])) : heightOf(p);
    if (p.modelled) return { ...p, clearance: Math.max(0, height) };
    conjugateQuatFlat(back, 0, pose.worldRotations, p.joint * 4);
    rotateVecFlat(down, 0, back, 0, [0, -height, 0], 0);
    return { ...p, local: [p.local[0] + down[0], p.local[1] + down[1], p.local[2] + down[2]], clearance: 0 };
  });
}

/**
 * Soles that are estimates on a body without motion, as those of a body that moves have shown themselves, in proportion: how far behind and beside its joint a heel lies, by the length from foot to toe
 * (else of the legs); how far below, the body's own standing says.
 */
export function provenPoints(like: Motion, source: Motion): readonly ContactPoint[] {
  if (like.clip.frameCount > 1) return like.points;
  const footScale = lengthOfFoot(like) / lengthOfFoot(source);
  const scale = Number.isFinite(footScale) && footScale > 0 ? footScale : legLengthOf(like.character) / legLengthOf(source.character);
  const [here, there] = [restWorld(like.character.skeleton).rotations, restWorld(source.character.skeleton).rotations];
  const [own, other] = [like.character.rig, source.character.rig];
  const v = new Float64Array(3);
  const back = new Float64Array(4);
  return like.points.map((p) => {
    const proven = source.points.find((q) => q.id === p.id);
    if (p.modelled || p.placed || !p.bears || !proven || proven.modelled) return p;
    // In the body's own left, up and forward.
    rotateVecFlat(v, 0, there, proven.joint * 4, [...proven.local], 0);
    const along = [other.left, other.up, other.forward].map((axis) => scale * (axis[0] * v[0] + axis[1] * v[1] + axis[2] * v[2]));
    rotateVecFlat(v, 0, here, p.joint * 4, [...p.local], 0);
    along[1] = own.up[0] * v[0] + own.up[1] * v[1] + own.up[2] * v[2];
    for (let c = 0; c < 3; c++) v[c] = along[0] * own.left[c] + along[1] * own.up[c] + along[2] * own.forward[c];
    rotateVecFlat(v, 0, conjugateQuatFlat(back, 0, here, p.joint * 4), 0, v, 0);
    return { ...p, local: [v[0], v[1], v[2]] };
  });
}

function lengthOfFoot({ character: { skeleton, body } }: Motion): number {
  const [foot, toe] = [body.roles.leftFoot, body.roles.leftToe];
  if (foot === undefined || toe === undefined) return Number.NaN;
  const { positions: p } = restWorld(skeleton);
  return Math.hypot(p[toe * 3] - p[foot * 3], p[toe * 3 + 1] - p[foot * 3 + 1], p[toe * 3 + 2] - p[foot * 3 + 2]);
}
