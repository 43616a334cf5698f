import { describe, expect, it } from "vitest";
import { ClipDraft } from "../clip/clip.ts";
import { patch, stick, worldAt } from "../testing/patched.ts";

const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** The stick figure walking on the spot, turned to `facing` degrees and swinging ±6° about the vertical, leaning 4 ± 3° to one side. */
function swinging(facing: number) {
  const draft = ClipDraft.of(stick.clip);
  for (let f = 0; f < stick.clip.frameCount; f++) {
    draft.setPosition(0, f, [0, 0.96, 0]);
    const [turn, lean] = [radians(facing + 6 * Math.sin(f / 7)) / 2, radians(4 + 3 * Math.cos(f / 7)) / 2];
    // heading about y, then lean about the body's own z: (0, sin t, 0, cos t) · (0, 0, sin l, cos l)
    const [st, ct, sl, cl] = [Math.sin(turn), Math.cos(turn), Math.sin(lean), Math.cos(lean)];
    draft.setRotation(0, f, [st * sl, st * cl, ct * sl, ct * cl]);
  }
  return draft.done();
}

/** Where the hips face, degrees off `about`: the world direction of their own +Z. */
function headings(clip: ReturnType<typeof swinging>, about: number): number[] {
  return Array.from({ length: clip.frameCount }, (_, f) => {
    const [x, y, z, w] = worldAt(clip, f, 0).turn;
    const degrees = (Math.atan2(2 * (x * z + w * y), 1 - 2 * (x * x + y * y)) * 180) / Math.PI;
    return ((((degrees - about) % 360) + 540) % 360) - 180;
  });
}

describe("amplitude", () => {
  // At half a turn a quaternion's sign and its leading component change within the swing.
  for (const facing of [0, 90, 180, -179, 270])
    it(`halves a swing about the vertical of a body that faces ${facing}°`, () => {
      const clip = swinging(facing);
      const evaluator = stick.evaluator(clip);
      const half = evaluator.evaluate(stick.work(patch("amplitude", { percent: 50, swivel: true, tilt: true, pitch: true }))).result.clip;
      const was = headings(clip, facing);
      const now = headings(half, facing);
      expect(Math.max(...was)).toBeGreaterThan(5.9);
      expect(Math.max(...now)).toBeGreaterThan(2.8);
      expect(Math.max(...now.map(Math.abs))).toBeLessThan(3.4);
    });

  it("halves the pitching of a body that hangs head down: half a turn, swinging by ±6°", () => {
    const draft = ClipDraft.of(stick.clip);
    for (let f = 0; f < stick.clip.frameCount; f++) {
      draft.setPosition(0, f, [0, 0.96, 0]);
      const half = radians(180 + 6 * Math.sin(f / 7)) / 2;
      draft.setRotation(0, f, [Math.sin(half), 0, 0, Math.cos(half)]);
    }
    const clip = draft.done();
    const { result } = stick.evaluator(clip).evaluate(stick.work(patch("amplitude", { percent: 50, pitch: true, tilt: true, swivel: true })));
    /** How far the hips' own up is from straight down, degrees, forward positive. */
    const off = (of: typeof clip, f: number) => {
      const [x, y, z, w] = worldAt(of, f, 0).turn;
      const up = [2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)];
      expect(up[1]).toBeLessThan(-0.99);
      return (Math.atan2(up[2], -up[1]) * 180) / Math.PI;
    };
    for (let f = 0; f < clip.frameCount; f++) expect(off(result.clip, f), `frame ${f}`).toBeCloseTo(off(clip, f) / 2, 0);
    const was = Array.from({ length: clip.frameCount }, (_, f) => Math.abs(off(clip, f)));
    expect(Math.max(...was)).toBeGreaterThan(5.9);
  });
});
