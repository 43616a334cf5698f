import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { changedWindows } from "./clip/changes.ts";
import { type Clip, flatTrack } from "./clip/clip.ts";
import { makePatch, type Patch } from "./documents/patch.ts";
import { DEFAULT_RECIPE, emptyWork, type Work } from "./documents/work.ts";
import { Evaluator } from "./evaluate.ts";
import { readBvh } from "./formats/bvh/read.ts";
import { oneSource } from "./sources.ts";
import { named } from "./testing/patched.ts";
import { skatingBody } from "./testing/skatingBody.ts";

// Half a minute of the skating figure: long enough that most changes touch a small part of it.
const FRAMES = 900;
const file = readBvh(new TextEncoder().encode(skatingBody(FRAMES)), { fileName: "skating.bvh" });
const { fps } = file.clip;
const start = () => new Evaluator(oneSource(file.skeleton, file.clip));
const at = (frame: number) => frame / fps;

/** Largest difference of any sample between two clips: quaternion components and metres. */
function largestDifference(a: Clip, b: Clip): number {
  let most = 0;
  const compare = (x: Float64Array, y: Float64Array) => {
    for (let i = 0; i < x.length; i++) most = Math.max(most, Math.abs(x[i] - y[i]));
  };
  a.rotations.forEach((track, j) => {
    compare(flatTrack(track, 4), flatTrack(b.rotations[j], 4));
  });
  a.positions.forEach((track, s) => {
    compare(flatTrack(track, 3), flatTrack(b.positions[s], 3));
  });
  return most;
}

const joints = ["Hips", "Spine", "LeftArm", "LeftUpLeg", "RightLeg", "Head"];
const window = fc.record({ from: fc.integer({ min: 0, max: FRAMES - 1 }), length: fc.integer({ min: 0, max: 60 }), ramp: fc.integer({ min: 0, max: 12 }) });
const ranged = ({ from, length, ramp }: { from: number; length: number; ramp: number }): Partial<Patch> => ({
  range: { start: at(from), end: at(Math.min(FRAMES - 1, from + length)) },
  rampIn: at(ramp),
  rampOut: at(ramp),
});
const degrees = fc.integer({ min: -25, max: 25 });
const joint = fc.constantFrom(...joints);

const anyPatch: fc.Arbitrary<(id: string) => Patch> = fc.oneof(
  fc.record({ joint, degrees, window, move: fc.boolean() }).map(({ joint, degrees, window, move }) => (id: string) => ({
    ...makePatch("touchUp", id, id, {
      at: at(window.from),
      edits: [
        move
          ? { op: "move", parts: [{ joint }], space: "world", centimetres: [degrees / 3, 0, 2] }
          : { op: "turn", parts: [{ joint }], space: "own", degrees: [degrees, 5, 0], shared: false, pivot: null },
      ],
      holds: [],
    }),
    ...ranged(window),
  })),
  fc.record({ joint, degrees, window }).map(({ joint, degrees, window: { from, length } }) => (id: string) => ({
    ...makePatch("layer", id, id, {
      channels: [
        {
          target: { drives: "turn", part: { joint }, axis: "x" },
          keys: [from, from + length + 5].map((frame, i) => ({ at: at(frame), value: i * degrees, tangent: "smooth" })),
        },
      ],
    }),
    range: { start: at(Math.max(0, from - 20)), end: at(Math.min(FRAMES - 1, from + length + 20)) },
  })),
  fc.record({ window, smooth: fc.constantFrom(0.3, 1) }).map(({ window, smooth }) => (id: string) => ({
    ...makePatch("repair", id, id, { smooth, smoothOver: at(4), pops: true, flips: true }),
    parts: named("Hips", "LeftUpLeg", "LeftArm"),
    ...ranged(window),
  })),
);

