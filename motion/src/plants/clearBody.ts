import type { BodyMap } from "../character/bodyMap.ts";
import type { Character } from "../character/character.ts";
import { restSurface } from "../character/onSkin.ts";
import { ROLES } from "../character/roles.ts";
import type { Skin } from "../character/skin.ts";
import { type Carried, placeOf, skinExtremes } from "../character/skinExtremes.ts";
import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import { jointTracks } from "../contacts/tracks.ts";
import { groundHeight } from "../ground/ground.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { quinticStep } from "../math/ramp.ts";
import type { Motion } from "../motion.ts";
import { smoothEnvelope } from "../signal/filters.ts";
import { ancestry, restWorld } from "../skeleton/skeleton.ts";
import { type SolveScope, scopeMarks } from "./scope.ts";

/** Skin that is less deep is out of the ground, metres. */
const SKIMS = 0.001;
/** What is deeper than the second, shares of the body's height, lies inside something (a bed, a ditch that nobody has drawn) and is left there; up to the first it comes all the way out. */
const INSIDE = [0.06, 0.09] as const;
/** A lift comes and goes within so long, seconds. */
const COME_SECONDS = 0.15;

/** What of a body is kept out of the ground by its place as a whole. */
const TRUNK = /^(hips|spine\d?|chest|neck\d?|head|(left|right)Thigh)$/;

interface TrunkSkin {
  readonly joints: readonly number[];
  /** per joint its vertices, and how far the furthest is from it at rest, metres */
  readonly places: readonly (readonly Carried[])[];
  readonly reaches: readonly number[];
}

const read = new WeakMap<BodyMap, TrunkSkin>();

/** A clip with the body as much higher as trunk, head and thighs lie in the ground by their skin, so far as its plants (`weights` [frame]) keep the skin out of it; on two legs alone. Frames on which they do not keep their bits, and so do those off the scope. */
export function clearBody({ character, ground }: Pick<Motion, "character" | "ground">, clip: Clip, weights: Float64Array, scope: SolveScope | null): Clip {
  const { skin } = character.details;
  // Four legs that rest would be stretched by it.
  if (!skin || character.body.plan !== "biped") return clip;
  const trunk = read.get(character.body) ?? readTrunk(character, skin);
  read.set(character.body, trunk);
  const { joints, places, reaches } = trunk;
  const { skeleton, height } = character;
  const n = clip.frameCount;
  const tracks = jointTracks(skeleton, clip, joints);
  const lacks = new Float64Array(n);
  const pose = new PoseFrame(skeleton, clip);
  const at = new Float64Array(3);
  for (let f = 0; f < n; f++) {
    if (weights[f] === 0) continue;
    let loaded = false;
    let deepest = 0;
    for (const [i, { positions: p }] of tracks.entries()) {
      const o = f * 3;
      if (p[o + 1] - groundHeight(ground, p[o], p[o + 2]) > reaches[i] && ground.shapes.length === 0) continue;
      if (!loaded) pose.load(clip, f);
      loaded = true;
      for (const place of places[i]) {
        placeOf(at, place, pose.worldPositions, pose.worldRotations);
        deepest = Math.max(deepest, groundHeight(ground, at[0], at[2]) - at[1] - SKIMS);
      }
    }
    const out = (INSIDE[1] - deepest / height) / (INSIDE[1] - INSIDE[0]);
    lacks[f] = weights[f] * deepest * quinticStep(Math.max(0, Math.min(1, out)));
  }
  if (lacks.every((lack) => lack === 0)) return clip;
  const marks = scopeMarks(scope, clip, [...new Set(joints.flatMap((joint) => ancestry(skeleton, joint)))]);
  const lift = smoothEnvelope(lacks, Math.max(1, Math.round(COME_SECONDS * clip.fps)));
  return moveBody(skeleton, clip, (f) => (lift[f] === 0 || marks?.[f] === 0 ? null : { shift: [0, lift[f], 0], turn: null }));
}

function readTrunk({ skeleton, body }: Character, skin: Skin): TrunkSkin {
  const joints = ROLES.flatMap((role) => (TRUNK.test(role) ? (body.roles[role] ?? []) : []));
  const { positions, rotations } = restWorld(skeleton);
  const extremes = skinExtremes(skin, restSurface(skeleton, skin));
  const at = new Float64Array(3);
  const places = joints.map((joint) => extremes.filter((carried) => carried.joint === joint));
  const reaches = places.map((list, i) =>
    list.reduce((most, carried) => {
      placeOf(at, carried, positions, rotations);
      return Math.max(most, Math.hypot(...at.map((v, c) => v - positions[joints[i] * 3 + c])));
    }, 0),
  );
  return { joints, places, reaches };
}
