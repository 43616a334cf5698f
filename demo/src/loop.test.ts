import {
  bestCycle,
  clipWorld,
  figureClip,
  findCycles,
  type Motion,
  makePatch,
  PointTracks,
  PoseFrame,
  quatAngleFlat,
  readPosition,
  readRotation,
} from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo, evaluate, floorAndPlant, GAITS, ofTruth, WALK } from "./testing/evaluated.ts";

/** The rotation vector, radians, that takes one turn to another, in the first one's frame: twice the angle of the vector part of a⁻¹·b, written out. */
function turnFrom(a: Float64Array, b: Float64Array): number[] {
  const [ax, ay, az, aw] = a;
  const [bx, by, bz, bw] = b;
  const w = aw * bw + ax * bx + ay * by + az * bz;
  const v = [aw * bx - ax * bw - ay * bz + az * by, aw * by + ax * bz - ay * bw - az * bx, aw * bz - ax * by + ay * bx - az * bw];
  const size = Math.hypot(...v);
  return v.map((x) => (size > 0 ? (Math.sign(w) * 2 * Math.atan2(size, Math.abs(w)) * x) / size : 0));
}

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
      // The speed into the seam and out of it, as parabolas through three frames on either side have it.
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
          const [a, b, c, d] = [f - 1, f - 2, f + 1, f + 2].map((g) => turnFrom(q(j, f), q(j, g)));
          most = Math.max(most, Math.hypot(...a.map((_, i) => (b[i] - 4 * a[i]) / 2 - (4 * c[i] - d[i]) / 2)));
        }
        return most / peak;
      };
      for (const n of [1, 2]) expect(gap(Math.round(n * cycle))).toBeLessThan(0.002);
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

  it.each(["first", "second"] as const)("keeps feet that stand where the other half is its mirror image: of the %s", (half) => {
    const id = "diver-dock-patrol";
    const planted = evaluate(id, ...floorAndPlant);
    for (const { from, to } of findCycles(planted).slice(0, 3)) {
      const motion = evaluate(id, ...floorAndPlant, makePatch("loop", "Loop", "loop", { from, to, half, repeats: 2 }));
      const tracks = new PointTracks(motion.character.skeleton, motion.clip, motion.points);
      const slides = motion.contacts.map((contact) => {
        const course = tracks.spanCourse(contact) as Float64Array;
        return Math.max(...Array.from({ length: course.length / 3 }, (_, f) => Math.hypot(course[f * 3] - course[0], course[f * 3 + 2] - course[2])));
      });
      expect(slides.length).toBeGreaterThan(8);
      expect(Math.max(...slides)).toBeLessThan(5e-4);
    }
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
    // None that is listed is a chance likeness: all come back nearly to where they were, and are no shorter than a step.
    for (const c of findCycles(motion)) {
      expect(c.apart).toBeLessThan(0.1);
      expect(c.to - c.from).toBeGreaterThan(0.6 * stride);
    }
  });
});