const grounded = (patches: readonly Patch[], rest: Partial<Work> = {}): Work => ({ ...emptyWork(), patches: [...DEFAULT_RECIPE.patches, ...patches], ...rest });
const turnAt = (id: string, frame: number, degrees: number, name = "LeftArm"): Patch => ({
  ...makePatch("touchUp", id, id, {
    at: at(frame),
    edits: [{ op: "turn", parts: [{ joint: name }], space: "own", degrees: [degrees, 0, 0], shared: false, pivot: null }],
    holds: [],
  }),
  ...ranged({ from: frame, length: 4, ramp: 6 }),
});

describe("renewing a stack after a change", () => {
  it("comes to what a fresh evaluation comes to, whatever was changed, added, muted or taken out, live plants and all (property)", { timeout: 240_000 }, () => {
    const change = fc.record({ at: fc.nat({ max: 3 }), make: anyPatch, how: fc.constantFrom("replace", "mute", "remove", "add") });
    fc.assert(
      fc.property(
        fc.array(anyPatch, { minLength: 2, maxLength: 4 }),
        fc.array(change, { minLength: 1, maxLength: 4 }),
        fc.boolean(),
        (makes, changes, live) => {
          const evaluator = start();
          let patches = makes.map((make, i) => make(`p${i}`));
          evaluator.evaluate(grounded(patches, { livePlant: live }));
          changes.forEach(({ at: place, make, how }, k) => {
            const i = place % Math.max(1, patches.length);
            if (how === "add") patches = [...patches.slice(0, i), make(`new${k}`), ...patches.slice(i)];
            else if (how === "remove") patches = patches.filter((_, n) => n !== i);
            else patches = patches.map((p, n) => (n !== i ? p : how === "mute" ? { ...p, muted: !p.muted } : make(p.id)));
            const again = evaluator.evaluate(grounded(patches, { livePlant: live }));
            const fresh = start().evaluate(grounded(patches, { livePlant: live }));
            expect(largestDifference(again.result.clip, fresh.result.clip)).toBeLessThan(2e-6);
            again.stages.forEach((stage, n) => {
              expect(largestDifference(stage.motion.clip, fresh.stages[n].motion.clip)).toBeLessThan(2e-6);
            });
          });
        },
      ),
      { numRuns: 12 },
    );
  });

  it("keeps the bits of every frame that a change cannot reach, and their memory", () => {
    const evaluator = start();
    const spots = [100, 300, 500, 700];
    const stack = (last: number) => grounded(spots.map((frame, i) => turnAt(`t${i}`, frame, i === 3 ? last : 12, i === 3 ? "Hips" : "Spine")));
    const first = evaluator.evaluate(stack(8)).result.clip;
    const second = evaluator.evaluate(stack(11)).result.clip;
    const windows = changedWindows(first, second, 1);
    expect(windows.length).toBeGreaterThan(0);
    for (const [from, to] of windows) {
      expect(from).toBeGreaterThan(700 - 3 * fps);
      expect(to).toBeLessThan(700 + 3 * fps);
    }
    // Chunks away from the change are the very same, not copies.
    const shared = first.rotations[0].filter((chunk, c) => chunk === second.rotations[0][c]).length;
    expect(shared).toBeGreaterThanOrEqual(first.rotations[0].length - 3);
    expect(second.rotations[stick("Head")]).toBe(first.rotations[stick("Head")]);
  });

  it("asks after every stretch of its work whether it is still wanted, and keeps what was done by then", () => {
    class NotWanted extends Error {}
    const evaluator = start();
    const work = grounded([turnAt("t", 400, 10)]);
    let asked = 0;
    evaluator.evaluate(work, () => {
      asked++;
    });
    expect(asked).toBeGreaterThan(10);
    const other = start();
    // Stopped within the plant: contacts and floor are done, and are not done again.
    let left = 9;
    const stop = () => {
      if (--left < 0) throw new NotWanted();
    };
    expect(() => other.evaluate(work, stop)).toThrow(NotWanted);
    let again = 0;
    const result = other.evaluate(work, () => {
      again++;
    });
    expect(again).toBeLessThan(asked - 3);
    expect(largestDifference(result.result.clip, start().evaluate(work).result.clip)).toBe(0);
  });
});

function stick(name: string): number {
  return file.skeleton.names.indexOf(name);
}
