import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { findingsOf } from "../checkup/findings.ts";
import { measure } from "../checkup/measures.ts";
import { emptyNotes } from "../documents/characterNotes.ts";
import { DocumentError } from "../documents/errors.ts";
import { checkWork, readRecipe } from "../documents/read.ts";
import { movedPatch } from "../documents/times.ts";
import { emptyWork, RECIPE_FORMAT } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import { PatchError } from "../formats/errors.ts";
import { previewFrame } from "../preview.ts";
import { oneSource } from "../sources.ts";
import { crouchPatch } from "../testing/crouch.ts";
import { around, at, patch, stick, worldAt } from "../testing/patched.ts";
import { guideTable } from "./guideTable.ts";
import { PATCH_KINDS, registered, registerForTest } from "./index.ts";

let takeOut = () => {};
beforeAll(() => {
  takeOut = registerForTest(registered(crouchPatch));
});
afterAll(() => takeOut());

const crouch = (settings: Record<string, unknown> = {}) => patch("crouch", settings, around(40, 4, 6));
const hipsAt = (work: ReturnType<typeof stick.work>, f: number) => 100 * worldAt(stick.evaluator().evaluate(work).result.clip, f, 0).place[1];

describe("a kind of patch that is one file and one line", () => {
  it("is evaluated by its weights, and refused where its settings are wrong, by its own name", () => {
    expect(hipsAt(stick.work(crouch()), 40) - hipsAt(stick.work(), 40)).toBeCloseTo(-10, 3);
    expect(hipsAt(stick.work(crouch({ depth: "double" })), 40) - hipsAt(stick.work(), 40)).toBeCloseTo(-20, 3);
    expect(hipsAt(stick.work(crouch()), 20)).toBe(hipsAt(stick.work(), 20));
    expect(() => stick.evaluator().evaluate(stick.work(crouch({ with: [{ joint: "Wing" }] })))).toThrow(PatchError);
    expect(() => stick.evaluator().evaluate(stick.work(crouch({ with: [{ joint: "Wing" }] })))).toThrow(/crouch: with/);
  });

  it("is validated in documents, and stands in recipes", () => {
    const work = { ...emptyWork(), patches: [crouch({ byCm: 12 })] };
    expect(checkWork(JSON.parse(JSON.stringify(work)))).toEqual(work);
    expect(() => checkWork({ ...work, patches: [crouch({ byCm: 99 })] })).toThrow(DocumentError);
    expect(() => checkWork({ ...work, patches: [crouch({ wide: 1 })] })).toThrow(/patches\.0\.settings\.wide/);
    const recipe = { format: RECIPE_FORMAT, name: "Down", patches: [crouch()] };
    expect(readRecipe(recipe, { fps: 30 }).patches[0].kind).toBe("crouch");
  });

  it("is previewed a frame at a time, since it says how far it sees", () => {
    const evaluator = stick.evaluator();
    const before = evaluator.evaluate(stick.work(crouch()));
    const next = stick.work(crouch({ byCm: 16 }));
    const seen = previewFrame(before, next, 40);
    expect(100 * worldAt(seen?.clip ?? stick.clip, 0, 0).place[1]).toBeCloseTo(hipsAt(next, 40), 4);
  });

  it("has its moments moved with the time beneath it", () => {
    expect(movedPatch(crouch({ deepest: 2 }), (m) => m + 1)).toMatchObject({ settings: { deepest: 3 }, range: { start: at(36) + 1 } });
  });

  it("is proposed for the findings it treats, where they are", () => {
    const free: [number, number] = [-180, 180];
    const notes = { ...emptyNotes(), limits: { LeftLeg: { bend: [-5, 5] as [number, number], side: free, twist: free } } };
    const { base } = new Evaluator(oneSource(stick.skeleton, stick.clip, { notes })).evaluate(emptyWork());
    const past = findingsOf(base, measure(base)).find((f) => f.kind === "limit");
    if (!past) throw new Error("no limit is passed");
    expect(past.treat).toMatchObject({ kind: "crouch", name: "Crouch", settings: { byCm: 2, deepest: at(past.startFrame) } });
  });

  it("has a row in the guide, and stands last in the menus", () => {
    expect(guideTable()).toContain("| Crouch | Brings the body down over a stretch. |");
    expect(PATCH_KINDS.at(-1)?.kind).toBe("crouch");
  });
});
