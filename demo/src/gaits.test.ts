import { Evaluator, emptyWork, oneSource } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demoClips } from "./clips.ts";

/** A foot's stands as intervals of seconds, heel and toe of one foot together, as the checkup finds them. */
function stands(id: string): { readonly [foot: string]: readonly (readonly [number, number])[] } {
  const demo = demoClips().find((c) => c.id === id);
  if (!demo) throw new Error(`no clip ${id}`);
  const { base } = new Evaluator(oneSource(demo.truth.character.skeleton, demo.truth.clip)).evaluate(emptyWork());
  const last = base.clip.frameCount - 1;
  const out: Record<string, [number, number][]> = {};
  for (const { point, start, end } of base.contacts) {
    const foot = point.replace(/Heel|Toe/, "Foot");
    out[foot] ??= [];
    const list = out[foot];
    const before = list.at(-1);
    if (before && start <= before[1] + 1) before[1] = Math.max(before[1], end);
    else list.push([start, end]);
  }
  for (const foot of Object.keys(out)) out[foot] = out[foot].filter(([a, b]) => a > 0 && b < last);
  return out;
}

/** Stance share of a foot's own cycle: its stands against the time from landing to landing. */
function dutyFactor(list: readonly (readonly [number, number])[]): number {
  const shares = list.slice(1).map(([next], i) => (list[i][1] - list[i][0] + 1) / (next - list[i][0]));
  return shares.reduce((a, b) => a + b, 0) / shares.length;
}

/** How much later in the cycle one foot lands than another, as a share of it. */
function lag(a: readonly (readonly [number, number])[], b: readonly (readonly [number, number])[]): number {
  const cycle = a[1][0] - a[0][0];
  const lags = b.map(([landing]) => ((((landing - a[0][0]) / cycle) % 1) + 1) % 1);
  return lags.reduce((x, y) => x + y, 0) / lags.length;
}

describe("the demo's gaits, by their own contacts", () => {
  it("walk: stance about 60 % of a cycle, double support about 10 % twice, sides half a cycle apart (Winter; Perry, Gait Analysis; from memory)", () => {
    const { leftFoot, rightFoot } = stands("porter-night-shift-walk");
    for (const foot of [leftFoot, rightFoot]) {
      expect(dutyFactor(foot)).toBeGreaterThan(0.57);
      expect(dutyFactor(foot)).toBeLessThan(0.68);
    }
    const double = (dutyFactor(leftFoot) + dutyFactor(rightFoot) - 1) / 2;
    expect(double).toBeGreaterThan(0.07);
    expect(double).toBeLessThan(0.17);
    expect(Math.abs(lag(leftFoot, rightFoot) - 0.5)).toBeLessThan(0.04);
  });

  it("jog: each foot stands for less than half of its cycle, so that both are off the ground in between (Alexander 1989; from memory)", () => {
    const { leftFoot, rightFoot } = stands("porter-late-for-the-ferry");
    for (const foot of [leftFoot, rightFoot]) {
      expect(dutyFactor(foot)).toBeGreaterThan(0.25);
      expect(dutyFactor(foot)).toBeLessThan(0.48);
    }
    expect(Math.abs(lag(leftFoot, rightFoot) - 0.5)).toBeLessThan(0.04);
  });

  it("goat: a walk of lateral sequence, each hoof down for more than half, the fore hoof about a quarter of a cycle after the hind one of its side (Hildebrand, Science 150, 1965; from memory)", () => {
    const { leftFore, leftHind, rightFore, rightHind } = stands("goat-down-the-quay");
    for (const foot of [leftFore, leftHind, rightFore, rightHind]) {
      expect(dutyFactor(foot)).toBeGreaterThan(0.55);
      expect(dutyFactor(foot)).toBeLessThan(0.75);
    }
    for (const [hind, fore] of [
      [leftHind, leftFore],
      [rightHind, rightFore],
    ]) {
      expect(lag(hind, fore)).toBeGreaterThan(0.15);
      expect(lag(hind, fore)).toBeLessThan(0.35);
    }
    expect(Math.abs(lag(leftHind, rightHind) - 0.5)).toBeLessThan(0.04);
  });
});
