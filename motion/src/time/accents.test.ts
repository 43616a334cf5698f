import { describe, expect, it } from "vitest";
import { type Clip, ClipDraft } from "../clip/clip.ts";
import { axisAngleQuatFlat } from "../math/quat.ts";
import { stick } from "../testing/patched.ts";
import { accentsOf } from "./accents.ts";

const { base } = stick.evaluator().evaluate(stick.work());
const { fps } = base.clip;

/** The figure with its left arm held still but for one swift swing that is fastest on a frame. */
function swung(peak: number, degrees: number): Clip {
  const draft = ClipDraft.of(base.clip);
  const q = new Float64Array(4);
  for (let f = 0; f < base.clip.frameCount; f++) {
    // A smooth step of 8 frames about the peak.
    const t = Math.max(0, Math.min(1, (f - peak + 4) / 8));
    axisAngleQuatFlat(q, 0, 0, 0, 1, (degrees * (3 * t * t - 2 * t * t * t) * Math.PI) / 180);
    draft.setRotation(stick.joint("LeftArm"), f, q);
  }
  return draft.done();
}

describe("moments on which beats would stand well", () => {
  const accents = accentsOf(base);

  it("are where contacts begin and end, each with its reason, in order and apart from each other", () => {
    expect(accents.length).toBeGreaterThan(4);
    for (const [i, a] of accents.entries()) if (i > 0) expect(a.at - accents[i - 1].at).toBeGreaterThanOrEqual(0.1 - 1e-9);
    for (const a of accents.filter((x) => x.reason.endsWith("lands")))
      expect(
        base.contacts.some((c) => Math.abs(c.start / fps - a.at) < 1e-9),
        a.reason,
      ).toBe(true);
    for (const a of accents.filter((x) => x.reason.endsWith("lifts"))) expect(base.contacts.some((c) => Math.abs(c.end / fps - a.at) < 1e-9)).toBe(true);
    // What the clip cuts neither lands nor lifts.
    expect(accents.every((a) => a.at > 0 && a.at < (base.clip.frameCount - 1) / fps)).toBe(true);
  });

  it("are where a hand is fastest, to within two frames, and where nothing is swift there is none", () => {
    const without = { ...base, contacts: [] };
    const swift = accentsOf({ ...without, clip: swung(45, 120) }).filter((a) => /^Left hand is fastest/.test(a.reason));
    expect(swift).toHaveLength(1);
    expect(Math.abs(swift[0].at * fps - 45)).toBeLessThanOrEqual(2);
    expect(accentsOf({ ...without, clip: swung(45, 4) }).filter((a) => /^Left hand is fastest/.test(a.reason))).toEqual([]);
  });

  it("are where a hand's way turns back sharply, to within two frames, and not where it does so gently", () => {
    const turned = (degrees: number) => {
      const draft = ClipDraft.of(base.clip);
      const q = new Float64Array(4);
      for (let f = 0; f < base.clip.frameCount; f++) {
        axisAngleQuatFlat(q, 0, 0, 0, 1, (degrees * Math.max(0, 1 - Math.abs(f - 45) / 8) * Math.PI) / 180);
        draft.setRotation(stick.joint("LeftArm"), f, q);
      }
      return accentsOf({ ...base, contacts: [], clip: draft.done() }).filter((a) => a.kind === "turn" && /^Left hand/.test(a.reason));
    };
    // It sets out and stops as sharply as that is half of.
    expect(turned(60).some((a) => Math.abs(a.at * fps - 45) <= 2 && a.weight > 0.8)).toBe(true);
    expect(turned(12)).toEqual([]);
  });
});
