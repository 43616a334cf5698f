import type { Clip } from "./clip/clip.ts";
import { applyContactEdits, type ContactPart } from "./contacts/contact.ts";
import { findContacts, type Grounding, soleOf } from "./contacts/find.ts";
import { partJoint } from "./contacts/limbs.ts";
import { clipWorld, type WorldClip } from "./kinematics/forward.ts";
import { rigOf } from "./kinematics/rig.ts";
import type { Motion } from "./motion.ts";
import { applyPatch } from "./patches/index.ts";
import { retrack, solvePlants } from "./plants/solve.ts";
import { type BodyMap, mapBody } from "./skeleton/bodyMap.ts";
import type { Skeleton } from "./skeleton/skeleton.ts";
import { bodyOverrides, type Patch, type Work } from "./work.ts";

export interface Evaluation {
  /** what was evaluated */
  readonly work: Work;
  /** the source with its contacts (found and set), before any patch */
  readonly base: Motion;
  /** the motion after each active patch, in stack order */
  readonly stages: readonly { readonly patch: Patch; readonly motion: Motion }[];
  readonly result: Motion;
}

/** Patches that take part: not muted, and when any is soloed only those. */
export function activePatches(patches: readonly Patch[]): Patch[] {
  const solo = patches.some((p) => p.solo && !p.muted);
  return patches.filter((p) => !p.muted && (!solo || p.solo));
}

/**
 * Evaluates works on one source, keeping what it computed: the body map and contacts until their edits change, and the motion after
 * each patch until that patch or anything before it changes. Muted patches are as if absent, bit for bit.
 */
export class Evaluator {
  private body: { key: string; map: BodyMap; grounding: Grounding } | undefined;
  private base: { key: string; motion: Motion } | undefined;
  private readonly cache = new Map<string, { key: string; input: Motion; output: Motion }>();
  private final: { input: Motion; output: Motion } | undefined;
  private readonly worlds = new WeakMap<Clip, WorldClip>();

  constructor(
    readonly skeleton: Skeleton,
    readonly clip: Clip,
  ) {}

  /** Throws PatchError when a patch cannot be applied. */
  evaluate(work: Work): Evaluation {
    const base = this.baseMotion(work);
    let motion = base;
    const stages: { patch: Patch; motion: Motion }[] = [];
    for (const patch of activePatches(work.patches)) {
      motion = this.cached(patch, motion);
      stages.push({ patch, motion });
    }
    for (const id of this.cache.keys()) if (!work.patches.some((p) => p.id === id)) this.cache.delete(id);
    return { work, base, stages, result: work.livePlant ? this.plantLast(motion) : motion };
  }

  /** World transforms of a clip, kept as long as the clip is. */
  world(clip: Clip): WorldClip {
    let world = this.worlds.get(clip);
    if (!world) {
      world = clipWorld(this.skeleton, clip);
      this.worlds.set(clip, world);
    }
    return world;
  }

  private baseMotion(work: Work): Motion {
    const bodyKey = JSON.stringify(work.body);
    if (this.body?.key !== bodyKey) {
      const map = mapBody(this.skeleton, this.clip, bodyOverrides(work));
      this.body = { key: bodyKey, map, grounding: findContacts(this.skeleton, this.clip, map) };
    }
    const key = bodyKey + JSON.stringify(work.contacts);
    if (this.base?.key !== key) {
      const { map, grounding } = this.body;
      const jointOf = (part: ContactPart) => {
        const sole = soleOf(grounding.soles, part);
        return sole ? partJoint(sole.leg, part) : (map.roles[part as "leftHand" | "rightHand"] ?? 0);
      };
      this.base = {
        key,
        motion: {
          skeleton: this.skeleton,
          body: map,
          rig: rigOf(this.skeleton, this.clip, map),
          clip: this.clip,
          contacts: applyContactEdits(grounding.contacts, work.contacts, jointOf, this.clip.frameCount),
          floor: grounding.floor,
          soles: grounding.soles,
          timeMap: Float64Array.from({ length: this.clip.frameCount }, (_, f) => f),
          plant: null,
        },
      };
    }
    return this.base.motion;
  }

  private cached(patch: Patch, input: Motion): Motion {
    const { name, muted, solo, ...rest } = patch;
    const key = JSON.stringify(rest);
    const hit = this.cache.get(patch.id);
    if (hit && hit.key === key && hit.input === input) return hit.output;
    const output = applyPatch(input, patch);
    this.cache.set(patch.id, { key, input, output });
    return output;
  }

  /** The live plant: if patches behind it changed the motion, its anchors are enforced once more. */
  private plantLast(motion: Motion): Motion {
    if (!motion.plant || motion.plant.solved === motion.clip) return motion;
    if (this.final?.input === motion) return this.final.output;
    const { settings, weights, solved } = motion.plant;
    const since = solved.frameCount === motion.clip.frameCount ? solved : null;
    const contacts = motion.contacts.filter((c) => c.anchor.point);
    const soles = retrack(motion.soles, motion.skeleton, motion.clip);
    const clip = solvePlants(motion.skeleton, motion.clip, soles, contacts, motion.floor, settings, weights, since);
    const output = { ...motion, clip };
    this.final = { input: motion, output };
    return output;
  }
}
