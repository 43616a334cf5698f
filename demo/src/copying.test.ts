import {
  CopyError,
  copyPatches,
  Evaluator,
  fittedToLength,
  framesInStep,
  makeContactEdit,
  makePatch,
  oneSource,
  outcomeOf,
  type Patch,
  phaseMap,
  withClipSwapped,
} from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo, JOG, ofTruth, refOf, WALK, work } from "./testing/evaluated.ts";

const UNHURRIED = "porter-unhurried-walk";

/** Footfalls as the generator made them: when a foot lands and when it leaves, exact seconds, not frames; what the clip's ends cut is left out. */
function events(id: string): { readonly event: string; readonly at: number }[] {
  const { steps, clip } = demo(id);
  if (!steps) throw new Error(`${id} has no steps`);
  const last = (clip.frameCount - 1) / clip.fps;
  return steps
    .flatMap(({ limb, strike, toeOff }) => [
      { event: `${limb} lands`, at: strike },
      { event: `${limb} leaves`, at: toeOff },
    ])
    .filter(({ at }) => at > 0 && at < last);
}

describe("moments brought from one clip to another by their steps", () => {
  it.each([
    [WALK, UNHURRIED],
    [UNHURRIED, WALK],
    [WALK, JOG],
    [WALK, "diver-dock-patrol"],
    ["porter-crouched-walk", JOG],
    ["porter-turn-and-stop", WALK],
    [JOG, "porter-turn-and-stop"],
  ])("from %s to %s a footfall is brought onto the same one, by the truth of either", (from, to) => {
    const [a, b] = [ofTruth(from), ofTruth(to)];
    const theirs = events(to);
    const [first, last] = [Math.min(...theirs.map((e) => e.at)), Math.max(...theirs.map((e) => e.at))];
    const off: number[] = [];
    // From a walk to a run feet leave before the others land: landings alone are the same there.
    const run = (to === JOG) !== (from === JOG);
    for (const { event, at } of events(from).filter((e) => !run || e.event.endsWith("lands"))) {
      const map = phaseMap(a, b, [at, at]);
      expect(map.footfalls).toBeGreaterThan(1);
      const there = map.at(at);
      if (there < first || there > last) continue;
      off.push(Math.min(...theirs.filter((e) => e.event === event).map((e) => Math.abs(e.at - there))) * b.clip.fps);
    }
    expect(off.length).toBeGreaterThan(run ? 2 : 8);
    // Where few stands say how the pace goes, each is known to a frame of either clip.
    expect(off.reduce((sum, x) => sum + x, 0) / off.length).toBeLessThan(run ? 1.1 : 0.8);
    expect(Math.max(...off)).toBeLessThan(run ? 1.4 : 1);
  });

  it("by the contacts themselves, a landing is brought onto a landing, and what lies between keeps its order", () => {
    const [a, b] = [ofTruth(WALK), ofTruth(UNHURRIED)];
    const { at } = phaseMap(a, b, [1, 3]);
    const landings = demo(UNHURRIED).truth.contacts ?? [];
    expect(landings.length).toBeGreaterThan(8);
    for (const c of a.contacts.filter((c) => c.point.endsWith("Heel") && c.start > 0 && c.end < a.clip.frameCount - 1)) {
      const there = at(c.start / a.clip.fps) * b.clip.fps;
      // Asked for are the landings as they were generated: where a heel comes down is an estimate, and found to within a frame on either side.
      expect(Math.min(...landings.filter((d) => d.point === c.point).map((d) => Math.abs(d.start - there)))).toBeLessThan(1.5);
    }
    for (let m = 0; m < 4; m += 0.01) expect(at(m + 0.01)).toBeGreaterThan(at(m));
  });

  it("stay where they are where no foot ever leaves the ground", () => {
    const idle = ofTruth("porter-calm-talk");
    const { at, footfalls } = phaseMap(ofTruth(WALK), idle, [1, 2]);
    expect([footfalls, at(1.5)]).toEqual([0, 1.5]);
  });
});

describe("two motions in step", () => {
  it("by the clock show the same seconds, at any rate; beyond the other's end its last frame stays", () => {
    const [walk, jog] = [ofTruth(WALK), ofTruth(JOG)];
    const { frames, footfalls } = framesInStep(walk, jog, "time");
    expect(footfalls).toBeNull();
    expect(frames.length).toBe(walk.clip.frameCount);
    frames.forEach((f, i) => expect(f).toBe(Math.min(jog.clip.frameCount - 1, Math.round((i / walk.clip.fps) * jog.clip.fps))));
    expect(frames.at(-1)).toBe(jog.clip.frameCount - 1);
  });

  it("by their steps show landings with landings, never going back", () => {
    const [walk, slow] = [ofTruth(WALK), ofTruth(UNHURRIED)];
    const { frames, footfalls } = framesInStep(walk, slow, "phase");
    expect(footfalls).toBeGreaterThan(5);
    for (let f = 1; f < frames.length; f++) expect(frames[f]).toBeGreaterThanOrEqual(frames[f - 1]);
    const landings = (motion: typeof walk) => motion.contacts.filter((c) => c.point === "leftHeel" && c.start > 0).map((c) => c.start);
    const theirs = landings(slow);
    expect(landings(walk).length).toBeGreaterThanOrEqual(3);
    for (const f of landings(walk).slice(0, -1)) expect(Math.min(...theirs.map((t) => Math.abs(t - frames[f])))).toBeLessThanOrEqual(1);
  });
});

