import {
  bestCycle,
  type Clip,
  clipWorld,
  Evaluator,
  emptyWork,
  figureClip,
  findCycles,
  legLengthOf,
  type Motion,
  makePatch,
  measureGait,
  oneSource,
  type Patch,
  PoseFrame,
  quantile,
  quatAngleFlat,
  readPosition,
  readRotation,
  strideSpeed,
  strideTravel,
  type Work,
} from "@stride/motion";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { differences } from "../../motion/src/testing/patched.ts";
import { demoClips } from "./clips.ts";
import type { Performance } from "./performance.ts";

const clips = new Map(demoClips().map((c) => [c.id, c]));
const demo = (id: string) => {
  const found = clips.get(id);
  if (!found) throw new Error(`no clip ${id}`);
  return found;
};
const WALK = "porter-night-shift-walk";
const JOG = "porter-late-for-the-ferry";
const GOAT = "goat-down-the-quay";
const GAITS = [WALK, JOG, GOAT];

const work = (...patches: Patch[]): Work => ({ ...emptyWork(), patches });
const floorAndPlant = [makePatch("floor", "floor", "floor"), makePatch("plant", "plant", "plant")];
const evaluators = new Map<string, Evaluator>();
const evaluator = (id: string) => {
  const { truth, clip } = demo(id);
  const known = evaluators.get(id) ?? new Evaluator(oneSource(truth.character.skeleton, clip));
  evaluators.set(id, known);
  return known;
};
const evaluate = (id: string, ...patches: Patch[]) => evaluator(id).evaluate(work(...patches)).result;
const ofTruth = (id: string, ...patches: Patch[]) => {
  const { truth } = demo(id);
  return new Evaluator(oneSource(truth.character.skeleton, truth.clip)).evaluate(work(...patches)).result;
};
const retime = (beats: readonly (readonly [number, number])[], rest: Partial<Patch> = {}, id = "retime"): Patch => ({
  ...makePatch("retime", "Retime", id, { beats: beats.map(([from, to]) => ({ from, to })) }),
  ...rest,
});

/** How far the true stance points of a performance slide in a clip: each span's furthest from its middle, centimetres. `shown` gives the frame of the clip that shows a frame of the truth. */
function trueSlides(truth: Performance, clip: Clip, shown: (frame: number) => number): number[] {
  const world = clipWorld(truth.character.skeleton, clip);
  const out: number[] = [];
  for (const { joint, start, end } of truth.contacts) {
    // The joint itself, in the part of its stance in which it surely rests: a heel joint rolls at both ends.
    const [a, b] = [shown(start + 0.3 * (end - start)), shown(start + 0.7 * (end - start))];
    const frames = [];
    for (let f = Math.ceil(a); f <= Math.floor(b); f++) if (f >= 0 && f < clip.frameCount) frames.push(f);
    if (frames.length < 3) continue;
    const middle = frames[frames.length >> 1];
    const at = (f: number, i: number) => world.positions[(f * world.jointCount + joint) * 3 + i];
    out.push(100 * Math.max(...frames.map((f) => Math.hypot(at(f, 0) - at(middle, 0), at(f, 2) - at(middle, 2)))));
  }
  return out;
}

const toes = (truth: Performance): Performance => ({ ...truth, contacts: truth.contacts.filter((c) => /Toe|Fore|Hind/.test(c.point)) });

