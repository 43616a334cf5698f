import { jointLabels } from "../character/jointLabels.ts";
import { overlap } from "../contacts/contact.ts";
import { makePatch, type Patch } from "../documents/patch.ts";
import type { Motion } from "../motion.ts";
import { STEEPEST_TILT } from "../patches/floor.ts";
import { PATCH_KINDS } from "../patches/index.ts";
import { throughWarp } from "../time/through.ts";
import { outputSpans, SAME_MOMENT, type TimeWarp } from "../time/warp.ts";
import type { FindingKind } from "./findingKinds.ts";
import type { JointEvent } from "./jointFaults.ts";
import { loopWouldPop } from "./loopGap.ts";
import type { Measures } from "./measures.ts";
import { LOOP_GAP_DEGREES, TOLERANCE } from "./tolerances.ts";
import { CONTACT_WORDS, jointWords, WHOLE_WORDS, type Words } from "./wording.ts";

/** One problem: what, where, how big, and the patch that would treat it. Frames are inclusive, of the motion that was measured. */
export interface Finding {
  readonly id: string;
  readonly kind: FindingKind;
  /** a contact point, or the label of a joint */
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

/** Travel stands before the slides that it causes. */
const CAUSE_FIRST = 6;
const TILT_FIRST = 2;
/** A joint that much past its limit, degrees, weighs as much as another fault at its tolerance: limits are a matter of taste, slides are not. */
const LIMIT_WEIGHS = 20;

/** Ranked list of what is wrong with a motion, worst first. */
export function findingsOf(motion: Motion, m: Measures): Finding[] {
  const list: Finding[] = [];
  const last = motion.clip.frameCount - 1;
  const add = (f: Omit<Finding, "id" | "treat">) => list.push({ ...f, id: `${f.kind}-${f.part}-${f.startFrame}`, treat: treatment(f, motion) });
  const whole = (kind: FindingKind, words: Words, value: number, unit: string, severity: number) =>
    add({ startFrame: 0, endFrame: last, joint: -1, part: "whole body", kind, ...words, value: Math.abs(value), unit, severity });
  const percent = m.travelErrorShare * 100;
  if (Math.abs(m.travelErrorShare) > TOLERANCE.travelShare)
    whole("travel", WHOLE_WORDS.travel(percent), percent, "%", (CAUSE_FIRST * Math.abs(percent)) / (TOLERANCE.travelShare * 100));
  // A ground that is steeper than any floor is off is meant to be: a ramp, a gangway. How high that is at the origin says nothing.
  const meant = m.floorTiltDegrees * (Math.PI / 180) > STEEPEST_TILT;
  if (m.floorTiltDegrees > TOLERANCE.tiltDegrees && !meant)
    whole("tilt", WHOLE_WORDS.tilt(m.floorTiltDegrees, m.floorHeightCm), m.floorTiltDegrees, "°", (TILT_FIRST * m.floorTiltDegrees) / TOLERANCE.tiltDegrees);
  else if (Math.abs(m.floorHeightCm) > TOLERANCE.floorCm && !meant)
    whole("floor", WHOLE_WORDS.floor(m.floorHeightCm), m.floorHeightCm, "cm", Math.abs(m.floorHeightCm) / TOLERANCE.floorCm);
  for (const { contact, slideCm, heightCm } of m.spans) {
    const { point, joint, start, end } = contact;
    const at = { part: point, joint, startFrame: start, endFrame: end, unit: "cm" };
    // Where a trunk touches the ground is an estimate, and rolls on as the body stirs.
    const trunk = contact.origin === "found" && motion.points.some((p) => p.id === point && p.limb < 0);
    const slideMost = trunk ? TOLERANCE.trunkSlideCm : TOLERANCE.slideCm;
    if (slideCm > slideMost) add({ ...at, kind: "slide", ...CONTACT_WORDS.slide(point, slideCm), value: slideCm, severity: slideCm / slideMost });
    if (Math.abs(heightCm) > TOLERANCE.heightCm) {
      const kind = heightCm > 0 ? "float" : "sink";
      add({ ...at, kind, ...CONTACT_WORDS[kind](point, heightCm), value: Math.abs(heightCm), severity: Math.abs(heightCm) / TOLERANCE.heightCm });
    }
  }
  const names = jointLabels(motion.character.body, motion.character.skeleton.names);
  const joints = (kind: FindingKind, events: readonly JointEvent[], tolerance: number) => {
    for (const { joint, start, end, value } of events)
      add({
        part: names[joint],
        joint,
        startFrame: start,
        endFrame: end,
        kind,
        value,
        ...jointWords(kind, names[joint], value, start, end),
        severity: value / tolerance,
      });
  };
  joints(
    "pop",
    m.pops.filter((e) => e.value > TOLERANCE.popDegrees),
    TOLERANCE.popDegrees,
  );
  joints(
    "jump",
    m.jumps.filter((e) => e.value > TOLERANCE.jumpCm),
    TOLERANCE.jumpCm,
  );
  joints("flip", m.flips, TOLERANCE.flipDegrees);
  joints("jitter", m.jitter, TOLERANCE.jitterDegrees);
  joints("stretch", m.stretched, TOLERANCE.stretchFrames * 3);
  joints(
    "limit",
    m.pastLimits.filter((e) => e.value > TOLERANCE.limitDegrees),
    LIMIT_WEIGHS,
  );
  const { gap } = m.ends;
  if (loopWouldPop(m.ends) && last > 10) whole("gap", WHOLE_WORDS.gap(gap), gap, "°", gap / LOOP_GAP_DEGREES[1]);
  return list.sort((a, b) => b.severity - a.severity);
}

/** The patch that some kind proposes for a finding; null where none treats it. */
function treatment(finding: Omit<Finding, "id" | "treat">, motion: Motion): Patch | null {
  const kind = PATCH_KINDS.find((k) => k.treats?.kinds.includes(finding.kind));
  return kind?.treats ? { ...makePatch(kind.kind, kind.title, "proposed"), ...kind.treats.propose(finding, motion) } : null;
}

/**
 * The source with its time changed as a result's is and nothing else: what the result's findings are to be held against. Null where the result jumps in the source's
 * time, as a loop does at its seams: there the source alone would jump as well.
 */
export function sourceInTime(base: Motion, result: Pick<Motion, "time">): Motion | null {
  return jumps(result.time) ? null : throughWarp(base, result.time);
}

function jumps({ pieces }: TimeWarp): boolean {
  return pieces.some((piece, i) => i > 0 && Math.abs(piece.inStart - pieces[i - 1].inEnd) > SAME_MOMENT);
}

/** Findings of a source where a result first shows them, in the result's frames; those that it does not show are left out. */
export function findingsInTime(findings: readonly Finding[], base: Motion, result: Pick<Motion, "time" | "clip">): Finding[] {
  const { fps, frameCount } = base.clip;
  const last = result.clip.frameCount - 1;
  return findings.flatMap((finding) => {
    if (finding.startFrame === 0 && finding.endFrame === frameCount - 1) return [{ ...finding, endFrame: last }];
    const [shown] = outputSpans(result.time, finding.startFrame / fps, finding.endFrame / fps);
    return shown ? [{ ...finding, startFrame: Math.round(shown[0] * fps), endFrame: Math.min(last, Math.round(shown[1] * fps)) }] : [];
  });
}

/**
 * Findings that a result no longer has: of the same kind and part, over the same frames. `before` are those of the source in the result's own
 * time (see `sourceInTime` and `findingsInTime`), so that what was cut away is neither treated nor open, and a change of time alone treats nothing.
 */
export function treatedFindings(before: readonly Finding[], after: readonly Finding[]): Finding[] {
  return before.filter((b) => !after.some((a) => a.kind === b.kind && a.part === b.part && overlap(a.startFrame, a.endFrame, b.startFrame, b.endFrame) > 0));
}
