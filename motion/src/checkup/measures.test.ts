import { describe, expect, it } from "vitest";
import { jointLabels } from "../character/jointLabels.ts";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { makeContactEdit } from "../contacts/contact.ts";
import { makePatch } from "../documents/patch.ts";
import { multiplyQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { at, stick, withShift } from "../testing/patched.ts";
import { measure, measureSteps, totalsOf } from "./measures.ts";
import { poseMovedCm } from "./poseMoved.ts";
import { checkReport } from "./report.ts";
import { jointWords, WHOLE_WORDS } from "./wording.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const grounded = stick.evaluator().evaluate(stick.grounded()).result;
const arm = stick.joint("LeftArm");

/** The clip with a joint turned about its own x by `degrees` of the frame. */
function turned(clip: Clip, joint: number, degrees: (frame: number) => number): Clip {
  const draft = ClipDraft.of(clip);
  const q = new Float64Array(4);
  for (let f = 0; f < clip.frameCount; f++) {
    const half = (degrees(f) * Math.PI) / 360;
    if (half === 0) continue;
    readRotation(clip, joint, f, q, 0);
    multiplyQuatFlat(q, 0, q, 0, [Math.sin(half), 0, 0, Math.cos(half)], 0);
    draft.setRotation(joint, f, q);
  }
  return draft.done();
}
const of = (clip: Clip, motion: Motion = base) => measure({ ...motion, clip });

describe("faults of a joint", () => {
  it("are a pop where one frame leaps away and comes back, with twice its size a frame², and none where the clip is clean", () => {
    expect(measure(base).pops).toEqual([]);
    const { pops, flips, jitter } = of(turned(base.clip, arm, (f) => (f === 40 ? 20 : 0)));
    expect(pops.map((p) => [p.joint, p.start, p.end])).toEqual([[arm, 40, 40]]);
    expect(pops[0].value).toBeGreaterThan(36);
    expect(pops[0].value).toBeLessThan(44);
    expect(flips).toEqual([]);
    // Its own frames do not count as trembling.
    expect(jitter).toEqual([]);
    expect(of(turned(base.clip, arm, (f) => (f === 40 ? 2 : 0))).pops).toEqual([]);
  });

  it("are flips where a joint steps by over 75° from one frame to the next", () => {
    const { flips } = of(turned(base.clip, arm, (f) => (f >= 30 ? 120 : 0)));
    expect(flips.map((e) => [e.joint, e.start, e.end])).toEqual([[arm, 29, 30]]);
    expect(flips[0].value).toBeGreaterThan(110);
    expect(of(turned(base.clip, arm, (f) => (f >= 30 ? 60 : 0))).flips).toEqual([]);
  });

  it("are a stretch of trembling where a joint goes back and forth, with its size, and no quick swing", () => {
    let seed = 3;
    const noise = Array.from({ length: 90 }, () => {
      let sum = 0;
      for (let k = 0; k < 12; k++) {
        seed = (seed * 1664525 + 1013904223) % 4294967296;
        sum += seed / 4294967296;
      }
      return sum - 6;
    });
    const { jitter } = of(turned(base.clip, arm, (f) => (f >= 30 && f < 60 ? 2.5 * noise[f] : 0)));
    expect(jitter.length).toBeGreaterThan(0);
    for (const { joint, start, end, value } of jitter) {
      expect(joint).toBe(arm);
      expect(start).toBeGreaterThan(24);
      expect(end).toBeLessThan(66);
      // The worst of a few windows of white noise of 2.5° about one axis.
      expect(value).toBeGreaterThan(0.9);
      expect(value).toBeLessThan(5);
    }
    expect(Math.max(...jitter.map((j) => j.value))).toBeGreaterThan(1.2);
    expect(of(turned(base.clip, arm, (f) => 40 * Math.sin(f / 3))).jitter).toEqual([]);
    expect(of(turned(base.clip, arm, (f) => 0.2 * noise[f])).jitter).toEqual([]);
  });

  it("are found anew when the joint has changed, though others have not", () => {
    const broken = turned(base.clip, arm, (f) => (f === 40 ? 20 : 0));
    expect(of(broken).pops).toHaveLength(1);
    expect(of(base.clip).pops).toEqual([]);
    expect(of(turned(broken, stick.joint("RightArm"), (f) => (f === 60 ? 20 : 0))).pops.map((p) => p.start)).toEqual([40, 60]);
  });

  it("come a little at a time", () => {
    const steps = measureSteps({ ...base });
    let count = 0;
    for (;;) {
      const { done, value } = steps.next();
      if (done) {
        expect(totalsOf(value)).toEqual(totalsOf(measure(base)));
        break;
      }
      count++;
    }
    expect(count).toBeGreaterThan(base.clip.jointCount);
  });
});

describe("how contacts rest", () => {
  const stand = (clip: Clip, on: "ground" | "place", rest: { height?: number } = {}) => {
    const contact = { ...(base.contacts.find((c) => c.point === "leftToe" && c.start > 20) ?? base.contacts[0]), ...rest, on };
    const motion: Motion = { ...base, clip, contacts: [contact] };
    return { contact, span: measure(motion).spans[0], motion };
  };

  it("is the farthest apart of two places, the height over the ground, and the way from the middle at each frame", () => {
    const still = withShift(base.clip, 0, [], [0, 0, 0]);
    const { contact, span } = stand(still, "ground");
    const middle = Math.round((contact.start + contact.end) / 2);
    const moved = stand(withShift(base.clip, 0, [middle], [0.3, 0, 0]), "ground").span;
    // One frame lies 30 cm aside of all others.
    expect(moved.slideCm).toBeGreaterThan(29.5);
    expect(moved.slideCm).toBeLessThan(31 + span.slideCm);
    expect(moved.course[middle - contact.start]).toBeGreaterThan(29);
    expect(moved.course).toHaveLength(contact.end - contact.start + 1);
    const frames = Array.from({ length: contact.end - contact.start + 1 }, (_, i) => contact.start + i);
    const raised = stand(withShift(base.clip, 0, frames, [0, 0.04, 0]), "ground").span;
    expect(raised.heightCm - span.heightCm).toBeCloseTo(4, 3);
    expect(raised.slideCm).toBeCloseTo(span.slideCm, 4);
    // On a place of its own it has no height to be off; and one that is set over the ground is measured against that.
    expect(stand(still, "place").span.heightCm).toBe(0);
    expect(stand(withShift(base.clip, 0, frames, [0, 0.04, 0]), "ground", { height: 0.04 }).span.heightCm).toBeCloseTo(span.heightCm, 3);
  });

  it("is measured anew where the leg has changed over the span, and not where it changed elsewhere", () => {
    const { contact, span, motion } = stand(base.clip, "ground");
    const elsewhere = withShift(base.clip, 0, [contact.end + 1 < 64 ? 80 : 5], [0.1, 0, 0]);
    expect(measure({ ...motion, clip: elsewhere }).spans[0].slideCm).toBe(span.slideCm);
    const within = turned(base.clip, stick.joint("LeftLeg"), (f) => (f === contact.start + 2 ? 15 : 0));
    expect(measure({ ...motion, clip: within }).spans[0].slideCm).toBeGreaterThan(span.slideCm + 1);
    expect(measure({ ...motion, clip: base.clip }).spans[0]).toBe(measure(motion).spans[0]);
  });

  it("counts stretched legs only while they stand, and only for three frames or more", () => {
    const straight = (from: number, to: number) => {
      const draft = ClipDraft.of(base.clip);
      for (let f = from; f <= to; f++) draft.setRotation(stick.joint("LeftLeg"), f, [0, 0, 0, 1]);
      return draft.done();
    };
    const contact = stand(base.clip, "ground").contact;
    const legs = (clip: Clip) => measure({ ...base, clip, contacts: [contact] }).stretched.filter((e) => e.start <= contact.end && e.end >= contact.start);
    const quiet = legs(base.clip).length;
    const long = legs(straight(contact.start + 2, contact.start + 7));
    expect(long.length).toBe(quiet + 1);
    expect(long.find((e) => e.start === contact.start + 2)).toMatchObject({ joint: stick.joint("LeftLeg"), end: contact.start + 7, value: 6 });
    expect(legs(straight(contact.start + 2, contact.start + 3)).length).toBe(quiet);
    // In the air the same knee is nothing.
    const flight = measure({ ...base, clip: straight(contact.end + 2, contact.end + 8), contacts: [contact] }).stretched;
    expect(flight.filter((e) => e.start > contact.end && e.start <= contact.end + 2)).toEqual([]);
  });
});

describe("the whole of a motion", () => {
  it("travels too fast where the generator has it do so, and not once its feet are planted", () => {
    // 15 % too fast for its feet.
    expect(measure(base).travelErrorShare).toBeGreaterThan(0.1);
    expect(measure(base).travelErrorShare).toBeLessThan(0.2);
    expect(Math.abs(measure(grounded).travelErrorShare)).toBeLessThan(0.02);
    // A body that stays travels neither.
    const draft = ClipDraft.of(base.clip);
    for (let f = 0; f < base.clip.frameCount; f++) draft.setPosition(0, f, [0, 0.96, 0]);
    expect(of(draft.done()).travelErrorShare).toBe(0);
  });

  it("has a floor and its tilt, and ends that differ by the mean angle of its joints", () => {
    const { floorHeightCm, floorTiltDegrees } = measure({ ...base, ground: { ...base.ground, height: 0.031, slopeX: Math.tan(0.02), slopeZ: 0 } });
    expect(floorHeightCm).toBeCloseTo(3.1, 9);
    expect(floorTiltDegrees).toBeCloseTo((0.02 * 180) / Math.PI, 6);
    const gap = (degrees: number) => of(turned(base.clip, arm, (f) => (f === base.clip.frameCount - 1 ? degrees : 0))).ends.gap;
    // One joint of so many.
    expect(Math.abs(gap(30) - gap(0)) * base.clip.jointCount).toBeGreaterThan(8);
    expect(measure(base).ends.usual).toBeGreaterThan(1);
  });

  it("is told in totals: the worst, the counts, nothing where there is nothing", () => {
    const m = measure(base);
    const totals = totalsOf(m);
    expect(totals.slideWorstCm).toBe(Math.max(...m.spans.map((s) => s.slideCm)));
    expect(Math.abs(totals.heightWorstCm)).toBe(Math.max(...m.spans.map((s) => Math.abs(s.heightCm))));
    expect(totals.slideP95Cm).toBeLessThanOrEqual(totals.slideWorstCm);
    expect(totals.contacts).toBe(m.spans.length);
    expect(totals.travelErrorPercent).toBeCloseTo(100 * m.travelErrorShare, 9);
    const bare = totalsOf(measure({ ...base, contacts: [] }));
    expect([bare.slideWorstCm, bare.slideP95Cm, bare.heightWorstCm, bare.contacts, bare.overStretchedFrames]).toEqual([0, 0, 0, 0, 0]);
    const broken = totalsOf(of(turned(base.clip, arm, (f) => (f === 40 ? 20 : f >= 60 ? 120 : 0))));
    expect([broken.pops > 0, broken.flips]).toEqual([true, 1]);
  });

  it("moves from one motion to another by the mean way of its most moved joint", () => {
    expect(poseMovedCm(base, base)).toBe(0);
    // Carried along as a whole, no pose has changed.
    expect(poseMovedCm(base, { ...base, clip: withShift(base.clip, 0, [10, 11], [0.5, 0, 0]) })).toBeCloseTo(0, 6);
    // A shin of 43 cm turned by 30° takes its foot 2 · 43 · sin 15° = 22.3 cm along, and the toes beyond it a little more: on nine frames of ninety.
    const moved = (frames: number) =>
      poseMovedCm(base, { ...base, clip: turned(base.clip, stick.joint("LeftLeg"), (f) => (f >= 20 && f < 20 + frames ? 30 : 0)) });
    expect(moved(9)).toBeGreaterThan(2.226);
    expect(moved(9)).toBeLessThan(2.9);
    // The way of a toe depends on its ankle: about twice as much on twice as many frames.
    expect(Math.abs(moved(18) / moved(9) - 2)).toBeLessThan(0.25);
    const trimmed = stick.evaluator().evaluate(stick.work(makePatch("trim", "T", "t", { from: at(10), to: at(50) }))).result;
    expect(poseMovedCm(base, trimmed)).toBe(0);
  });
});

describe("how it is told", () => {
  it("names parts as people do, and signs by their side", () => {
    expect(jointLabels(base.character.body, base.character.skeleton.names)[stick.joint("LeftForeArm")]).toBe("Left forearm");
    expect(jointLabels({ roles: {}, plan: "biped" }, ["Strange"])).toEqual(["Strange"]);
    expect(WHOLE_WORDS.travel(15).message).toBe("The body travels 15 % too fast for its feet");
    expect(WHOLE_WORDS.travel(-8).title).toBe("Travel too slow");
    expect(WHOLE_WORDS.floor(3).message).toBe("The feet rest 3.0 cm above height zero");
    expect(WHOLE_WORDS.floor(-3).title).toBe("Motion stands below zero");
    expect(jointWords("pop", "Head", 20, 40, 40)).toEqual({ title: "Head pops", message: "Head pops by 20.0 °/f² at frame 40", unit: "°/f²" });
    expect(jointWords("jitter", "Head", 2, 4, 9).message).toBe("Head jitters by 2.0 ° at frames 4–9");
  });

  it("is a report of the clip, its parts, contacts and findings", () => {
    const edits = [makeContactEdit({ id: "c", point: "leftHand", start: at(20), end: at(60) })];
    const motion = stick.evaluator().evaluate({ ...stick.work(), contacts: edits }).base;
    const report = checkReport(motion, 0.01);
    expect(report.clip).toMatchObject({ frames: 90, fps: 30, seconds: 3, joints: motion.clip.jointCount });
    expect(report.bodyMap.leftUpperArm).toBe("LeftArm");
    expect(report.unitScaleToMetres).toBe(0.01);
    expect(report.floorHeightM).toBe(motion.ground.height);
    const hand = report.contacts.find((c) => c.part === "leftHand");
    expect(hand).toMatchObject({ joint: "LeftHand", startFrame: 20, endFrame: 60, heightCm: 0 });
    expect(hand?.slideCm).toBeGreaterThan(20);
    expect(report.findings.length).toBeGreaterThan(3);
    expect(Object.keys(report.findings[0]).sort()).toEqual(["endFrame", "kind", "message", "part", "startFrame", "unit", "value"]);
    expect(report.totals).toEqual(totalsOf(measure(motion)));
  });
});