describe("a retimed motion", () => {
  it("is bit for bit the same through beats that change nothing, and muted", () => {
    const before = evaluate(WALK, ...floorAndPlant).clip;
    for (const same of [
      retime([]),
      retime([
        [0.5, 0.5],
        [2, 2],
      ]),
      retime(
        [
          [0, 1],
          [2, 4],
        ],
        { muted: true },
      ),
    ])
      expect(differences(before, evaluate(WALK, ...floorAndPlant, same).clip)).toEqual({ frames: [], joints: [], moved: false });
  });

  it("shows whole frames of its source with their bits where it runs at its own speed", () => {
    const { clip } = demo(WALK);
    const { clip: slowed } = new Evaluator(oneSource(demo(WALK).truth.character.skeleton, clip)).evaluate(
      work(
        retime([
          [1, 1],
          [2, 3],
        ]),
      ),
    ).result;
    const [a, b] = [new Float32Array(4), new Float32Array(4)];
    for (const f of [0, 11, 30]) {
      for (let j = 0; j < clip.jointCount; j++) {
        readRotation(clip, j, f, a, 0);
        readRotation(slowed, j, f, b, 0);
        expect([...b]).toEqual([...a]);
      }
    }
    readRotation(clip, 3, 75, a, 0);
    readRotation(slowed, 3, 105, b, 0);
    expect([...b]).toEqual([...a]);
  });

  it("takes its contacts along to within half a frame", () => {
    const before = evaluate(WALK, ...floorAndPlant);
    const { fps } = before.clip;
    const { contacts } = evaluate(
      WALK,
      ...floorAndPlant,
      retime([
        [0, 0],
        [1, 2],
        [3, 3.5],
        [4, 4],
      ]),
    );
    const knots = [0, 1, 3, 4, 5];
    const times = [0, 2, 3.5, 4, 5];
    for (const contact of before.contacts) {
      for (const edge of [contact.start, contact.end]) {
        const m = edge / fps;
        const k = Math.min(
          knots.findIndex((v) => v >= m),
          knots.length - 1,
        );
        // Within the monotone curve's stretch the contact lies between its beats; on a beat it lies exactly there.
        const [low, high] = [times[Math.max(0, k - 1)], times[k]];
        const own = contacts.filter((c) => c.point === contact.point);
        expect(own.some((c) => [c.start, c.end].some((f) => f / fps >= low - 0.5 / fps - 1e-9 && f / fps <= high + 0.5 / fps + 1e-9))).toBe(true);
      }
    }
    const even = evaluate(
      WALK,
      ...floorAndPlant,
      makePatch("retime", "R", "r", {
        beats: [
          { from: 0, to: 0 },
          { from: 4, to: 8 },
        ],
        between: "even",
      }),
    );
    for (const contact of before.contacts.filter((c) => c.end < 4 * fps))
      expect(
        even.contacts.some((c) => c.point === contact.point && Math.abs(c.start - 2 * contact.start) <= 0.5 && Math.abs(c.end - 2 * contact.end) <= 0.5),
      ).toBe(true);
  });

  it("limited to a leg takes only that leg along; the rest keeps its bits, and the feet are planted", () => {
    const before = evaluate(WALK, ...floorAndPlant);
    const parts = ["leftThigh", "leftShin", "leftFoot", "leftToe"].map((role) => ({ role }) as Patch["parts"] extends (infer R)[] | null ? R : never);
    const last = retime(
      [
        [3, 3],
        [3.5, 3.8],
      ],
      { parts },
    );
    const stage = evaluator(WALK).evaluate(work(...floorAndPlant, last));
    const own = new Set(parts.map((p) => ("role" in p ? (stage.base.character.body.roles[p.role] ?? -1) : -1)));
    const { joints, moved, frames } = differences(before.clip, stage.stages[2].motion.clip);
    expect(moved).toBe(false);
    expect(joints.length).toBeGreaterThan(0);
    expect(joints.every((j) => own.has(j))).toBe(true);
    expect(Math.min(...frames)).toBeGreaterThanOrEqual(90);
    // Its contacts come later, the other side's stay.
    const told = (motion: Motion, side: string) => motion.contacts.filter((c) => c.point.startsWith(side) && c.start > 90).map((c) => `${c.point} ${c.start}`);
    expect(told(stage.result, "right")).toEqual(told(before, "right"));
    expect(told(stage.result, "left")).not.toEqual(told(before, "left"));
    expect(stage.result.clip.frameCount).toBe(before.clip.frameCount);
  });

  it("keeps true stance points still under a plant, in random stacks of six with time patches among them (property)", () => {
    const { truth } = demo(WALK);
    const fps = truth.clip.fps;
    const step = fc.tuple(fc.double({ min: 0.4, max: 1, noNaN: true }), fc.double({ min: 0.6, max: 2.2, noNaN: true }));
    const slides: number[] = [];
    fc.assert(
      fc.property(fc.array(step, { minLength: 2, maxLength: 4 }), fc.double({ min: 0.7, max: 1.6, noNaN: true }), fc.boolean(), (steps, speed, late) => {
        let [from, to] = [0, 0];
        const beats: [number, number][] = [[0, 0]];
        for (const [a, rate] of steps) {
          from += a;
          to += a * rate;
          beats.push([from, to]);
        }
        const time = [retime(beats), makePatch("retime", "S", "s", { speed })];
        const corrections = [makePatch("repair", "Smooth", "smooth", { smooth: 0.5 }), makePatch("amplitude", "A", "a", { percent: 80, sway: true })];
        const stack = late ? [...floorAndPlant, ...corrections, ...time] : [...time, ...floorAndPlant, ...corrections];
        const evaluation = evaluator(WALK).evaluate(work(...stack));
        const shown = (frame: number) => {
          // By the beats themselves, piece by piece: an own reading, not the map under test; eased pieces are followed by their ends alone.
          const warps = evaluation.stages.filter((s) => s.patch.kind === "retime").map((s) => s.warp);
          let m = frame / fps;
          for (const { pieces, seconds } of warps) {
            const grid = Array.from({ length: 4001 }, (_, k) => (k * seconds) / 4000);
            const reads = (out: number) => {
              const piece = pieces.find((p) => out <= p.outEnd) ?? pieces[pieces.length - 1];
              const t = (out - piece.outStart) / (piece.outEnd - piece.outStart);
              const [h, rise] = [piece.outEnd - piece.outStart, piece.inEnd - piece.inStart];
              const [m0, m1] = piece.speeds ?? [rise / h, rise / h];
              return piece.inStart + (3 * t * t - 2 * t ** 3) * rise + h * (t ** 3 - 2 * t * t + t) * m0 + h * (t ** 3 - t * t) * m1;
            };
            m = grid.find((out) => reads(out) >= m) ?? seconds;
          }
          return m * fps;
        };
        slides.push(...trueSlides(toes(truth), evaluation.result.clip, shown));
      }),
      { numRuns: 8, seed: 11 },
    );
    expect(slides.length).toBeGreaterThan(40);
    expect(quantile(slides, 0.95)).toBeLessThan(0.2);
  });
});

