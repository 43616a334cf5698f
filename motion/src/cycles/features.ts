import type { Character } from "../character/character.ts";
import { legLengthOf } from "../character/legLength.ts";
import { jointTracks } from "../contacts/tracks.ts";
import { mirrorPairs } from "../mirror/pairs.ts";
import type { Motion } from "../motion.ts";

/** Speeds count as places so long after, seconds. */
const LOOK_AHEAD = 0.08;
/** What a contact that is there at one end only counts for, shares of leg length. */
const CONTACT_COUNTS = 0.04;
/** How near to a contact's end is beside it, seconds. */
const EDGE_SECONDS = 0.06;

/** A body's parts as the hips see them, level and heading taken out: [frame][part][place 3, velocity 3], metres and metres a second. */
export interface Features {
  readonly parts: number;
  readonly values: Float64Array;
  readonly legLength: number;
  /** bit k: does limb-end point k rest on the frame? */
  readonly resting: Int32Array;
  /** is there an end of a contact near the frame? */
  readonly edges: Uint8Array;
  /** [part] the part on the other side */
  readonly partner: Int16Array;
}

export function featuresOf(motion: Motion): Features {
  const { character, clip } = motion;
  const { rig, body } = character;
  const { roles } = body;
  const wanted = [rig.hips, rig.chest, rig.head, ...rig.limbs.flatMap((l) => [l.upper, l.lower, l.end]), roles.leftToe ?? -1, roles.rightToe ?? -1];
  const joints = [...new Set(wanted.filter((j) => j >= 0))];
  const tracks = jointTracks(character.skeleton, clip, joints);
  const hips = tracks[joints.indexOf(rig.hips)];
  const n = clip.frameCount;
  const parts = joints.length;
  const values = new Float64Array(n * parts * 6);
  const heading = headings(character, hips.rotations);
  for (let f = 0; f < n; f++) {
    const [c, s] = [Math.cos(heading[f]), Math.sin(heading[f])];
    const [before, behind] = [Math.max(0, f - 1), Math.min(n - 1, f + 1)];
    const per = clip.fps / Math.max(1, behind - before);
    tracks.forEach(({ positions: p }, k) => {
      const o = (f * parts + k) * 6;
      const [x, z] = [p[f * 3] - hips.positions[f * 3], p[f * 3 + 2] - hips.positions[f * 3 + 2]];
      values[o] = c * x - s * z;
      values[o + 1] = p[f * 3 + 1];
      values[o + 2] = s * x + c * z;
      const [vx, vy, vz] = [0, 1, 2].map((i) => (p[behind * 3 + i] - p[before * 3 + i]) * per);
      values[o + 3] = c * vx - s * vz;
      values[o + 4] = vy;
      values[o + 5] = s * vx + c * vz;
    });
  }
  const resting = new Int32Array(n);
  motion.points.forEach((point, k) => {
    for (const contact of motion.contacts) if (contact.point === point.id) for (let f = contact.start; f <= contact.end; f++) resting[f] |= 1 << (k % 31);
  });
  const edges = new Uint8Array(n);
  const near = Math.max(1, Math.round(EDGE_SECONDS * clip.fps));
  const bearing = new Set(motion.points.filter((p) => p.bears).map((p) => p.id));
  for (const { point, start, end } of motion.contacts)
    if (bearing.has(point)) for (const edge of [start, end]) if (edge > 0 && edge < n - 1) edges.fill(1, Math.max(0, edge - near), edge + near + 1);
  const pairs = mirrorPairs(character).partner;
  const partner = Int16Array.from(joints, (joint, k) => {
    const other = joints.indexOf(pairs[joint]);
    return other < 0 ? k : other;
  });
  return { parts, values, legLength: legLengthOf(character), resting, edges, partner };
}

function headings({ rig }: Character, rotations: ArrayLike<number>): Float64Array {
  const left = rig.hipsLeft;
  return Float64Array.from({ length: rotations.length / 4 }, (_, f) => {
    const [x, y, z, w] = [0, 1, 2, 3].map((i) => rotations[f * 4 + i]);
    // The rotated vector's x and z.
    const tx = 2 * (y * left[2] - z * left[1]);
    const ty = 2 * (z * left[0] - x * left[2]);
    const tz = 2 * (x * left[1] - y * left[0]);
    return Math.atan2(-(left[2] + w * tz + (x * ty - y * tx)), left[0] + w * tx + (y * tz - z * ty));
  });
}

/** How far apart a frame of one motion and a frame of another of the same body are: places and speeds as shares of leg length, and contacts in which they differ. */
export function apartBetween(
  { parts, values, legLength, resting }: Features,
  a: number,
  other: Features,
  b: number,
): { apart: number; pose: number; speed: number; contacts: number } {
  let [pose, speed] = [0, 0];
  const [oa, ob] = [a * parts * 6, b * parts * 6];
  for (let k = 0; k < parts * 6; k += 6) {
    for (let i = 0; i < 3; i++) {
      const d = values[oa + k + i] - other.values[ob + k + i];
      const v = values[oa + k + 3 + i] - other.values[ob + k + 3 + i];
      pose += d * d;
      speed += v * v;
    }
  }
  let differ = resting[a] ^ other.resting[b];
  let contacts = 0;
  for (; differ !== 0; differ &= differ - 1) contacts++;
  pose /= parts;
  speed /= parts;
  return {
    apart: Math.sqrt(pose + LOOK_AHEAD * LOOK_AHEAD * speed) / legLength + CONTACT_COUNTS * contacts,
    pose: Math.sqrt(pose),
    speed: Math.sqrt(speed),
    contacts,
  };
}

/** The same of two frames of one motion. */
export function apartOf(features: Features, a: number, b: number): { apart: number; pose: number; speed: number; contacts: number } {
  return apartBetween(features, a, features, b);
}

/** How far the pose of one frame, seen in a mirror along the body's heading, is from that of another: a share of leg length. */
export function mirroredApart({ parts, values, legLength, partner }: Features, a: number, b: number): number {
  let sum = 0;
  for (let k = 0; k < parts; k++) {
    const [oa, ob] = [(a * parts + partner[k]) * 6, (b * parts + k) * 6];
    for (let i = 0; i < 3; i++) {
      const sign = i === 0 ? -1 : 1;
      const d = sign * values[oa + i] - values[ob + i];
      const v = sign * values[oa + 3 + i] - values[ob + 3 + i];
      sum += d * d + LOOK_AHEAD * LOOK_AHEAD * v * v;
    }
  }
  return Math.sqrt(sum / parts) / legLength;
}
