import { pointLabel } from "../character/contactPoints.ts";
import type { FindingKind } from "./findingKinds.ts";

/** A short title and a sentence. */
export interface Words {
  readonly title: string;
  readonly message: string;
}

const cm = (v: number) => `${Math.abs(v).toFixed(1)} cm`;
const whenOf = (start: number, end: number) => (start === end ? `frame ${start}` : `frames ${start}–${end}`);

/** How findings of the whole body are told. `value` carries its sign. */
export const WHOLE_WORDS = {
  travel: (percent: number): Words => {
    const way = percent > 0 ? "fast" : "slow";
    return { title: `Travel too ${way}`, message: `The body travels ${Math.abs(percent).toFixed(0)} % too ${way} for its feet` };
  },
  floor: (height: number): Words => ({
    title: height > 0 ? "Motion floats above zero" : "Motion stands below zero",
    message: `The feet rest ${cm(height)} ${height > 0 ? "above" : "below"} height zero`,
  }),
  tilt: (degrees: number, height: number): Words => ({
    title: "Floor tilts",
    message: `The floor under the feet is tilted by ${degrees.toFixed(1)}° and ${height.toFixed(1)} cm high at the origin`,
  }),
  gap: (degrees: number): Words => ({ title: "Ends nearly meet", message: `First and last pose differ by ${degrees.toFixed(1)}° a joint: a loop would pop` }),
} as const;

/** How findings of a contact are told. */
export const CONTACT_WORDS = {
  slide: (point: string, by: number): Words => ({
    title: `${pointLabel(point)} slides`,
    message: `${pointLabel(point)} slides ${cm(by)} while it should rest`,
  }),
  float: (point: string, by: number): Words => ({ title: `${pointLabel(point)} floats`, message: `${pointLabel(point)} floats above the floor by ${cm(by)}` }),
  sink: (point: string, by: number): Words => ({ title: `${pointLabel(point)} sinks`, message: `${pointLabel(point)} sinks into the floor by ${cm(by)}` }),
} as const;

/** What a joint does, and the unit it is measured in. */
const JOINT_VERBS: Readonly<Partial<Record<FindingKind, readonly [string, string]>>> = {
  pop: ["pops", "°/f²"],
  jump: ["jumps", "cm"],
  flip: ["flips", "°"],
  jitter: ["jitters", "°"],
  stretch: ["is over-stretched", "f"],
  limit: ["is past its limit", "°"],
};

/** How findings of a joint are told. */
export function jointWords(kind: FindingKind, label: string, value: number, start: number, end: number): Words & { readonly unit: string } {
  const [verb, unit] = JOINT_VERBS[kind] ?? ["is off", ""];
  return { title: `${label} ${verb}`, message: `${label} ${verb} by ${value.toFixed(1)} ${unit} at ${whenOf(start, end)}`, unit };
}
