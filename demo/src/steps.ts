import { quinticHermite } from "@stride/motion";
import type { Character } from "./characters.ts";
import { about, plus, type Quat, times, turned, type Vec } from "./turn.ts";

export type Limb = "left" | "right" | "leftFore" | "rightFore" | "leftHind" | "rightHind";

/** One stand of one foot: where (ankle over x, z; heading about +Y), and when (seconds): heel strikes, foot flat, heel lifts, toe lifts. */
export interface Step {
  readonly limb: Limb;
  readonly x: number;
  readonly z: number;
  /** of the ground there, metres, and how it slopes up the way the foot points, radians; level at zero if absent */
  readonly y?: number;
  readonly slope?: number;
  readonly heading: number;
  readonly strike: number;
  readonly flat: number;
  readonly heelOff: number;
  readonly toeOff: number;
  /** toes up at the strike, heel up at the lift: radians */
  readonly strikePitch: number;
  readonly liftPitch: number;
  /** height of the swing that follows, metres */
  readonly clearance: number;
}

export interface FootPose {
  readonly ankle: Vec;
  readonly turn: Quat;
  /** about +Y, radians: of the step it stands on, or on the way to the next */
  readonly heading: number;
  /** heel up is positive */
  readonly pitch: number;
  /** bend that keeps the toes flat while the heel is up */
  readonly toeBend: number;
}

/** Where a foot is at time t: standing on one of its steps or swinging between two. `steps` are one limb's, in order. */
export function footAt(character: Character, steps: readonly Step[], t: number): FootPose {
  const current = steps.findLast((step) => step.strike <= t) ?? steps[0];
  const next = steps[steps.indexOf(current) + 1];
  if (t <= current.toeOff || !next) return standing(character, current, Math.min(t, current.toeOff));
  const from = current.toeOff;
  const seconds = next.strike - from;
  const u = (t - from) / seconds;
  const e = 1e-3;
  const a = standing(character, current, from);
  const a0 = standing(character, current, from - e);
  const b = standing(character, next, next.strike);
  const b1 = standing(character, next, next.strike + e);
  const blend = (p0: number, before: number, p1: number, after: number) =>
    quinticHermite(p0, ((p0 - before) / e) * seconds, p1, ((after - p1) / e) * seconds, u);
  const bump = 16 * u * u * (1 - u) * (1 - u);
  const rise = Math.abs((next.y ?? 0) - (current.y ?? 0));
  const ankle: Vec = [
    blend(a.ankle[0], a0.ankle[0], b.ankle[0], b1.ankle[0]),
    blend(a.ankle[1], a0.ankle[1], b.ankle[1], b1.ankle[1]) + bump * (current.clearance + 0.5 * rise),
    blend(a.ankle[2], a0.ankle[2], b.ankle[2], b1.ankle[2]),
  ];
  const pitch = blend(a.pitch, a0.pitch, b.pitch, b1.pitch);
  const heading = quinticHermite(current.heading, 0, next.heading, 0, u);
  return { ankle, heading, pitch, turn: times(about("y", heading), about("x", pitch)), toeBend: quinticHermite(a.toeBend, 0, 0, 0, Math.min(1, u * 2)) };
}

/** The foot on the ground: rolls about the heel until flat, rests, rolls about the ball. */
function standing(character: Character, step: Step, t: number): FootPose {
  let pitch = 0;
  let pivot: Vec = character.ball;
  if (t < step.flat && step.flat > step.strike) {
    const u = (t - step.strike) / (step.flat - step.strike);
    pitch = -step.strikePitch * (1 - u) ** 2.2;
    pivot = character.heel ?? character.ball;
  } else if (t > step.heelOff && step.toeOff > step.heelOff) {
    const u = (t - step.heelOff) / (step.toeOff - step.heelOff);
    pitch = step.liftPitch * u ** 2.2;
  }
  const flat = times(about("y", step.heading), about("x", -(step.slope ?? 0)));
  const turn = times(flat, about("x", pitch));
  // The sole lies flat on the ground, the ankle over the step's place along the ground's normal.
  const still = plus([step.x, step.y ?? 0, step.z], turned(flat, plus([0, character.ankleHeight, 0], pivot)));
  return { ankle: plus(still, turned(turn, pivot), -1), turn, heading: step.heading, pitch: pitch - (step.slope ?? 0), toeBend: -Math.max(0, pitch) };
}
