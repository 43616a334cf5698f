import { type Character, characterOf } from "./character/character.ts";
import { findPart } from "./character/parts.ts";
import { type Clip, clipSeconds } from "./clip/clip.ts";
import { applyContactEdits, type ContactEdit } from "./contacts/contact.ts";
import { findContacts, type Grounding, settleSurfaces } from "./contacts/find.ts";
import { takenAlong } from "./contacts/onTheSpot.ts";
import { PointTracks } from "./contacts/pointTracks.ts";
import { activePatches, type Patch } from "./documents/patch.ts";
import { bodyOverrides, type Work } from "./documents/work.ts";
import { MissingSource, PatchError } from "./formats/errors.ts";
import { LEVEL_GROUND } from "./ground/ground.ts";
import { clipWorld, type WorldClip } from "./kinematics/forward.ts";
import type { Motion } from "./motion.ts";
import { applyPatch, kindOf, lengthsOf, type PatchNote, patchWarp } from "./patches/index.ts";
import { type Solved, solveLast } from "./plants/solveAgain.ts";
import { renewed } from "./renew.ts";
import { axisOf } from "./signal/filters.ts";
import type { OtherClips, Sources } from "./sources.ts";
import type { Clocks } from "./time/moments.ts";
import { identityWarp, type TimeWarp } from "./time/warp.ts";

/** What one active patch made. */
export interface Stage {
  readonly patch: Patch;
  readonly motion: Motion;
  /** which moment of the motion that it received each moment of this one shows */
  readonly warp: TimeWarp;
  readonly notes: readonly PatchNote[];
}

export interface Evaluation {
  /** what was evaluated */
  readonly work: Work;
  /** the source with its contacts (found and set), before any patch */
  readonly base: Motion;
  /** the motion after each active patch, in stack order */
  readonly stages: readonly Stage[];
  readonly result: Motion;
  /** what the patches have to say beside their motions */
  readonly notes: readonly PatchNote[];
  /** ids of contact edits that mean nothing on this clip */
  readonly unusedContacts: readonly string[];
  /** the other clips that patches draw on */
  readonly others: OtherClips;
}

interface Kept {
  readonly key: string;
  readonly input: Motion;
  /** the other clips that it drew on, as they were */
  readonly drawn: readonly (Motion | undefined)[];
  readonly stage: Stage;
}

/**
 * Evaluates works on their sources, keeping what it computed: the character and its contacts until their edits change, and the motion after
 * each patch until that patch or anything before it changes; then only the frames that can differ are computed again, where the patch's kind
 * does not see all of its input, and so through the plants that are solved last. Muted patches are as if absent, bit for bit.
 */
export class Evaluator {
  private body: { key: string; character: Character } | undefined;
  private grounding: { key: string; grounding: Grounding } | undefined;
  private base: { key: string; motion: Motion; unused: readonly string[] } | undefined;
  private readonly cache = new Map<string, Kept>();
  private final: Solved | null = null;
  private readonly worlds = new WeakMap<Clip, WorldClip>();

  constructor(readonly sources: Sources) {}

  /**
   * Throws PatchError, with the patch's id, when a patch cannot be applied. `pause` is called now and then; what it throws ends the evaluation, and what
   * was done of it by then is kept. `told` hears how many of so many parts of the work are done: finding contacts, each patch, the plants solved last.
   */
  evaluate(work: Work, pause: () => void = () => {}, told: (done: number, of: number) => void = () => {}): Evaluation {
    const active = activePatches(work.patches);
    const parts = active.length + 2;
    told(0, parts);
    const { motion: base, unused } = this.baseMotion(work, pause);
    told(1, parts);
    let motion = base;
    const stages: Stage[] = [];
    for (const patch of active) {
      pause();
      const stage = this.cached(patch, motion, pause);
      stages.push(stage);
      motion = stage.motion;
      told(stages.length + 1, parts);
    }
    for (const id of this.cache.keys()) if (!work.patches.some((p) => p.id === id)) this.cache.delete(id);
    const result = work.livePlant ? this.plantLast(motion, pause) : motion;
    told(parts, parts);
    return {
      work,
      base,
      stages,
      result,
      notes: stages.flatMap((s) => s.notes),
      unusedContacts: unused,
      others: this.sources,
    };
  }

  /** World transforms of a clip, kept as long as the clip is. */
  world(clip: Clip): WorldClip {
    let world = this.worlds.get(clip);
    if (!world) {
      world = clipWorld(this.sources.main.skeleton, clip);
      this.worlds.set(clip, world);
    }
    return world;
  }

  /** The body of a work, with the person's corrections of its map. */
  character(work: Work): Character {
    const key = JSON.stringify(work.body);
    if (this.body?.key !== key) {
      const { skeleton, clip, skin, notes } = this.sources.main;
      this.body = { key, character: characterOf(skeleton, clip, bodyOverrides(work), { skin, notes }) };
    }
    return this.body.character;
  }

  /** The source before anything has been looked for in it: without contacts, over level ground. What there is to see while a long clip is searched. */
  unsearched(work: Work): Motion {
    const { clip } = this.sources.main;
    const character = this.character(work);
    return {
      character,
      clip,
      time: identityWarp(clipSeconds(clip)),
      points: character.contactPoints,
      contacts: [],
      ground: LEVEL_GROUND,
      support: { byFeet: true, climbs: false, share: 0, passing: 0, said: false },
      plants: [],
      groundTravel: null,
      settled: null,
    };
  }

