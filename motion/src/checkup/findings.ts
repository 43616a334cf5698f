import { type ContactPart, overlap } from "../contacts/contact.ts";
import type { Motion } from "../motion.ts";
import type { BodyMap } from "../skeleton/bodyMap.ts";
import { type Role, roleLabel } from "../skeleton/roles.ts";
import { makePatch, type Patch } from "../work.ts";
import type { JointEvent, Measures } from "./measures.ts";

export type FindingKind = "slide" | "float" | "sink" | "travel" | "floor" | "tilt" | "pop" | "flip" | "jitter" | "stretch" | "gap";

/** One problem: what, where, how big, and the patch that would treat it. Frames are inclusive. */
export interface Finding {
  readonly id: string;
  readonly kind: FindingKind;
  /** a contact part, or the label of a joint */
  readonly part: string;
  readonly joint: number;
  readonly startFrame: number;
  readonly endFrame: number;
  readonly value: number;
  readonly unit: string;
  /** a short title such as "Right toe slides" */
  readonly title: string;
  readonly message: string;
  /** size against its tolerance; findings are ranked by it */
  readonly severity: number;
  readonly treat: Patch | null;
}

/** What a measure may be before it is a finding. */
export const TOLERANCE = {
  slideCm: 0.5,
  heightCm: 0.8,
  travelShare: 0.03,
  floorCm: 0.8,
  tiltDegrees: 0.5,
  popDegrees: 14,
  flipDegrees: 75,
  jitterDegrees: 0.9,
  stretchFrames: 3,
} as const;
/** A clip whose ends are this close (degrees) looks meant to loop; below the first figure it does. */
const LOOP_GAP = [1.5, 7] as const;