describe("patches copied to another work", () => {
  let n = 0;
  const copy = (patches: Patch[], to: string, placing: "contacts" | "same" | "whole" = "contacts", onto: Patch[] = []) => {
    const { truth } = demo(WALK);
    const source = new Evaluator(oneSource(truth.character.skeleton, truth.clip)).evaluate(work(...patches));
    const target = new Evaluator(oneSource(demo(to).truth.character.skeleton, demo(to).truth.clip));
    const copied = copyPatches(
      source,
      patches.map((p) => p.id),
      { evaluator: target, work: work(...onto) },
      placing,
      () => `copy-${n++}`,
    );
    return { ...copied, before: target.evaluate(work(...onto)), after: target.evaluate(copied.document) };
  };
  const inStride = (id: string, kind = "repair"): Patch => ({
    ...makePatch(kind, "Twist taken out", id),
    range: { start: 33 / 30, end: 49 / 30 },
    rampIn: 0.1,
    rampOut: 0.1,
  });

  it("lie on the same phase of the other's steps, with their ramps, in order, over what is there", () => {
    const { document, patches } = copy([inStride("a"), inStride("b")], UNHURRIED, "contacts", [makePatch("floor", "Set floor", "floor")]);
    expect(document.patches.map((p) => p.name)).toEqual(["Set floor", "Twist taken out", "Twist taken out"]);
    expect(new Set(document.patches.map((p) => p.id)).size).toBe(3);
    // From the left heel's landing to the right heel's, by the truth of the other.
    const theirs = events(UNHURRIED);
    const near = (event: string, at = -1) => Math.min(...theirs.filter((e) => e.event === event).map((e) => Math.abs(e.at - at)));
    for (const { range, footfalls } of patches) {
      expect(footfalls).toBeGreaterThan(3);
      expect(near("left lands", range?.start) * 30).toBeLessThan(1.01);
      expect(near("right lands", range?.end) * 30).toBeLessThan(1.3);
      expect(range && range.end - range.start).toBeGreaterThan(0.55);
    }
    expect(document.patches[1].rampIn).not.toBe(0.1);
    expect(document.patches[1].rampIn).toBeGreaterThan(0.08);
  });

  it("keep their moments, or their whole clip, where that is asked for; one that would lie outside is refused by name", () => {
    expect(copy([inStride("a")], UNHURRIED, "same").patches[0].range).toEqual({ start: 33 / 30, end: 49 / 30 });
    const whole = copy([inStride("a")], UNHURRIED, "whole").patches[0];
    expect([whole.range, whole.said]).toEqual([null, "over the whole clip"]);
    const late = { ...inStride("a"), range: { start: 4.3, end: 4.4 } };
    expect(() => copy([late], "porter-calm-talk", "same")).not.toThrow();
    const beyond = { ...inStride("a"), range: { start: 60, end: 61 } };
    expect(() => copy([beyond], UNHURRIED, "same")).toThrow(CopyError);
    expect(() => copy([beyond], UNHURRIED, "same")).toThrow(/"Twist taken out" would lie at 60\.00–61\.00 s/);
  });

  it("tell what they did there, and which of their parts the other body lacks", () => {
    const hand = makePatch("handShape", "Flat hands", "h");
    const { before, after } = copy([hand], JOG, "whole");
    const did = outcomeOf(before, after);
    expect(did.changedFrames).toBe(did.after.frames);
    expect(did.movedCm).toBeGreaterThan(0.1);
    const tail: Patch = { ...inStride("t"), range: null, parts: [{ joint: "NoSuchJoint" }, { role: "leftHand" }] };
    const there = copy([tail], JOG, "whole");
    expect(outcomeOf(there.before, there.after).notes.join()).toMatch(/Twist taken out: this body has no joint called "NoSuchJoint"/);
  });
});

describe("a clip swapped for another", () => {
  it("is named by its new content wherever it was drawn on; a result of a work on it is left", () => {
    const [walk, jog] = [refOf(WALK), refOf(JOG)];
    const doc = work(
      makePatch("join", "On", "a", { clip: walk }),
      makePatch("mix", "Arms", "b", { clip: walk }),
      makePatch("mix", "Result", "c", { clip: { ...walk, work: 3 } }),
      makePatch("floor", "Floor", "d"),
    );
    const { work: swapped, swapped: count } = withClipSwapped(doc, walk, jog);
    expect(count).toBe(2);
    expect(swapped.patches.map((p) => p.settings.clip)).toEqual([jog, jog, { ...walk, work: 3 }, undefined]);
    expect(withClipSwapped(swapped, jog, walk).work).toEqual(doc);
  });

  it("that is shorter cuts ranges and contacts to its length, and names what is lost", () => {
    const doc = {
      ...work({ ...makePatch("repair", "Early", "a"), range: { start: 1, end: 3 } }, { ...makePatch("repair", "Late", "b"), range: { start: 4, end: 5 } }),
      contacts: [makeContactEdit({ id: "c", point: "leftHeel", start: 0.5, end: 2.5 }), makeContactEdit({ id: "d", point: "leftHeel", start: 4, end: 4.5 })],
    };
    const { work: fitted, dropped } = fittedToLength(doc, 2);
    expect(fitted.patches.map((p) => p.range)).toEqual([{ start: 1, end: 2 }]);
    expect(fitted.contacts.map((c) => [c.start, c.end])).toEqual([[0.5, 2]]);
    expect(dropped).toEqual(['"Late" lies behind the clip\'s end and is left out', "1 edited contact lies behind the clip's end"]);
    expect(fittedToLength(doc, 9)).toEqual({ work: doc, dropped: [] });
  });
});