describe("a looped motion", () => {
  const seam = (motion: Motion, repeats: number) => {
    const { clip } = motion;
    const last = clip.frameCount - 1;
    const [a, b] = [new Float64Array(4), new Float64Array(4)];
    let [pose, peak] = [0, 0];
    const step = (j: number, from: number, to: number) => {
      readRotation(clip, j, from, a, 0);
      readRotation(clip, j, to, b, 0);
      return quatAngleFlat(a, 0, b, 0);
    };
    for (let j = 1; j < clip.jointCount; j++) {
      pose = Math.max(pose, step(j, 0, last));
      for (let f = 1; f <= last; f++) peak = Math.max(peak, step(j, f - 1, f));
    }
    const place = (f: number) => {
      const p = [0, 0, 0];
      readPosition(clip, 0, f, p, 0);
      return p;
    };
    const [first, once, end] = [place(0), place(last / repeats), place(last)];
    return { pose, peak, once: once.map((v, i) => v - first[i]), all: end.map((v, i) => v - first[i]) };
  };

  it.each(GAITS)("%s closes in pose and speed, and travels on by as much with each repeat", (id) => {
    for (const stack of [[], floorAndPlant]) {
      const motion = evaluate(id, ...stack, makePatch("loop", "Loop", "loop", { repeats: 3 }));
      const { pose, peak, once, all } = seam(motion, 3);
      expect(pose).toBe(0);
      expect(Math.hypot(all[0] - 3 * once[0], all[2] - 3 * once[2])).toBeLessThan(1e-4);
      expect(Math.hypot(once[0], once[2])).toBeGreaterThan(0.5);
      // The speed into the seam and out of it, as parabolas through three frames on either side have it, no further apart than such readings are anywhere in the loop.
      const { clip } = motion;
      const cycle = (clip.frameCount - 1) / 3;
      const q = (j: number, f: number) => {
        const v = new Float64Array(4);
        readRotation(clip, j, f, v, 0);
        return v;
      };
      const gap = (f: number) => {
        let most = 0;
        for (let j = 1; j < clip.jointCount; j++) {
          const here = q(j, f);
          const from = (other: Float64Array) => {
            const sign = here.reduce((s, v, i) => s + v * other[i], 0) < 0 ? -1 : 1;
            return other.map((v, i) => sign * v - here[i]);
          };
          const [a, b, c, d] = [from(q(j, f - 1)), from(q(j, f - 2)), from(q(j, f + 1)), from(q(j, f + 2))];
          most = Math.max(most, 2 * Math.hypot(...a.map((_, i) => (b[i] - 4 * a[i]) / 2 - (4 * c[i] - d[i]) / 2)));
        }
        return most / peak;
      };
      const elsewhere = Array.from({ length: Math.round(cycle) - 6 }, (_, k) => gap(k + 4));
      expect(gap(Math.round(cycle))).toBeLessThan(Math.max(0.02, quantile(elsewhere, 0.5)));
    }
  });

  it("keeps a foot that stands across the seam in its place", () => {
    const motion = evaluate(WALK, ...floorAndPlant, makePatch("loop", "Loop", "loop", { repeats: 3 }));
    const cycle = Math.round((motion.clip.frameCount - 1) / 3);
    const across = motion.contacts.filter((c) => c.start < cycle - 2 && c.end > cycle + 2);
    expect(across.length).toBeGreaterThan(0);
    const world = clipWorld(motion.character.skeleton, motion.clip);
    for (const { joint, start, end } of across) {
      const at = (f: number, i: number) => world.positions[(f * world.jointCount + joint) * 3 + i];
      const middle = Math.round((start + end) / 2);
      for (let f = Math.round(start + 0.3 * (end - start)); f <= start + 0.7 * (end - start); f++)
        expect(100 * Math.hypot(at(f, 0) - at(middle, 0), at(f, 2) - at(middle, 2))).toBeLessThan(0.1);
    }
  });

  it("on the spot lets the ground do the travel; starting anew comes back to its place", () => {
    const spot = evaluate(WALK, ...floorAndPlant, makePatch("loop", "Loop", "loop", { repeats: 2, travel: "spot" }));
    const shown = seam({ ...spot, clip: figureClip(spot) }, 2);
    expect(Math.hypot(shown.all[0], shown.all[2])).toBeLessThan(1e-5);
    expect(spot.groundTravel).not.toBeNull();
    const anew = evaluate(WALK, ...floorAndPlant, makePatch("loop", "Loop", "loop", { repeats: 2, travel: "return" }));
    const { once, all } = seam(anew, 2);
    expect(Math.hypot(all[0] - once[0], all[2] - once[2])).toBeLessThan(1e-5);
  });

  it("makes the second half the mirror image of the first", () => {
    const motion = evaluate(WALK, ...floorAndPlant, makePatch("loop", "Loop", "loop", { repeats: 1, half: "first" }));
    const { skeleton, body, rig } = motion.character;
    const cycle = motion.clip.frameCount - 1;
    // Half a cycle later the other foot stands as far before the hips as this one did. Read off places alone, on whole and half frames.
    const lead = (f: number, side: "left" | "right") => {
      const value = (frame: number) => {
        const pose = new PoseFrame(skeleton, motion.clip);
        pose.load(motion.clip, frame);
        const foot = (body.roles[`${side}Foot`] ?? 0) * 3;
        return pose.worldPositions[foot + 2] - pose.worldPositions[rig.hips * 3 + 2];
      };
      const low = Math.floor(f);
      return value(low) + (f - low) * (value(Math.min(cycle, low + 1)) - value(low));
    };
    for (let f = 0; f <= cycle / 2; f += 3) expect(Math.abs(lead(f, "left") - lead(f + cycle / 2, "right"))).toBeLessThan(0.012);
  });

  it.each(GAITS)("of %s is found to be a whole number of strides", (id) => {
    const motion = ofTruth(id);
    const { fps } = motion.clip;
    const [point] = demo(id).truth.contacts.map((c) => c.point);
    const landings = demo(id)
      .truth.contacts.filter((c) => c.point === point && c.start > 0)
      .map((c) => c.start / fps);
    const stride = landings[1] - landings[0];
    const cycle = bestCycle(motion, false);
    if (!cycle) throw new Error("no cycle was found");
    const strides = (cycle.to - cycle.from) / stride;
    expect(Math.round(strides)).toBeGreaterThanOrEqual(1);
    expect(Math.abs(strides - Math.round(strides)) * stride * fps).toBeLessThanOrEqual(1);
    expect(findCycles(motion).every((c, i, all) => i === 0 || c.apart >= 0 || all.length > 0)).toBe(true);
  });
});