/** Ranked list of what is wrong with a motion, worst first. */
export function findingsOf(motion: Motion, m: Measures): Finding[] {
  const list: Finding[] = [];
  const last = motion.clip.frameCount - 1;
  const add = (f: Omit<Finding, "id">) => list.push({ ...f, id: `${f.kind}-${f.part}-${f.startFrame}` });
  const whole = { startFrame: 0, endFrame: last, joint: -1, part: "whole body" };
  if (Math.abs(m.travelErrorShare) > TOLERANCE.travelShare) {
    const percent = Math.abs(m.travelErrorShare * 100);
    const way = m.travelErrorShare > 0 ? "fast" : "slow";
    add({
      ...whole,
      kind: "travel",
      value: percent,
      unit: "%",
      title: `Travel too ${way}`,
      message: `The body travels ${percent.toFixed(0)} % too ${way} for its feet`,
      // The one cause of many slides: it comes before them.
      severity: (6 * percent) / (TOLERANCE.travelShare * 100),
      treat: proposal("plant"),
    });
  }
  if (Math.abs(m.floorHeightCm) > TOLERANCE.floorCm && m.floorTiltDegrees <= TOLERANCE.tiltDegrees) {
    const cm = Math.abs(m.floorHeightCm);
    const way = m.floorHeightCm > 0 ? "floats above" : "stands below";
    add({
      ...whole,
      kind: "floor",
      value: cm,
      unit: "cm",
      title: `Motion ${way} zero`,
      message: `The feet rest ${cm.toFixed(1)} cm ${m.floorHeightCm > 0 ? "above" : "below"} height zero`,
      severity: cm / TOLERANCE.floorCm,
      treat: proposal("floor"),
    });
  }
  if (m.floorTiltDegrees > TOLERANCE.tiltDegrees) {
    add({
      ...whole,
      kind: "tilt",
      value: m.floorTiltDegrees,
      unit: "°",
      title: "Floor tilts",
      message: `The floor under the feet is tilted by ${m.floorTiltDegrees.toFixed(1)}° and ${m.floorHeightCm.toFixed(1)} cm high at the origin`,
      severity: (2 * m.floorTiltDegrees) / TOLERANCE.tiltDegrees,
      treat: proposal("floor"),
    });
  }
  for (const span of m.spans) {
    const { part, joint, start, end } = span.contact;
    const at = { part, joint, startFrame: start, endFrame: end };
    const label = partLabel(part);
    if (span.slideCm > TOLERANCE.slideCm) {
      add({
        ...at,
        kind: "slide",
        value: span.slideCm,
        unit: "cm",
        title: `${label} slides`,
        message: `${label} slides ${span.slideCm.toFixed(1)} cm while it should rest`,
        severity: span.slideCm / TOLERANCE.slideCm,
        treat: proposal("plant"),
      });
    }
    if (Math.abs(span.heightCm) > TOLERANCE.heightCm && span.contact.surface === "floor") {
      const kind = span.heightCm > 0 ? "float" : "sink";
      const cm = Math.abs(span.heightCm);
      add({
        ...at,
        kind,
        value: cm,
        unit: "cm",
        title: `${label} ${kind}s`,
        message: `${label} ${kind === "float" ? "floats above" : "sinks into"} the floor by ${cm.toFixed(1)} cm`,
        severity: cm / TOLERANCE.heightCm,
        treat: proposal("plant"),
      });
    }
  }
  const names = jointLabels(motion.body, motion.skeleton.names);
  const jointFinding = (kind: FindingKind, e: JointEvent, unit: string, title: string, tolerance: number, patch: Patch | null) => {
    const label = names[e.joint];
    const frames = e.start === e.end ? `frame ${e.start}` : `frames ${e.start}–${e.end}`;
    add({
      part: label,
      joint: e.joint,
      startFrame: e.start,
      endFrame: e.end,
      kind,
      value: e.value,
      unit,
      title: `${label} ${title}`,
      message: `${label} ${title} by ${e.value.toFixed(1)} ${unit} at ${frames}`,
      severity: e.value / tolerance,
      treat: patch,
    });
  };
  const mend = (e: JointEvent, settings: Record<string, unknown>, margin: number): Patch => ({
    ...proposal("repair", settings),
    range: { start: Math.max(0, e.start - margin), end: Math.min(last, e.end + margin) },
    mask: [motion.skeleton.names[e.joint]],
  });
  for (const e of m.pops)
    if (e.value > TOLERANCE.popDegrees)
      jointFinding("pop", e, "°/f²", "pops", TOLERANCE.popDegrees, mend(e, { pops: true, flips: false, popDegrees: Math.max(1, Math.floor(e.value / 3)) }, 1));
  for (const e of m.flips) jointFinding("flip", e, "°", "flips", TOLERANCE.flipDegrees, mend(e, { pops: false, flips: true }, 8));
  for (const e of m.jitter)
    jointFinding(
      "jitter",
      e,
      "°",
      "jitters",
      TOLERANCE.jitterDegrees,
      mend(e, { pops: false, flips: false, smooth: 1, smoothInFrames: Math.max(3, Math.round(0.13 * motion.clip.fps)) }, 0),
    );
  for (const e of m.stretched) jointFinding("stretch", e, "f", "is over-stretched", TOLERANCE.stretchFrames * 3, proposal("plant"));
  if (m.startEndGapDegrees > LOOP_GAP[0] && m.startEndGapDegrees < LOOP_GAP[1] && last > 10) {
    add({
      ...whole,
      kind: "gap",
      value: m.startEndGapDegrees,
      unit: "°",
      title: "Ends nearly meet",
      message: `First and last pose differ by ${m.startEndGapDegrees.toFixed(1)}° a joint: a loop would pop`,
      severity: m.startEndGapDegrees / LOOP_GAP[1],
      treat: null,
    });
  }
  return list.sort((a, b) => b.severity - a.severity);
}

function proposal(kind: "plant" | "floor" | "repair", settings: Record<string, unknown> = {}): Patch {
  const names = { plant: "Plant feet", floor: "Set floor", repair: "Repair" } as const;
  return makePatch(kind, names[kind], "proposed", settings);
}

/** Findings of the source that the result no longer has: same kind and part, no longer there over those frames. */
export function treatedFindings(before: readonly Finding[], after: readonly Finding[]): Finding[] {
  return before.filter((b) => !after.some((a) => a.kind === b.kind && a.part === b.part && overlap(a.startFrame, a.endFrame, b.startFrame, b.endFrame) > 0));
}

/** "leftToe" → "Left toe". */
export function partLabel(part: ContactPart): string {
  return part.replace(/([A-Z])/g, (c) => ` ${c.toLowerCase()}`).replace(/^./, (c) => c.toUpperCase());
}

/** A label a person knows for each joint: its role, or its own name. */
export function jointLabels(body: BodyMap, names: readonly string[]): string[] {
  const labels = [...names];
  for (const [role, joint] of Object.entries(body.roles)) if (joint !== undefined) labels[joint] = roleLabel(role as Role);
  return labels;
}