  private baseMotion(work: Work, pause: () => void): { motion: Motion; unused: readonly string[] } {
    const { clip } = this.sources.main;
    const character = this.character(work);
    const bodyKey = JSON.stringify([work.body, work.carriedBy]);
    if (this.grounding?.key !== bodyKey) this.grounding = { key: bodyKey, grounding: findContacts(character, clip, work.carriedBy, pause) };
    const key = bodyKey + JSON.stringify(work.contacts);
    if (this.base?.key !== key) this.base = { key, ...groundedMotion(character, clip, this.grounding.grounding, work.contacts) };
    return this.base;
  }

  private cached(patch: Patch, input: Motion, pause: () => void): Stage {
    const { name, muted, solo, ...rest } = patch;
    const key = JSON.stringify(rest);
    const drawn = this.drawnOn(patch);
    const hit = this.cache.get(patch.id);
    if (hit && hit.key === key && hit.input === input && hit.drawn.every((motion, i) => motion === drawn[i])) return hit.stage;
    const notes: PatchNote[] = [];
    const seconds = (input.clip.frameCount - 1) / input.clip.fps;
    let stage: Stage;
    try {
      const again = hit && renewed({ patch: hit.stage.patch, input: hit.input, output: hit.stage.motion }, patch, input, notes, pause);
      const motion = again ?? applyPatch(input, patch, notes, pause, this.sources);
      stage = { patch, motion, warp: patchWarp(patch, seconds, input.clip.fps, input, lengthsOf(this.sources)), notes };
    } catch (error) {
      // Without its clip a patch does nothing, and says so; what stands over it goes on.
      if (!(error instanceof MissingSource)) throw error;
      const { field, message } = error;
      const note = { patchId: patch.id, field, message: message.slice(`${patch.name}: ${field}: `.length), stops: true } as const;
      stage = { patch, motion: input, warp: identityWarp(seconds), notes: [...notes, note] };
    }
    this.cache.set(patch.id, { key, input, drawn, stage });
    return stage;
  }

  /** The other clips that a patch draws on. Throws PatchError where one is there but cannot be used. */
  private drawnOn(patch: Patch): (Motion | undefined)[] {
    return kindOf(patch)
      .inputs(patch.settings)
      .map((ref) => {
        try {
          return this.sources.look(ref);
        } catch (error) {
          throw new PatchError(patch.id, patch.name, "clip", `"${ref.name}" cannot be used: ${error instanceof Error ? error.message : String(error)}`);
        }
      });
  }

  /** The live plants: if patches behind them changed the motion, their anchors are enforced once more. */
  private plantLast(motion: Motion, pause: () => void): Motion {
    if (this.final?.input !== motion) this.final = { input: motion, output: solveLast(motion, this.final, pause) };
    return this.final.output;
  }
}

/** The source as a motion: its contacts as found with a person's edits laid over them, each on the surface that it rests on. One that goes on the spot is seen as its ground sees it, which passes under it. */
function groundedMotion(
  character: Character,
  source: Clip,
  grounding: Grounding,
  edits: readonly ContactEdit[],
): { motion: Motion; unused: readonly string[] } {
  const { points, ground, support, way } = grounding;
  const clip = way ? takenAlong(character, source, way) : source;
  const target = {
    fps: clip.fps,
    frameCount: clip.frameCount,
    namedJoint: (id: string) => points.find((p) => p.id === id)?.named,
    besides: (id: string) => {
      const own = points.find((p) => p.id === id);
      return own && own.limb >= 0 ? points.flatMap((p) => (p.id !== id && p.limb === own.limb ? [p.id] : [])) : [];
    },
    jointOf: (part: Parameters<typeof findPart>[1]) => findPart(character, part),
  };
  const { contacts, unused } = applyContactEdits(grounding.contacts, edits, target);
  // Where a person said what a contact rests on, that stands.
  const said = new Set(
    edits.filter((e) => e.kind === "span" && (e.on !== null || e.rests === "set")).map((e) => `${e.point}@${Math.round(e.start * clip.fps)}`),
  );
  const decided = new Set(contacts.filter((c) => c.origin === "set" && said.has(`${c.point}@${c.start}`)));
  const tracks = new PointTracks(character.skeleton, clip, points);
  const motion: Motion = {
    character,
    clip,
    time: identityWarp((clip.frameCount - 1) / clip.fps),
    points,
    contacts: settleSurfaces(contacts, tracks, ground, decided),
    ground,
    support,
    plants: [],
    groundTravel: way && { x: axisOf(way, 0, 2).map((v) => -v), z: axisOf(way, 1, 2).map((v) => -v) },
    settled: null,
  };
  return { motion, unused };
}

/** The clocks of an evaluation, and which stage each patch of its work receives. */
export function clocksOf(evaluation: Evaluation): Clocks {
  const warps = evaluation.stages.map((s) => s.warp);
  const receives: Record<string, number> = {};
  let stage = 0;
  for (const patch of evaluation.work.patches) {
    receives[patch.id] = stage;
    if (evaluation.stages[stage]?.patch.id === patch.id) stage++;
  }
  const { fps, frameCount } = evaluation.base.clip;
  return { fps, seconds: (frameCount - 1) / fps, warps, receives };
}
