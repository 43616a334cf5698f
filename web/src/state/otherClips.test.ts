import { emptyWork, makePatch, type SourceRef, type Work } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { beforeEach, describe, expect, it } from "vitest";
import { inputsOf, lengthOfOther, Supplies, useOtherClips } from "./otherClips.ts";

const ref = (digit: string, work?: number): SourceRef => ({ name: `${digit}.bvh`, sha256: digit.repeat(64), ...(work !== undefined && { work }) });
const drawing = (...refs: SourceRef[]): Work => ({ ...emptyWork(), patches: refs.map((clip, i) => makePatch("join", "On", `j${i}`, { clip })) });
const row = (digit: string) =>
  ({ id: digit, fileName: `${digit}.bvh`, sha256: digit.repeat(64), take: null, summary: { frames: 61, fps: 30 } }) as unknown as ClipRow;

/** A library of some clips, with works on them, that answers when it is told to. */
function library(works: Record<string, Work> = {}) {
  const delivered: string[] = [];
  const asked: string[] = [];
  let answer = () => {};
  const gate = new Promise<void>((resolve) => {
    answer = resolve;
  });
  const supplies = new Supplies({
    async clip({ sha256 }) {
      asked.push(sha256[0]);
      await gate;
      if (sha256[0] === "9") throw new Error("there is no such clip");
      return row(sha256[0]);
    },
    work: async ({ sha256 }, revision) => works[`${sha256[0]}@${revision}`] ?? Promise.reject(new Error("there is no such version")),
    deliver: async ({ sha256, work }) => void delivered.push(`${sha256[0]}${work ?? ""}`),
  });
  return { supplies, delivered, asked, answer };
}

describe("clips that a work draws on", () => {
  beforeEach(() => useOtherClips.setState({ rows: new Map(), missing: new Set() }));

  it("are each brought once, and not taken for there before they are", async () => {
    const { supplies, delivered, asked, answer } = library();
    const work = drawing(ref("1"), ref("2"), ref("1"));
    expect(inputsOf(work)).toHaveLength(2);
    const first = supplies.bring(work);
    const second = supplies.bring(drawing(ref("1")));
    expect(supplies.complete(drawing(ref("1")))).toBe(false);
    answer();
    await Promise.all([first, second]);
    expect(supplies.complete(work)).toBe(true);
    expect(asked.sort()).toEqual(["1", "2"]);
    expect(delivered.sort()).toEqual(["1", "2"]);
    expect(lengthOfOther(ref("1"))).toBe(2);
    expect(lengthOfOther(ref("3"))).toBeUndefined();
  });

  it("that are missing are taken down, and the rest goes on", async () => {
    const { supplies, delivered, answer } = library();
    answer();
    await supplies.bring(drawing(ref("9"), ref("1"), ref("2", 4)));
    expect(delivered).toEqual(["1"]);
    expect([...useOtherClips.getState().missing].sort()).toEqual([`${"2".repeat(64)}@4`, `${"9".repeat(64)}@`]);
    expect(supplies.complete(drawing(ref("9")))).toBe(true);
  });

  it("bring what they draw on themselves before they come, and all again to a fresh thread", async () => {
    const { supplies, delivered, answer } = library({ "1@3": drawing(ref("2")) });
    answer();
    await supplies.bring(drawing(ref("1", 3)));
    expect(delivered).toEqual(["2", "13"]);
    supplies.forget();
    expect(supplies.complete(drawing(ref("2")))).toBe(false);
    await supplies.bring(drawing(ref("2")));
    expect(delivered).toEqual(["2", "13", "2"]);
  });
});