describe("travel", () => {
  it("put into a walk on the spot brings the body back to where it went, and its stance feet stay", () => {
    for (const id of GAITS) {
      const { truth } = demo(id);
      const { skeleton } = truth.character;
      const n = truth.clip.frameCount;
      const place = (clip: Clip, f: number) => {
        const p = [0, 0, 0];
        readPosition(clip, 0, f, p, 0);
        return p;
      };
      const [a, b] = [place(truth.clip, 0), place(truth.clip, n - 1)];
      const positions = truth.clip.positions.map((track, s) => {
        let f = -1;
        return track.map((chunk) =>
          chunk.map((v, i) => {
            if (i % 3 === 0) f++;
            return s === 0 && i % 3 !== 1 ? v - ((b[i % 3] - a[i % 3]) * f) / (n - 1) : v;
          }),
        );
      });
      const spot: Clip = { ...truth.clip, positions };
      const motion = new Evaluator(oneSource(skeleton, spot)).evaluate(work(makePatch("travel", "Travel", "travel", { travel: "feet" }))).result;
      let off = 0;
      for (let f = 0; f < n; f++) {
        const [p, q] = [place(truth.clip, f), place(motion.clip, f)];
        const [p0, q0] = [a, place(motion.clip, 0)];
        off = Math.max(off, Math.hypot(p[0] - p0[0] - q[0] + q0[0], p[2] - p0[2] - q[2] + q0[2]));
      }
      expect(off / legLengthOf(motion.character)).toBeLessThan(0.001);
      expect(Math.max(...trueSlides(toes(truth), motion.clip, (f) => f)) / (100 * legLengthOf(motion.character))).toBeLessThan(0.001);
    }
  });

  it("taken out leaves sway, surge and bob; what the figure and the ground do adds up to it", () => {
    const before = ofTruth(WALK);
    for (const [settings, share] of [
      [{ travel: "spot" }, 1],
      [{ groundShare: 0.25 }, 0.25],
    ] as const) {
      const motion = ofTruth(WALK, makePatch("travel", "Travel", "travel", settings));
      const gait = measureGait(motion);
      if (!gait) throw new Error("no gait");
      expect(gait.figureSpeed + gait.groundSpeed).toBeCloseTo(gait.speed, 12);
      expect(gait.groundSpeed).toBeCloseTo(share * gait.speed, 3);
      expect(differences(before.clip, motion.clip).moved).toBe(false);
      const place = (clip: Clip, f: number) => {
        const p = [0, 0, 0];
        readPosition(clip, 0, f, p, 0);
        return p;
      };
      const figure = figureClip(motion);
      const last = figure.frameCount - 1;
      const way = place(figure, last)[2] - place(figure, 0)[2];
      const whole = place(before.clip, last)[2] - place(before.clip, 0)[2];
      expect(way / whole).toBeCloseTo(1 - share, 1);
      for (let f = 0; f <= last; f++) expect(place(figure, f)[1]).toBe(place(before.clip, f)[1]);
    }
  });

  it("is set to a speed, evened, and made straight", () => {
    const speed = (motion: Motion) => measureGait(motion)?.speed ?? Number.NaN;
    expect(speed(ofTruth(WALK, makePatch("travel", "T", "t", { travel: "even", speed: 0.9 })))).toBeCloseTo(0.9, 2);
    expect(speed(ofTruth(WALK, makePatch("travel", "T", "t", { speed: 1.5 })))).toBeCloseTo(1.5, 2);
    const turning = ofTruth("porter-turn-and-stop", makePatch("travel", "T", "t", { heading: "straight" }));
    const place = (f: number) => {
      const p = [0, 0, 0];
      readPosition(turning.clip, 0, f, p, 0);
      return p;
    };
    const [first, last] = [place(0), place(turning.clip.frameCount - 1)];
    const before = ofTruth("porter-turn-and-stop").clip;
    const p = [0, 0, 0];
    readPosition(before, 0, before.frameCount - 1, p, 0);
    const bent = Math.abs(p[0] - first[0]);
    expect(bent).toBeGreaterThan(0.3);
    expect(Math.abs(last[0] - first[0])).toBeLessThan(bent / 3);
  });
});

