import { type Clocks, emptyWork, makePatch, type Patch, type SourceRef, type Work } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { joinSettings, joinsOf, stripOf, withInserted, withMovedPiece, withTrimmed } from "./strip.ts";

const ref = (name: string): SourceRef => ({ name, sha256: name.charCodeAt(0).toString(16).padStart(64, "0") });
const LENGTHS: Record<string, number> = { a: 2, b: 3, c: 1 };
const lengthOf = ({ name }: SourceRef) => LENGTHS[name];
const join = (name: string, settings: Record<string, unknown> = {}): Patch =>
  makePatch("join", "Join", `j-${name}`, { clip: ref(name), overlap: 0.4, ...settings });
const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });
/** Clocks of a source of four seconds at 30 fps with these patches over it; joins' own maps do not matter here. */
const clocks = (doc: Work): Clocks => ({ fps: 30, seconds: 4, warps: [], receives: Object.fromEntries(doc.patches.map((p) => [p.id, 0])) });

describe("the row of clips that joins make", () => {
  it("lays each behind the one before it, overlapping by as much as both play; handed over at once it overlaps by nothing", () => {
    const doc = work(join("a"), join("b", { how: "handOver" }));
    expect(stripOf(doc, clocks(doc), "Own", lengthOf).map(({ name, start, end, overlap }) => [name, start, end, overlap])).toEqual([
      ["Own", 0, 120, 0],
      ["a", 108, 168, 12],
      ["b", 168, 258, 0],
    ]);
  });

  it("is cut where one is left, and shows the piece of the other that was asked for", () => {
    const doc = work(join("a", { leave: 3, from: 0.5, to: 1.5 }));
    expect(stripOf(doc, clocks(doc), "Own", lengthOf).map(({ start, end }) => [start, end])).toEqual([
      [0, 90],
      [78, 108],
    ]);
    expect(stripOf(work(), clocks(work()), "Own", lengthOf)).toEqual([]);
    // One without a clip, or muted, has no place in it.
    expect(joinsOf(work(makePatch("join", "J", "x"), { ...join("a"), muted: true }))).toEqual([]);
  });

  it("is reordered among the joins alone, and what was left off belongs to whoever stood there", () => {
    const plant = makePatch("plant", "Plant", "plant");
    const doc = work(join("a", { leave: 3 }), plant, join("b", { leave: 4 }), join("c"));
    const moved = withMovedPiece(doc, "j-c", 0);
    expect(moved.patches.map((p) => p.id)).toEqual(["j-c", "plant", "j-a", "j-b"]);
    expect(moved.patches.filter((p) => p.kind === "join").map((p) => joinSettings(p).leave)).toEqual([null, null, null]);
    expect(withMovedPiece(doc, "j-a", 0)).toBe(doc);
    expect(withMovedPiece(doc, "j-c", 3)).toBe(doc);
  });

  it("takes another clip in behind a piece, or behind the work's own", () => {
    const doc = work(makePatch("plant", "Plant", "plant"), join("a"), join("b"));
    expect(withInserted(doc, "j-a", ref("c"), "new").patches.map((p) => p.id)).toEqual(["plant", "j-a", "new", "j-b"]);
    expect(withInserted(doc, null, ref("c"), "new").patches.map((p) => p.id)).toEqual(["plant", "new", "j-a", "j-b"]);
    expect(withInserted(work(), null, ref("c"), "new").patches.map((p) => p.id)).toEqual(["new"]);
  });

  it("trims whole frames, never past its other end or under its overlap", () => {
    const patch = join("a");
    const doc = work(patch);
    const trimmed = (what: "start" | "end" | "overlap", frames: number) => joinSettings(withTrimmed(doc, patch, what, frames, 30, 2).patches[0]);
    expect(trimmed("start", 6).from).toBeCloseTo(0.2, 9);
    expect(trimmed("start", -6).from).toBe(0);
    expect(trimmed("start", 600).from).toBeCloseTo(1.6, 9);
    expect(trimmed("end", -15).to).toBeCloseTo(1.5, 9);
    expect(trimmed("end", 15).to).toBe(2);
    expect(trimmed("end", -600).to).toBeCloseTo(0.4, 9);
    expect(trimmed("overlap", 3).overlap).toBeCloseTo(0.5, 9);
    expect(trimmed("overlap", -60).overlap).toBe(0);
    expect(trimmed("overlap", 600).overlap).toBe(2);
  });
});
