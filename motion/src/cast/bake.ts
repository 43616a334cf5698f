import type { BodyOverrides } from "../character/bodyMap.ts";
import { characterOf } from "../character/character.ts";
import { legLengthOf } from "../character/legLength.ts";
import type { PartRef } from "../character/parts.ts";
import { type Clip, ClipDraft, readPosition } from "../clip/clip.ts";
import { floored, flooredGround, held } from "../combine/other.ts";
import { scaledGround } from "../ground/ground.ts";
import type { Motion } from "../motion.ts";
import { PLANT_DEFAULTS, type PlantSettings } from "../plants/settings.ts";
import { handsKept } from "./hands.ts";
import { carriedOnto } from "./onto.ts";
import { provenPoints, standingPoints } from "./standingPoints.ts";

/** How contacts are held on the new soles: nothing is smoothed that the performance has, and feet of another build stay out of the floor. */
const SOLES: PlantSettings = { ...PLANT_DEFAULTS, steadyLegs: 0, hipsMayDropCm: 9, clearSkin: true };

/** A performance on another body. */
export interface Baked {
  readonly motion: Motion;
  /** parts of the other body that move and have no partner on this one */
  readonly without: readonly PartRef[];
}

/** How a performance is cast. */
export interface CastOptions {
  /** are hands led to where they meet: each other, and the body? */
  readonly hands: boolean;
}

/**
 * A motion on a character: parts turned as their partners are, the way over the ground by leg length, its contacts carried over and held by the plants on the new
 * soles. On the very same body it keeps its bits, ends of bones that only one of the two has as joints aside. `pause` is called now and then; what it throws ends it.
 */
export function bakedOnto(result: Motion, like: Motion, pause: () => void = () => {}, { hands }: CastOptions = { hands: true }): Baked {
  // At the performance's own rate, whatever the character's file has; on the performance's ground, as much larger as its way over it becomes.
  const level = floored(like);
  const {
    motion: carried,
    without,
    same,
  } = carriedOnto(result, {
    ...level,
    points: provenPoints(level, result),
    clip: { ...level.clip, fps: result.clip.fps },
    ground: scaledGround(flooredGround(result.ground), legLengthOf(like.character) / legLengthOf(result.character)),
  });
  if (same) return { motion: carried, without };
  pause();
  const motion = hands ? handsKept(carried, result) : carried;
  if (motion.contacts.length === 0) return { motion, without };
  return { motion: held({ ...motion, plants: [], settled: null }, SOLES, pause), without };
}

const bodies = new WeakMap<Motion, Motion>();

/** The body of a motion as one to cast onto: the place of its hips free to move. Read once for it. */
export function bodyOf(other: Motion): Motion {
  const known = bodies.get(other);
  if (known) return known;
  const { skeleton, rig } = other.character;
  const clip = withMover(other.clip, skeleton.offsets, rig.hips);
  const free = clip === other.clip ? other : { ...other, clip, character: characterOf(skeleton, clip, saidAs(other.character), other.character.details) };
  const body = clip.frameCount === 1 ? { ...free, points: standingPoints(free) } : free;
  bodies.set(other, body);
  return body;
}

/** The map of a body as corrections, so that reading it anew comes to the same. */
function saidAs({ skeleton, body }: Motion["character"]): BodyOverrides {
  return Object.fromEntries(Object.entries(body.roles).map(([role, joint]) => [role, skeleton.names[joint]]));
}

/** The same clip with a position track on a joint: where it is at rest, unless it has one. A character without motion keeps its hips in place, a performance moves them. */
function withMover(clip: Clip, offsets: Float64Array, joint: number): Clip {
  if (clip.positionJoints.includes(joint)) return clip;
  const slots = Int16Array.from([...clip.positionJoints, joint].sort((a, b) => a - b));
  const made = ClipDraft.make(clip.name, clip.fps, clip.frameCount, clip.jointCount, slots);
  const p = new Float64Array(3);
  slots.forEach((owner, slot) => {
    const from = clip.positionJoints.indexOf(owner);
    for (let f = 0; f < clip.frameCount; f++) {
      if (from >= 0) readPosition(clip, from, f, p, 0);
      else p.set(offsets.subarray(owner * 3, owner * 3 + 3));
      made.setPosition(slot, f, p);
    }
  });
  return { ...made.done(), rotations: clip.rotations };
}
