import { type Clip, ClipDraft, type Contact, lowPass, readPosition } from "@stride/motion";
import type { Character } from "./characters.ts";
import type { Limb, Step } from "./steps.ts";
import { inverse, type Quat, times } from "./turn.ts";

/** A value at a time; between knots straight lines, then smoothed. */
export interface Knot {
  readonly t: number;
  readonly values: readonly number[];
}

/** What a body does, before it has joints: steps, the course of its support, its heading and height. */
export interface Plan {
  readonly name: string;
  readonly seconds: number;
  readonly fps: number;
  readonly seed: number;
  readonly steps: readonly Step[];
  /** x, z of the point under the hips */
  readonly support: readonly Knot[];
  /** radians about +Y */
  readonly heading: readonly Knot[];
  /** hips above (+) or below (−) their standing height, metres */
  readonly height: readonly Knot[];
  readonly style: Style;
}

export interface Style {
  /** cut-off of the support's smoothing, Hz */
  readonly flow: number;
  readonly lean: number;
  readonly armSwing: number;
  readonly elbow: number;
  readonly armsOut: number;
  /** radians of pelvis and chest turning per leg length of stride */
  readonly twist: number;
  readonly sway: number;
  /** how lively idle parts wander */
  readonly life: number;
}

export const DEFAULT_STYLE: Style = { flow: 1.5, lean: 0.05, armSwing: 0.55, elbow: 0.3, armsOut: 0.12, twist: 0.16, sway: 0.06, life: 1 };

/** A clip whose contacts are known by construction. */
export interface Performance {
  readonly character: Character;
  readonly clip: Clip;
  readonly contacts: readonly Contact[];
}

/** Knots sampled at every frame and low-passed; one Float64Array a value. */
export function smoothKnots(knots: readonly Knot[], frameCount: number, fps: number, cutoffHz: number): Float64Array[] {
  return knots[0].values.map((_, i) => {
    const raw = new Float64Array(frameCount);
    let k = 0;
    for (let f = 0; f < frameCount; f++) {
      const t = f / fps;
      while (k + 1 < knots.length && knots[k + 1].t <= t) k++;
      const a = knots[k];
      const b = knots[Math.min(k + 1, knots.length - 1)];
      const u = b.t > a.t ? Math.max(0, Math.min(1, (t - a.t) / (b.t - a.t))) : 0;
      raw[f] = a.values[i] + u * (b.values[i] - a.values[i]);
    }
    return lowPass(raw, frameCount, 0, 1, fps, cutoffHz);
  });
}

export function stepsOf(plan: Plan, limb: Limb): Step[] {
  return plan.steps.filter((step) => step.limb === limb).sort((a, b) => a.strike - b.strike);
}

/** A pose under construction: world rotation of each joint, turned into local ones when written. */
export class PoseWriter {
  private readonly draft: ClipDraft;
  private readonly world: Quat[];

  constructor(
    readonly character: Character,
    plan: Plan,
  ) {
    const frameCount = Math.round(plan.seconds * plan.fps) + 1;
    this.draft = ClipDraft.make(plan.name, plan.fps, frameCount, character.skeleton.names.length, Int16Array.of(0));
    this.world = character.skeleton.names.map(() => [0, 0, 0, 1] as Quat);
  }

  /** Writes one frame: hips' place, world rotations of some joints, local rotations of others; the rest stay at rest on their parents. */
  write(frame: number, hips: readonly number[], worlds: ReadonlyMap<number, Quat>, locals: ReadonlyMap<number, Quat>): void {
    const { parents } = this.character.skeleton;
    this.draft.setPosition(0, frame, hips);
    for (let j = 0; j < parents.length; j++) {
      const parent: Quat = parents[j] < 0 ? [0, 0, 0, 1] : this.world[parents[j]];
      const given = worlds.get(j);
      const local = given ? times(inverse(parent), given) : (locals.get(j) ?? ([0, 0, 0, 1] as const));
      this.world[j] = given ?? times(parent, local);
      this.draft.setRotation(j, frame, local);
    }
  }

  worldOf(joint: number): Quat {
    return this.world[joint];
  }

  /** What has been written so far. */
  get clip(): Clip {
    return this.draft.clip;
  }

  /** Shifts the body at a frame, once it is known where it has to be. */
  shift(frame: number, x: number, y: number, z: number): void {
    const p = [0, 0, 0];
    readPosition(this.draft.clip, 0, frame, p, 0);
    this.draft.setPosition(0, frame, [p[0] + x, p[1] + y, p[2] + z]);
  }
}

/** The true contacts of a plan's steps, in frames of its clip. */
export function trueContacts(character: Character, plan: Plan): Contact[] {
  const frameCount = Math.round(plan.seconds * plan.fps) + 1;
  const contacts: Contact[] = [];
  const add = (point: string, joint: number | undefined, from: number, to: number) => {
    const start = Math.max(0, Math.ceil(from * plan.fps - 1e-6));
    const end = Math.min(frameCount - 1, Math.floor(to * plan.fps + 1e-6));
    if (joint === undefined || end < start) return;
    contacts.push({ point, joint, start, end, on: "ground", anchor: { mode: "settle", point: null }, rampIn: null, rampOut: null, origin: "found" });
  };
  const { roles } = character;
  for (const step of plan.steps) {
    const { limb } = step;
    if (limb === "left" || limb === "right") {
      add(`${limb}Heel`, roles[`${limb}Foot`], step.strike, step.heelOff);
      add(`${limb}Toe`, roles[`${limb}Toe`] ?? roles[`${limb}Foot`], step.flat, step.toeOff);
    } else {
      const side = limb.startsWith("left") ? ("left" as const) : ("right" as const);
      add(limb, roles[limb.endsWith("Fore") ? (`${side}HandEnd` as const) : (`${side}Toe` as const)], step.strike, step.toeOff);
    }
  }
  return contacts.sort((a, b) => a.start - b.start);
}
