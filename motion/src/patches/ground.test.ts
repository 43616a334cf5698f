import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft, readRotation } from "../clip/clip.ts";
import { makeContactEdit } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { groundHeight } from "../ground/ground.ts";
import type { GroundShape } from "../ground/shapes.ts";
import { multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { apart, at, differences, patch, stick, worldAt } from "../testing/patched.ts";

const box: GroundShape = { shape: "box", x: 0, z: -50, heading: 0, width: 200, length: 100, height: 0.4 };
const slope: GroundShape = { shape: "slope", x: 0, z: -3, heading: 0, width: 200, degrees: 10, length: 100, landing: 0 };
const evaluate = (...shapes: GroundShape[]) => stick.evaluator().evaluate(stick.grounded(patch("ground", { under: "level", shapes })));
const planted = stick.evaluator().evaluate(stick.grounded()).result;

/** Most that each contact's point is off its place, centimetres. */
function worstSlide(motion: Motion): number {
  const tracks = new PointTracks(stick.skeleton, motion.clip, motion.points);
  return Math.max(
    ...motion.contacts.map((contact) => {
      const course = tracks.course(contact.point) as Float64Array;
      const from = contact.start * 3;
      return Math.max(...Array.from({ length: contact.end - contact.start + 1 }, (_, i) => 100 * apart(course.slice(from + i * 3), course.slice(from))));
    }),
  );
}

describe("a motion put on a ground", () => {
  it("that is the one it has stays as it is, bit for bit", () => {
    const { result } = evaluate();
    expect(differences(planted.clip, result.clip).frames).toEqual([]);
    expect(result.contacts).toEqual(planted.contacts);
  });

  it("that is higher everywhere is higher everywhere, pose and all", () => {
    const { result } = evaluate(box);
    for (let f = 0; f < result.clip.frameCount; f += 7)
      for (const joint of ["Hips", "Head", "LeftHand", "LeftToeBase", "RightFoot"].map(stick.joint)) {
        const [was, is] = [planted.clip, result.clip].map((clip) => worldAt(clip, f, joint).place);
        expect(is[1] - was[1]).toBeCloseTo(0.4, 4);
        expect(Math.hypot(is[0] - was[0], is[2] - was[2])).toBeLessThan(1e-4);
      }
    for (const [i, { anchor }] of result.contacts.entries())
      expect((anchor.point?.[1] ?? 0) - (planted.contacts[i].anchor.point?.[1] ?? 0)).toBeCloseTo(0.4, 6);
  });

  it("that its legs cannot climb is told of, leg by leg; steps of stairs are not", () => {
    const steps = (rise: number): GroundShape => ({ shape: "steps", x: 0, z: 0.5, heading: 0, width: 20, rise, tread: 0.6, count: 3, landing: 30 });
    expect(evaluate(steps(0.15)).notes).toEqual([]);
    const { notes } = evaluate(steps(1));
    expect(notes.map(({ field }) => field)).toContain("shapes");
    expect(notes.map(({ message }) => message).join("\n")).toMatch(/(Left|Right) foot does not reach its place by up to \d+ cm between frames \d+ and \d+/);
  });

  it("that slopes stands on it without a slide, its soles along it, and its legs no longer than they are", () => {
    const { result } = evaluate(slope);
    expect(worstSlide(result)).toBeLessThan(worstSlide(planted) + 0.05);
    const tracks = new PointTracks(stick.skeleton, result.clip, result.points);
    for (const { point, start, end } of result.contacts) {
      const course = tracks.course(point) as Float64Array;
      for (let f = start; f <= end; f++) {
        const over = course[f * 3 + 1] - (tracks.point(point)?.clearance ?? 0) - groundHeight(result.ground, course[f * 3], course[f * 3 + 2]);
        expect(Math.abs(over), `${point} ${f}`).toBeLessThan(0.006);
      }
    }
    const length = (clip: typeof result.clip, f: number, a: string, b: string) =>
      apart(worldAt(clip, f, stick.joint(a)).place, worldAt(clip, f, stick.joint(b)).place);
    for (let f = 0; f < result.clip.frameCount; f += 5) {
      expect(length(result.clip, f, "LeftUpLeg", "LeftLeg")).toBeCloseTo(length(planted.clip, f, "LeftUpLeg", "LeftLeg"), 5);
      expect(length(result.clip, f, "RightLeg", "RightFoot")).toBeCloseTo(length(planted.clip, f, "RightLeg", "RightFoot"), 5);
    }
  });

  it("leans into the climb by its setting, and back on the way down", () => {
    const lean = (degrees: number, share: number) => {
      const { result } = stick.evaluator().evaluate(stick.grounded(patch("ground", { under: "level", lean: share, shapes: [{ ...slope, degrees }] })));
      const [hips, head] = ["Hips", "Head"].map((name) => worldAt(result.clip, 45, stick.joint(name)).place);
      return (Math.atan2(head[2] - hips[2], head[1] - hips[1]) * 180) / Math.PI;
    };
    const upright = lean(10, 0);
    // The way leads along +z; half of 10°.
    expect(lean(10, 0.5) - upright).toBeCloseTo(5, 0);
    expect(lean(-10, 0.5) - upright).toBeCloseTo(-5, 0);
  });

  it("goes on holding its feet there when something is laid over it", () => {
    const over = [
      patch("ground", { under: "level", shapes: [slope] }),
      { ...patch("repair", { smooth: 1, smoothOver: at(9), pops: false, flips: false }), id: "r" },
    ];
    const live = stick.evaluator().evaluate(stick.grounded(...over)).result;
    const loose = stick.evaluator().evaluate({ ...stick.grounded(...over), livePlant: false }).result;
    expect(worstSlide(loose)).toBeGreaterThan(1);
    expect(worstSlide(live)).toBeLessThan(worstSlide(planted) + 0.2);
  });
});

describe("a contact set by hand", () => {
  const [first] = stick
    .evaluator()
    .evaluate(stick.work())
    .base.contacts.filter((c) => c.point === "leftToe" && c.start > 5);
  const span = { id: "e", point: "leftToe", start: at(first.start), end: at(first.end) };

  it("at a height is exactly so high over the ground all through, and no fault for it", () => {
    const work = { ...stick.grounded(), contacts: [makeContactEdit({ ...span, height: 0.05 })] };
    const { result } = stick.evaluator().evaluate(work);
    const tracks = new PointTracks(stick.skeleton, result.clip, result.points);
    const course = tracks.course("leftToe") as Float64Array;
    const clearance = tracks.point("leftToe")?.clearance ?? 0;
    for (let f = first.start; f <= first.end; f++) expect(course[f * 3 + 1] - clearance).toBeCloseTo(0.05, 4);
  });

  it("that leads frees the other end of its foot over its span, and nothing else", () => {
    const base = (leads: boolean) => stick.evaluator().evaluate({ ...stick.work(), contacts: [makeContactEdit({ ...span, leads })] }).base.contacts;
    const overlapping = (contacts: ReturnType<typeof base>, point: string) =>
      contacts.filter((c) => c.point === point && c.start <= first.end && c.end >= first.start);
    expect(overlapping(base(false), "leftHeel").length).toBeGreaterThan(0);
    expect(overlapping(base(true), "leftHeel")).toEqual([]);
    expect(base(true).filter((c) => !c.point.startsWith("left"))).toEqual(base(false).filter((c) => !c.point.startsWith("left")));
    // What lies before it is kept.
    const [heel] = overlapping(base(false), "leftHeel");
    expect(base(true).some((c) => c.point === "leftHeel" && c.start === heel.start)).toBe(heel.start < first.start - 1);
  });
});

describe("feet laid flat", () => {
  it("are turned onto the ground where they stand, by the amount asked for; a contact may say otherwise", () => {
    // Both feet rolled outwards by 20° all through.
    const { clip, skeleton } = stick;
    const rolled = rolledFeet(20);
    const tilt = (settings: Record<string, unknown>, contacts = stick.work().contacts) => {
      const evaluator = stick.evaluator(rolled);
      const work = stick.grounded();
      const { result } = evaluator.evaluate({ ...work, contacts, patches: work.patches.map((p) => (p.kind === "plant" ? { ...p, settings } : p)) });
      const heel = result.contacts.find(
        (c) => c.point === "leftHeel" && c.end - c.start > 4 && result.contacts.some((t) => t.point === "leftToe" && t.start < c.end && t.end > c.start),
      );
      const toe = result.contacts.find((c) => heel && c.point === "leftToe" && c.start < heel.end && c.end > heel.start);
      if (!heel || !toe) throw new Error("no stand");
      const middle = Math.round((Math.max(heel.start, toe.start) + Math.min(heel.end, toe.end)) / 2);
      return rollOf(result.clip, middle);
    };
    expect(clip.frameCount).toBe(rolled.frameCount);
    expect(skeleton.names).toContain("LeftFoot");
    expect(tilt({})).toBeGreaterThan(15);
    expect(tilt({ layFlat: 1 })).toBeLessThan(1.5);
    expect(tilt({ layFlat: 0.5 })).toBeCloseTo(tilt({}) / 2, 0);
  });
});

/** The clip with both feet rolled about the way they point, degrees. */
function rolledFeet(degrees: number): Clip {
  const draft = ClipDraft.of(stick.clip);
  const half = (degrees * Math.PI) / 360;
  const q = new Float64Array(4);
  for (const joint of ["LeftFoot", "RightFoot"].map(stick.joint))
    for (let f = 0; f < stick.clip.frameCount; f++) {
      readRotation(stick.clip, joint, f, q, 0);
      multiplyQuatFlat(q, 0, q, 0, [0, 0, Math.sin(half), Math.cos(half)], 0);
      draft.setRotation(joint, f, q);
    }
  return draft.done();
}

/** How far the left foot is rolled off the level, degrees. */
function rollOf(clip: Clip, frame: number): number {
  const across = rotateVecFlat(new Float64Array(3), 0, worldAt(clip, frame, stick.joint("LeftFoot")).turn, 0, [1, 0, 0], 0);
  return (Math.abs(Math.asin(across[1])) * 180) / Math.PI;
}
