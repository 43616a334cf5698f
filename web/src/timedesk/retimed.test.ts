import { type Edit, emptyWork, makeContactEdit, makePatch, type Patch, type TouchUpSettings, type Work } from "@stride/motion";
import { beforeEach, describe, expect, it } from "vitest";
import { stick } from "../../../motion/src/testing/patched.ts";
import { change, useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";
import { editDone, editTarget, usePosing, weightAt, withEdit } from "../state/posing.ts";
import { benchWith } from "../state/testing.ts";
import { frameSpansOf, framesOf, lastFrameOf, momentIn, reordered, sourceFrameOf } from "../state/times.ts";
import { sourceSpan, withoutEdit, withoutSpan, withSpan } from "./contactEdits.ts";
import { addPatch, groundFeet, isGrounded } from "./patchActions.ts";
import { framesWritten, writesLine } from "./writesLine.ts";

const FPS = stick.clip.fps;
const at = (frame: number) => frame / FPS;
const trim = makePatch("trim", "Trim", "trim", { from: at(20), to: at(79) });

const turn: Edit = { op: "turn", parts: [{ joint: "LeftArm" }], space: "own", degrees: [10, 0, 0], shared: false, pivot: null };

beforeEach(() => {
  usePosing.setState({ holds: [], tool: "turn", pivot: null });
  playhead.setRange(null);
});

describe("a patch under or above a trim", () => {
  const windowed = (id: string): Patch => ({
    ...makePatch("touchUp", id, id, { at: at(40), edits: [], holds: [] }),
    range: { start: at(40), end: at(40) },
    rampIn: at(6),
    rampOut: at(6),
  });

  it("is shown at the frames that show it, and hidden where it is cut away", () => {
    const { clocks } = benchWith({ ...emptyWork(), patches: [windowed("under"), trim, windowed("above")] });
    expect(framesOf(clocks, "under", at(40))).toEqual([20]);
    expect(framesOf(clocks, "above", at(40))).toEqual([40]);
    expect(framesOf(clocks, "under", at(10))).toEqual([]);
    expect(momentIn(clocks, "under", 20)).toBeCloseTo(at(40), 9);
    expect(momentIn(clocks, "above", 20)).toBeCloseTo(at(20), 9);
    expect(momentIn(clocks, null, 20)).toBeCloseTo(at(20), 9);
    expect(frameSpansOf(clocks, "under", at(10), at(30))).toEqual([[0, 10]]);
    expect([lastFrameOf(clocks, "under"), lastFrameOf(clocks, "trim"), lastFrameOf(clocks, "above")]).toEqual([89, 89, 59]);
    expect(sourceFrameOf(clocks, 5)).toBe(25);
  });

  it("takes an edit at the playhead's frame at the moment that its own motion shows there", () => {
    benchWith({ ...emptyWork(), patches: [windowed("under"), trim] });
    useBench.setState({ patchId: "under" });
    const state = useBench.getState();
    // Frame 20 of the result is frame 40 of what the touch-up receives: inside its window, at full weight.
    expect(editTarget(state, state.doc, 20)).toMatchObject({ isNew: false, moment: at(40), weight: 1 });
    expect(editTarget(state, state.doc, 23).weight).toBeCloseTo(0.5, 4);
    // Outside of its window the edit goes into a new patch on top, which speaks of the result's time.
    const target = editTarget(state, state.doc, 40);
    expect(target).toMatchObject({ isNew: true, moment: at(40) });
    expect(target.patch.range).toEqual({ start: at(40), end: at(40) });
    const doc = withEdit(state.doc, turn, 20);
    expect((doc.patches[0].settings as unknown as TouchUpSettings).edits).toHaveLength(1);
    expect(doc.patches).toHaveLength(2);
    expect(withEdit(state.doc, turn, 40).patches).toHaveLength(3);
  });

  it("says in one line what would be written, in frames of the result", () => {
    benchWith({ ...emptyWork(), patches: [windowed("under"), trim] });
    useBench.setState({ patchId: "under", parts: [stick.joint("LeftArm")] });
    expect(writesLine(useBench.getState(), true, 20)).toBe("writes to: under, Left upper arm, f 14–26");
    expect(writesLine(useBench.getState(), true, 45)).toMatch(/^writes to: new touch-up, Left upper arm, f 39–51/);
    const cut = { ...windowed("under"), range: { start: at(5), end: at(8) } };
    expect(framesWritten(useBench.getState(), cut, false)).toMatch(/cut away/);
    useBench.setState({ patchId: null, parts: [], contact: { point: "leftToe", start: 3, end: 9 } });
    expect(writesLine(useBench.getState(), false, 20)).toBe("writes to: contact left toe, f 3–9");
  });

  it("keeps its moments of the body when it is carried over the trim, both ways", () => {
    benchWith({ ...emptyWork(), patches: [windowed("t"), trim] });
    change("Reorder", (d) => reordered(d, 0, 1));
    const above = useBench.getState().doc;
    expect(above.patches.map((p) => p.id)).toEqual(["trim", "t"]);
    expect(above.patches[1].range?.start).toBeCloseTo(at(20), 9);
    expect(above.patches[1].settings.at).toBeCloseTo(at(20), 9);
    expect(above.patches[0].settings).toEqual(trim.settings);
    benchWith(above);
    change("Reorder", (d) => reordered(d, 1, 0));
    const below = useBench.getState().doc;
    expect(below.patches[0].range?.start).toBeCloseTo(at(40), 9);
    // And the motion is the same either way.
    const clip = (doc: Work) => stick.evaluator().evaluate(doc).result.clip;
    const edited = (doc: Work): Work => ({
      ...doc,
      patches: doc.patches.map((p) => (p.id === "t" ? { ...p, settings: { ...p.settings, edits: [turn] } } : p)),
    });
    expect(clip(edited(above)).rotations[stick.joint("LeftArm")].map((c) => [...c])).toEqual(
      clip(edited(below)).rotations[stick.joint("LeftArm")].map((c) => [...c]),
    );
  });

  it("that is added from a menu begins at the playhead's frame; a floor goes beneath and speaks of the source", () => {
    benchWith({ ...emptyWork(), patches: [trim] });
    playhead.seek(30);
    addPatch("touchUp");
    expect(useBench.getState().doc.patches.at(-1)?.range?.start).toBeCloseTo(at(30), 9);
    addPatch("floor", { ...makePatch("floor", "Set floor", "proposed"), range: { start: at(0), end: at(10) } });
    const [floor] = useBench.getState().doc.patches;
    expect(floor.kind).toBe("floor");
    expect(floor.range?.start).toBeCloseTo(at(20), 9);
    expect(floor.range?.end).toBeCloseTo(at(30), 9);
  });
});

describe("an edit of the pose", () => {
  it("makes one new patch, which is then picked and takes the next edits", () => {
    benchWith(emptyWork());
    change("Turn", (doc) => withEdit(doc, turn, 30));
    editDone();
    const { doc, patchId } = useBench.getState();
    expect(doc.patches).toHaveLength(1);
    expect(doc.patches[0].id).toBe(patchId);
    change("Turn", (d) => withEdit(d, turn, 30));
    expect(useBench.getState().doc.patches).toHaveLength(1);
    expect(weightAt(doc.patches[0], at(30))).toBe(1);
    expect(weightAt(doc.patches[0], at(90))).toBe(0);
  });
});

describe("edits of contacts", () => {
  const edit = (id: string, start: number, end: number) => makeContactEdit({ id, point: "leftToe", start: at(start), end: at(end) });

  it("are told in the source's time, whatever the stack makes of time", () => {
    const { clocks } = benchWith({ ...emptyWork(), patches: [trim] });
    // The source's contact is 10–40; the trim shows its frames 20–40 as 0–20.
    const source = [{ point: "leftToe", start: 10, end: 40 }];
    const span = sourceSpan(clocks, { point: "leftToe", start: 0, end: 20 }, source);
    expect([span.start * FPS, span.end * FPS].map(Math.round)).toEqual([10, 40]);
    const alone = sourceSpan(clocks, { point: "leftToe", start: 30, end: 35 }, source);
    expect([alone.start * FPS, alone.end * FPS].map(Math.round)).toEqual([50, 55]);
  });

  it("set, change, and take away one contact alone", () => {
    const span = { point: "leftToe", start: at(10), end: at(40) };
    const set = withSpan(emptyWork(), span, { start: at(12) });
    expect(set.contacts).toMatchObject([{ point: "leftToe", kind: "span", start: at(12), end: at(40) }]);
    const moved = withSpan(set, { ...span, start: at(12) }, { end: at(38), rampOut: at(4) });
    expect(moved.contacts).toHaveLength(1);
    expect(moved.contacts[0]).toMatchObject({ id: set.contacts[0].id, start: at(12), end: at(38), rampOut: at(4) });
    const other = { ...moved, contacts: [...moved.contacts, edit("later", 60, 70)] };
    expect(withoutSpan(other, span).contacts.map((c) => [c.kind, Math.round(c.start * FPS)])).toEqual([
      ["span", 60],
      ["none", 10],
    ]);
    expect(withoutEdit(other, span).contacts.map((c) => c.id)).toEqual(["later"]);
  });
});

describe("grounding the feet", () => {
  it("puts floor and plant there once, and adds nothing when they are", () => {
    benchWith(emptyWork());
    expect(isGrounded(useBench.getState().doc)).toBe(false);
    groundFeet();
    const { doc } = useBench.getState();
    expect(doc.patches.map((p) => p.kind)).toEqual(["floor", "plant"]);
    expect(isGrounded(doc)).toBe(true);
    groundFeet();
    expect(useBench.getState().doc.patches).toHaveLength(2);
  });
});
