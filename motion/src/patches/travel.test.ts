import { describe, expect, it } from "vitest";
import { ClipDraft, readPosition } from "../clip/clip.ts";
import type { Motion } from "../motion.ts";
import { patch, stick } from "../testing/patched.ts";

const FPS = 30;
const n = stick.clip.frameCount;
const place = (motion: Pick<Motion, "clip">, f: number) => {
  const p = [0, 0, 0];
  readPosition(motion.clip, 0, f, p, 0);
  return p;
};

/** The figure sent along a way of its own: x and z by time, metres. */
function sent(way: (t: number) => readonly [number, number]) {
  const draft = ClipDraft.of(stick.clip);
  for (let f = 0; f < n; f++) {
    const [x, z] = way(f / FPS);
    draft.setPosition(0, f, [x, place(stick, f)[1], z]);
  }
  return draft.done();
}
/** Seen on ground that lies still, though its legs walk on the spot. */
const run = (clip: ReturnType<typeof sent>, settings: Record<string, unknown>) =>
  stick.evaluator(clip).evaluate({ ...stick.work(patch("travel", settings)), carriedBy: "stillGround" }).result;

describe("travel", () => {
  it("is left bit for bit alone while it is told nothing", () => {
    expect(run(stick.clip, {}).clip).toBe(stick.clip);
    expect(run(stick.clip, {}).groundTravel).toBeNull();
  });

  it("goes at one speed where it hurried and dawdled, from its first place to its last", () => {
    const hurried = sent((t) => [0, t < 1.5 ? 0.4 * t : 0.6 + 1.2 * (t - 1.5)]);
    const even = run(hurried, { travel: "even" });
    const speeds = [20, 45, 70].map((f) => (place(even, f + 5)[2] - place(even, f - 5)[2]) * 3);
    const whole = (place({ clip: hurried }, n - 1)[2] - place({ clip: hurried }, 0)[2]) / ((n - 1) / FPS);
    for (const v of speeds) expect(v / whole).toBeCloseTo(1, 1);
  });

  it("goes on straight where it is told to go further than its way, and stops short where it is told less", () => {
    const steady = sent((t) => [0, 0.8 * t]);
    for (const speed of [0.4, 1.6]) {
      const motion = run(steady, { speed });
      expect((place(motion, n - 1)[2] - place(motion, 0)[2]) / ((n - 1) / FPS)).toBeCloseTo(speed, 2);
      expect(Math.abs(place(motion, n - 1)[0] - place(motion, 0)[0])).toBeLessThan(0.01);
    }
  });

  it("of a body without a way goes where it faces", () => {
    const still = sent(() => [0, 0]);
    const motion = run(still, { speed: 0.5 });
    expect(Math.hypot(place(motion, n - 1)[0], place(motion, n - 1)[2])).toBeCloseTo((0.5 * (n - 1)) / FPS, 2);
    expect(run(still, { travel: "even" }).clip).toBe(still);
  });

  it("that the ground does is what the figure does not, share by share", () => {
    const steady = sent((t) => [0.02 * Math.sin(2 * Math.PI * t), 0.8 * t]);
    for (const share of [0.3, 1]) {
      const { clip, groundTravel } = run(steady, share === 1 ? { travel: "spot" } : { groundShare: share });
      expect(clip).toBe(steady);
      expect(groundTravel?.z[0]).toBeCloseTo(0, 9);
      expect((groundTravel?.z[n - 1] ?? 0) / (0.8 * ((n - 1) / FPS))).toBeCloseTo(-share, 2);
      // Sway comes back within a stride: it stays with the figure.
      expect(Math.max(...Array.from(groundTravel?.x ?? [], Math.abs))).toBeLessThan(0.012);
    }
  });
});
