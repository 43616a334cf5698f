import { expect, it } from "vitest";
import { rotateVecFlat } from "../math/quat.ts";
import { apart, clip, goal, load, place, rig, skeleton } from "../testing/reaching.ts";
import { FREE, reachBody } from "./bodyReach.ts";

it("whole-body reach never flips a knee or an elbow while its target moves on smoothly (10,000 random paths)", () => {
  // Straight on, curving and looping paths about the body, some of them out of reach: between neighbouring steps the side that the
  // middle joint bends to turns by far less than the half turn of a flip. No rule for the bend is continuous everywhere; the one place
  // where this one turns fast, 20° about the way from a shoulder through the chest (or from a hip up and back), is left out,
  // and so are targets inside the joint that the limb hangs on, where its direction means nothing.
  const random = (() => {
    let state = 12345;
    return () => {
      state = (state * 1664525 + 1013904223) >>> 0;
      return state / 2 ** 32;
    };
  })();
  const signed = (size: number) => (random() * 2 - 1) * size;
  let flips = 0;
  let tried = 0;
  let worst = 0;
  const steps = 24;
  for (let path = 0; path < 10_000; path++) {
    const limb = rig.limbs[path % rig.limbs.length];
    const f = Math.floor(random() * clip.frameCount);
    const start = load(f);
    const home = place(start, limb.end);
    const size = limb.kind === "arm" ? 0.5 : 0.35;
    const waves = [0, 1, 2].map(() => ({ a: signed(size), b: signed(size), p: random() * 6.28 }));
    let previous: number[] | null = null;
    for (let i = 0; i <= steps; i++) {
      const t = i / (steps * 4);
      const target = home.map((v, c) => v + waves[c].a * (Math.sin(6.28 * t + waves[c].p) - Math.sin(waves[c].p)) + waves[c].b * t);
      const frame = load(f);
      reachBody(frame, rig, [goal(frame, skeleton.names[limb.end], target)], {
        ...FREE,
        move: [0, 0, 0],
        hipsTurn: [0, 0, 0],
        locked: new Set(skeleton.names.keys()),
      });
      const [s, m, e] = [limb.upper, limb.lower, limb.end].map((j) => place(frame, j));
      const axis = e.map((v, c) => (v - s[c]) / apart(e, s));
      const via = rotateVecFlat([0, 0, 0], 0, frame.worldRotations, skeleton.parents[limb.collar >= 0 ? limb.collar : limb.upper] * 4, limb.via, 0);
      if (axis.reduce((sum, v, c) => sum + v * via[c], 0) < -Math.cos(Math.PI / 9) || apart(target, s) < 0.15 * limb.length) {
        previous = null;
        continue;
      }
      tried++;
      const along = m.reduce((sum, v, c) => sum + (v - s[c]) * axis[c], 0);
      const bend = m.map((v, c) => v - s[c] - along * axis[c]);
      const size2 = Math.hypot(...bend);
      if (previous && size2 > 0.01 && Math.hypot(...previous) > 0.01) {
        const cos = bend.reduce((sum, v, c) => sum + v * (previous as number[])[c], 0) / (size2 * Math.hypot(...previous));
        const turned = Math.acos(Math.max(-1, Math.min(1, cos)));
        worst = Math.max(worst, turned);
        if (turned > Math.PI / 2) flips++;
      }
      previous = bend;
    }
  }
  expect(tried).toBeGreaterThan(220_000);
  expect(flips, `largest turn between steps ${((worst * 180) / Math.PI).toFixed(0)}°`).toBe(0);
});
