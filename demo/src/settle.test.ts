import { type Clip, type Evaluation, makePatch, type Patch, PointTracks, readPosition, readRotation } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { demo, evaluateWith, floorAndPlant, GOAT, JOG, refOf, WALK } from "./testing/evaluated.ts";

const STAND = "goat-standing-at-the-bollard";
const IDLE = "porter-waiting-weight-shift";

const settle = (other: string, frame: number, at: number, settings: Record<string, unknown> = {}): Patch => {
  const fps = demo(other).clip.fps;
  return makePatch("settle", "Settle", "settle", { target: { clip: refOf(other), at: frame / fps }, at, over: 0.8, ...settings });
};
const rotation = (clip: Clip, joint: number, frame: number) => {
  const q = [0, 0, 0, 0];
  readRotation(clip, joint, frame, q, 0);
  return q;
};
const place = (clip: Clip, frame: number) => {
  const p = [0, 0, 0];
  readPosition(clip, 0, frame, p, 0);
  return p;
};

/** How far each bearing point moves from its last landing on, metres, and its speeds around it, metres a second. */
function landings({ result }: Evaluation) {
  const { clip, contacts, points, character } = result;
  const tracks = new PointTracks(character.skeleton, clip, points);
  const last = clip.frameCount - 1;
  return points
    .filter((p) => p.bears)
    .map((p) => {
      const land = contacts.findLast((c) => c.point === p.id)?.start ?? -1;
      const course = tracks.course(p.id) as Float64Array;
      const apart = (f: number, g: number) => Math.hypot(...[0, 1, 2].map((i) => course[f * 3 + i] - course[g * 3 + i]));
      let moves = 0;
      for (let f = land; f <= last; f++) moves = Math.max(moves, apart(f, last));
      const steps = [-2, -1, 0, 1].map((k) => apart(land + k, land + k - 1) * clip.fps);
      return { id: p.id, land, moves, steps };
    });
}

describe("a motion that settles in a pose", () => {
  const byHand = [
    { point: "leftHind", at: 15 / 30 },
    { point: "rightHind", at: 30 / 30 },
    { point: "leftFore", at: 24 / 30 },
    { point: "rightFore", at: 43 / 30 },
  ];

  it("ends on it exactly, on every joint; each leg of the goat lands on the frame that was set or proposed, and is then still", () => {
    for (const wanted of [byHand, null]) {
      const e = evaluateWith(GOAT, [STAND], ...floorAndPlant, settle(STAND, 40, 48 / 30, { landings: wanted }));
      const { clip } = e.result;
      expect(clip.frameCount).toBe(49);
      const target = demo(STAND).clip;
      for (let j = 1; j < clip.jointCount; j++) expect(rotation(clip, j, 48)).toEqual(rotation(target, j, 40));
      const found = landings(e);
      expect(found).toHaveLength(4);
      for (const { id, land, moves, steps } of found) {
        if (wanted) expect(land).toBe(Math.round(30 * (wanted.find((w) => w.point === id)?.at ?? 0)));
        expect(moves, id).toBeLessThan(1e-4);
        // It comes in slowing: no step of its speed at the landing over twice those before it.
        const changes = steps.slice(1).map((v, i) => Math.abs(v - steps[i]));
        expect(changes[2], id).toBeLessThanOrEqual(2 * Math.max(changes[0], changes[1], 0.02));
      }
    }
  });

  it("stands where the pose stands if asked, root and all; what is left out goes on as it does", () => {
    const there = evaluateWith(GOAT, [STAND], ...floorAndPlant, settle(STAND, 40, 48 / 30, { place: "target" })).result;
    const floored = evaluateWith(STAND, [], ...floorAndPlant.slice(0, 1)).result;
    expect(rotation(there.clip, 0, 48)).toEqual(rotation(floored.clip, 0, 40));
    place(floored.clip, 40).forEach((v, i) => expect(place(there.clip, 48)[i]).toBeCloseTo(v, 6));

    const head = evaluateWith(GOAT, [STAND], ...floorAndPlant, settle(STAND, 40, 48 / 30, { leaveOut: [{ role: "head" }] }));
    const joint = head.result.character.body.roles.head ?? -1;
    for (const f of [10, 40, 48]) expect(rotation(head.result.clip, joint, f)).toEqual(rotation(head.stages[1].motion.clip, joint, f));
    const chest = head.result.character.body.roles.chest ?? -1;
    expect(rotation(head.result.clip, chest, 48)).toEqual(rotation(demo(STAND).clip, chest, 40));
  });

  it("of two legs does the same from a walk and a run, lifting its last steps no higher than its own", () => {
    for (const [id, at] of [
      [WALK, 2],
      [JOG, 70 / 60],
    ] as const) {
      const e = evaluateWith(id, [IDLE], ...floorAndPlant, settle(IDLE, 30, at));
      const { clip, character, points } = e.result;
      const last = clip.frameCount - 1;
      for (let j = 1; j < clip.jointCount; j++) expect(rotation(clip, j, last)).toEqual(rotation(demo(IDLE).clip, j, 30));
      const [own, made] = [e.stages[1].motion, e.result].map((m) => new PointTracks(character.skeleton, m.clip, points));
      for (const { id: point, moves } of landings(e)) {
        expect(moves, point).toBeLessThan(1e-4);
        const highest = (t: PointTracks) => Math.max(...Array.from({ length: last }, (_, f) => (t.course(point) as Float64Array)[f * 3 + 1]));
        expect(highest(made), point).toBeLessThan(highest(own) + 0.02);
      }
    }
  });

  it("turned round leaves the pose exactly, and from its moment on is itself", () => {
    const e = evaluateWith(WALK, [IDLE], ...floorAndPlant, settle(IDLE, 30, 1.5, { direction: "outOf", over: 0.6 }));
    const { clip } = e.result;
    expect(clip.frameCount).toBe(e.stages[1].motion.clip.frameCount);
    for (let j = 1; j < clip.jointCount; j++) {
      expect(rotation(clip, j, 0)).toEqual(rotation(demo(IDLE).clip, j, 30));
      for (const f of [46, 80]) expect(rotation(clip, j, f)).toEqual(rotation(e.stages[1].motion.clip, j, f));
    }
  });

  it("is refused where it leaves no time, and does nothing without a pose", () => {
    expect(() => evaluateWith(WALK, [IDLE], settle(IDLE, 30, 1 / 30))).toThrow(/frame 1 leaves no time to come to rest in/);
    const none = evaluateWith(WALK, [], makePatch("settle", "Settle", "settle", { at: 1 }));
    expect(none.result).toBe(none.base);
    expect(none.notes[0].message).toMatch(/no pose to settle in has been chosen yet/);
  });
});
