import { composed, makePatch, mergeEdits, type Work } from "@stride/motion";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { change, initialState, preview, redo, shownDoc, undo, useBench, withPatch } from "./bench.ts";
import { composeTyped } from "./posing.ts";

const doc = () => useBench.getState().doc;

describe("the steps of a work", () => {
  it("come back one by one and go forth again, whatever was done between (property)", () => {
    const step = fc.oneof(
      fc.record({ do: fc.constant("add" as const), id: fc.integer({ min: 0, max: 9 }) }),
      fc.record({ do: fc.constant("weigh" as const), id: fc.integer({ min: 0, max: 9 }), weight: fc.double({ min: 0, max: 1, noNaN: true }) }),
      fc.record({ do: fc.constant("drag" as const), weight: fc.double({ min: 0, max: 1, noNaN: true }) }),
      fc.record({ do: fc.constant("undo" as const) }),
      fc.record({ do: fc.constant("redo" as const) }),
    );
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), (steps) => {
        useBench.setState(initialState());
        // The plain truth: a list of documents and a place in it.
        let history: Work[] = [doc()];
        let at = 0;
        const push = () => {
          if (doc() === history[at]) return;
          history = [...history.slice(0, at + 1), doc()];
          at++;
        };
        for (const s of steps) {
          if (s.do === "add") change("add", (d) => ({ ...d, patches: [...d.patches, makePatch("layer", "L", `${d.patches.length}-${s.id}`)] }));
          else if (s.do === "weigh") {
            const patch = doc().patches[s.id];
            if (patch) change("weigh", (d) => withPatch(d, patch.id, { weight: s.weight }));
          } else if (s.do === "drag") {
            preview((d) => ({ ...d, livePlant: s.weight > 0.5 }));
            expect(doc()).toBe(history[at]);
            expect(shownDoc(useBench.getState()).livePlant).toBe(s.weight > 0.5);
            continue;
          } else if (s.do === "undo") {
            undo();
            at = Math.max(0, at - 1);
          } else {
            redo();
            at = Math.min(history.length - 1, at + 1);
          }
          if (s.do === "add" || s.do === "weigh") push();
          expect(doc()).toEqual(history[at]);
        }
        while (useBench.getState().past.length > 0) undo();
        expect(doc()).toEqual(history[0]);
        while (useBench.getState().future.length > 0) redo();
        expect(doc()).toEqual(history.at(-1));
      }),
      { numRuns: 200 },
    );
  });
});

describe("amounts of an edit", () => {
  const turn = (degrees: [number, number, number], space: "own" | "world") => ({
    op: "turn" as const,
    parts: [{ role: "head" as const }],
    space,
    degrees,
    shared: false,
    pivot: null,
  });

  it("of the same part and axes become one: turns composed in the order of their axes, ways added", () => {
    expect(mergeEdits(turn([90, 0, 0], "own"), turn([0, 90, 0], "own"))).toMatchObject({ degrees: composed([90, 0, 0], [0, 90, 0]) });
    expect(mergeEdits(turn([90, 0, 0], "world"), turn([0, 90, 0], "world"))).toMatchObject({ degrees: composed([0, 90, 0], [90, 0, 0]) });
    expect(mergeEdits(turn([9, 0, 0], "own"), turn([9, 0, 0], "world"))).toBeNull();
    const move = { op: "move" as const, parts: [{ role: "head" as const }], space: "world" as const };
    expect(mergeEdits({ ...move, centimetres: [1, 2, 3] }, { ...move, centimetres: [1, -2, 0.5] })).toMatchObject({ centimetres: [2, 0, 3.5] });
  });

  it("typed one by one add up to what is typed, in own and in world axes", () => {
    const amount = fc.double({ min: -60, max: 60, noNaN: true });
    fc.assert(
      fc.property(fc.tuple(amount, amount, amount), fc.constantFrom("own" as const, "world" as const), fc.nat(2), amount, (shown, space, axis, value) => {
        const wanted = shown.map((v, i) => (i === axis ? value : v));
        const by = composeTyped("turn", space, shown, axis, value);
        const merged = mergeEdits(turn(shown, space), turn(by, space));
        if (merged?.op !== "turn") throw new Error("not merged");
        merged.degrees.forEach((v, i) => {
          expect(v).toBeCloseTo(wanted[i], 3);
        });
      }),
    );
  });
});
