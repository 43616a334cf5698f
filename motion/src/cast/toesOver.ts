import { restSurface, toeSole } from "../character/onSkin.ts";
import type { Skin } from "../character/skin.ts";
import { ClipDraft, readRotation } from "../clip/clip.ts";
import { type JointTrack, jointTracks } from "../contacts/tracks.ts";
import { type Ground, groundHeight, groundNormal } from "../ground/ground.ts";
import { conjugateQuatFlat, expQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { smoothEnvelope } from "../signal/filters.ts";
import { restWorld } from "../skeleton/skeleton.ts";

/** Toes bend up no further than this, radians: a foot bends at its ball by about 60°, and a little more under load. */
const FURTHEST = (65 * Math.PI) / 180;
/** A bend comes and goes within this, seconds. */
const BEND_SECONDS = 0.06;
/** Bends below this are none, radians. */
const NOTHING = 1e-4;
/** What is deeper, share of the body's height, stands inside something, and no bend of its toes helps it. */
const INSIDE = 0.08;

/** A toe, or hoof, that bends. */
interface Toe {
  readonly joint: number;
  /** what it bends about in the joint's frame, so that a turn about it raises what lies in front */
  readonly hinge: readonly number[];
  /** places of the sole in front of the joint [place][3] in its frame, metres */
  readonly sole: Float64Array;
  /** how far the furthest of them is from the joint, metres */
  readonly reach: number;
}

/**
 * Toes and hooves bent up where the mesh in front of their joint would go through the ground: a foot that rolls over its ball leaves its toes lying. The bend of a frame is the least that has
 * every place of the sole out of the ground, evened over a few frames. Bodies without a skin, or without joints there, keep their bits.
 */
export function toesOver(motion: Motion): Motion {
  const { character, clip, ground } = motion;
  const toes = toesOf(motion);
  if (toes.length === 0) return motion;
  const tracks = jointTracks(
    character.skeleton,
    clip,
    toes.map((toe) => toe.joint),
  );
  const needed = toes.map((toe, i) => Float64Array.from({ length: clip.frameCount }, (_, f) => bendOver(tracks[i], f, toe, ground, INSIDE * character.height)));
  if (needed.every((list) => list.every((bend) => bend < NOTHING))) return motion;
  const half = Math.max(1, Math.round(BEND_SECONDS * clip.fps));
  const bends = needed.map((list) => smoothEnvelope(list, half));
  const draft = ClipDraft.of(clip);
  const [q, own] = [new Float64Array(4), new Float64Array(4)];
  const turn = new Float64Array(3);
  for (let f = 0; f < clip.frameCount; f++) {
    if (bends.every((list) => list[f] < NOTHING)) continue;
    toes.forEach(({ joint, hinge }, i) => {
      if (bends[i][f] < NOTHING) return;
      for (let c = 0; c < 3; c++) turn[c] = bends[i][f] * hinge[c];
      readRotation(clip, joint, f, own, 0);
      multiplyQuatFlat(q, 0, own, 0, expQuatFlat(q, 0, turn, 0), 0);
      normalizeQuatFlat(q, 0);
      draft.setRotation(joint, f, q);
    });
  }
  return { ...motion, clip: draft.done() };
}

const read = new WeakMap<Skin, Toe[]>();

/** Read once for a skin. */
function toesOf(motion: Motion): Toe[] {
  const { skin } = motion.character.details;
  if (!skin) return [];
  const toes = read.get(skin) ?? readToes(motion, skin);
  read.set(skin, toes);
  return toes;
}

function readToes({ character, points }: Motion, skin: Skin): Toe[] {
  const { skeleton, rig, height } = character;
  const surface = restSurface(skeleton, skin);
  const back = new Float64Array(4);
  return points.flatMap(({ bears, joint: foot, named }): Toe[] => {
    if (!bears || named === foot) return [];
    const sole = toeSole(named, surface, rig, height);
    if (sole.length === 0) return [];
    const hinge = [-rig.left[0], -rig.left[1], -rig.left[2]];
    const own = rotateVecFlat(new Float64Array(3), 0, conjugateQuatFlat(back, 0, restWorld(skeleton).rotations, named * 4), 0, hinge, 0);
    const reach = Math.max(...Array.from({ length: sole.length / 3 }, (_, i) => Math.hypot(...sole.subarray(i * 3, i * 3 + 3))));
    return [{ joint: named, hinge: [own[0], own[1], own[2]], sole, reach }];
  });
}

const normal = new Float64Array(3);
const inverse = new Float64Array(4);
const offset = new Float64Array(3);

/**
 * How far a toe has to be bent up, radians. A place s of its sole, turned by θ about the hinge a, is over the ground's plane by h + A cos θ + B sin θ + C with n the plane's normal in the joint's frame, A = n·(s − (a·s)a), B = n·(a × s),
 * C = (a·s)(n·a) and h the joint's own height over it: it is out of the ground from θ = asin(−(h + C) / r) − atan2(A, B) on, r = √(A² + B²). Under a place the ground is a plane.
 */
function bendOver({ positions: p, rotations }: JointTrack, frame: number, toe: Toe, ground: Ground, inside: number): number {
  const { hinge: a, sole } = toe;
  const [x, y, z] = [p[frame * 3], p[frame * 3 + 1], p[frame * 3 + 2]];
  const stepped = ground.shapes.length > 0;
  let world = groundNormal(ground, x, z);
  let height = (y - groundHeight(ground, x, z)) * world[1];
  // Most of the time a foot is further up than its toes are long.
  if (!stepped && height > toe.reach) return 0;
  conjugateQuatFlat(inverse, 0, rotations, frame * 4);
  rotateVecFlat(normal, 0, inverse, 0, world, 0);
  let bend = 0;
  for (let s = 0; s < sole.length; s += 3) {
    if (stepped) {
      rotateVecFlat(offset, 0, rotations, frame * 4, sole, s);
      const [px, pz] = [x + offset[0], z + offset[2]];
      world = groundNormal(ground, px, pz);
      rotateVecFlat(normal, 0, inverse, 0, world, 0);
      height = (y + offset[1] - groundHeight(ground, px, pz)) * world[1] - (world[0] * offset[0] + world[1] * offset[1] + world[2] * offset[2]);
    }
    const whole = normal[0] * sole[s] + normal[1] * sole[s + 1] + normal[2] * sole[s + 2];
    const gap = height + whole;
    if (gap >= 0 || gap < -inside) continue;
    const along = a[0] * sole[s] + a[1] * sole[s + 1] + a[2] * sole[s + 2];
    const A = whole - along * (normal[0] * a[0] + normal[1] * a[1] + normal[2] * a[2]);
    const B =
      normal[0] * (a[1] * sole[s + 2] - a[2] * sole[s + 1]) +
      normal[1] * (a[2] * sole[s] - a[0] * sole[s + 2]) +
      normal[2] * (a[0] * sole[s + 1] - a[1] * sole[s]);
    const r = Math.sqrt(A * A + B * B);
    if (r < 1e-6) continue;
    bend = Math.max(bend, Math.asin(Math.max(-1, Math.min(1, (A - gap) / r))) - Math.atan2(A, B));
  }
  return Math.min(FURTHEST, bend);
}