describe("the arithmetic of a walk", () => {
  it("is the formula's, unrounded (2 × step × frames a second ÷ frames a cycle; common practice)", () => {
    const walk = { stepLength: 0.713, cycleFrames: 34, fps: 30, steps: 2 };
    expect(100 * strideSpeed(walk)).toBeCloseTo(125.8235, 4);
    expect(100 * strideTravel(walk, 6)).toBeCloseTo(754.94, 2);
    expect(100 * strideSpeed({ ...walk, stepLength: 0.8, cycleFrames: 32 })).toBe(150);
  });

  it("measured on a walk whose truth is known agrees with it", () => {
    const gait = measureGait(ofTruth(WALK));
    expect(gait?.cycleFrames).toBe(33);
    expect(gait?.stepLength).toBeCloseTo(0.66, 2);
    expect(gait?.speed).toBeCloseTo(1.2, 2);
    expect(strideSpeed(gait as NonNullable<typeof gait>)).toBeCloseTo(1.2, 1);
  });

  it("tells the legs' speed from the body's where a capture's travel is wrong for its feet, and no longer once it is planted", () => {
    const captured = measureGait(evaluate(WALK));
    if (!captured) throw new Error("no gait");
    // The demo's fault: 12 % too fast. The legs still walk at 1.2 m/s.
    expect(strideSpeed(captured)).toBeGreaterThan(1.14);
    expect(strideSpeed(captured)).toBeLessThan(1.26);
    expect(captured.speed / strideSpeed(captured)).toBeGreaterThan(1.07);
    const planted = measureGait(evaluate(WALK, ...floorAndPlant));
    expect((planted?.speed ?? 0) / strideSpeed(planted as NonNullable<typeof planted>)).toBeCloseTo(1, 2);
  });
});
