import { describe, expect, it } from "vitest";
import { characterOf } from "../character/character.ts";
import { type Clip, ClipDraft, readPosition, readRotation } from "../clip/clip.ts";
import { groundTilt, LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { multiplyQuatFlat, normalizeQuatFlat } from "../math/quat.ts";
import { normalNumbers } from "../testing/noise.ts";
import { stick, withRotation, withShift } from "../testing/patched.ts";
import { carryAnchors } from "./carryAnchors.ts";
import type { Contact } from "./contact.ts";
import { findContacts, settleSurfaces } from "./find.ts";
import { PointTracks, showsTravel } from "./pointTracks.ts";

const CYCLE = 32;
/** Share of a cycle, from the start of a stance, within which the generator's leg (85.9 cm) reaches the ground 84 cm below its hip: |30 − 100·share| ≤ 18 cm. */
const REACHES = [0.6 * (0.5 - Math.sqrt(85.9 ** 2 - 84 ** 2) / 60), 0.6 * (0.5 + Math.sqrt(85.9 ** 2 - 84 ** 2) / 60)] as const;

/** The generator's own stands, [first, last] frame; the right leg half a cycle later. */
function stances(side: "left" | "right"): [number, number][] {
  const phase = side === "left" ? 0 : 0.5;
  return [-1, 0, 1, 2, 3].flatMap((n): [number, number][] => {
    const [start, end] = [Math.ceil((n - phase + REACHES[0]) * CYCLE), Math.floor((n - phase + REACHES[1]) * CYCLE)];
    return end < 0 || start > 89 ? [] : [[Math.max(0, start), Math.min(89, end)]];
  });
}
const find = (clip: Clip, carriedBy: "feet" | "other" | null = null) => findContacts(characterOf(stick.skeleton, clip, {}), clip, carriedBy);
const every = Array.from({ length: 90 }, (_, f) => f);

/** F1 of the frames on which a side's toe is found against the generator's stances. */
function f1(contacts: readonly Contact[], side: "left" | "right"): number {
  const truth = every.map((f) => stances(side).some(([a, b]) => f >= a && f <= b));
  const seen = every.map((f) => contacts.some((c) => c.point === `${side}Toe` && f >= c.start && f <= c.end));
  const both = every.filter((f) => truth[f] && seen[f]).length;
  return (2 * both) / (truth.filter(Boolean).length + seen.filter(Boolean).length);
}

describe("contacts of a walk that skates by 15 %", () => {
  it("are the generator's stances, on either side, in order", () => {
    const { contacts, support } = find(stick.clip);
    for (const side of ["left", "right"] as const) expect(f1(contacts, side), side).toBeGreaterThan(0.84);
    expect(contacts.map((c) => c.start)).toEqual([...contacts.map((c) => c.start)].sort((a, b) => a - b));
    expect(support).toMatchObject({ byFeet: true, said: false });
    expect(support.share).toBeGreaterThan(0.6);
    for (const c of contacts) expect(c).toMatchObject({ origin: "found", on: "ground", rampIn: null, rampOut: null, anchor: { mode: "settle", point: null } });
  });

  it("are the same frames wherever the walk is, and its ground is under it there", () => {
    const plain = find(stick.clip);
    const moved = find(withShift(stick.clip, 0, every, [3, 0.5, -7]));
    const frames = (list: readonly Contact[]) => list.map((c) => `${c.point} ${c.start}-${c.end}`);
    expect(frames(moved.contacts)).toEqual(frames(plain.contacts));
    expect(moved.ground.height - plain.ground.height).toBeGreaterThan(0.45);
    expect(moved.ground.height - plain.ground.height).toBeLessThan(0.56);
    expect(groundTilt(moved.ground)).toBe(0);
  });

  it("are found through spikes of a frame in a leg and through a tilt of the floor", () => {
    const spiked = withRotation(stick.clip, stick.joint("LeftLeg"), [10, 41], [Math.sin(0.4), 0, 0, Math.cos(0.4)]);
    expect(f1(find(spiked).contacts, "left")).toBeGreaterThan(0.84);
    const climbing = every.reduce((c, f) => withShift(c, 0, [f], [0, 0.03 * f * 0.036, 0]), stick.clip);
    const { contacts, ground } = find(climbing);
    expect(f1(contacts, "right")).toBeGreaterThan(0.8);
    expect(ground.slopeZ).toBeGreaterThan(0.015);
  });

  describe("that trembles", () => {
    /** The walk with every joint turned at random by so many degrees (1 σ), and its place off by so many metres. */
    const trembling = (degrees: number, metres: number, seed: number) => {
      const draft = ClipDraft.of(stick.clip);
      const normal = normalNumbers(seed);
      const [q, p] = [new Float64Array(4), new Float64Array(3)];
      const half = (degrees * Math.PI) / 360;
      for (const f of every) {
        for (let joint = 0; joint < stick.clip.jointCount; joint++) {
          readRotation(stick.clip, joint, f, q, 0);
          const by = [normal() * half, normal() * half, normal() * half, 1];
          multiplyQuatFlat(q, 0, q, 0, by, 0);
          normalizeQuatFlat(q, 0);
          draft.setRotation(joint, f, q);
        }
        readPosition(stick.clip, 0, f, p, 0);
        draft.setPosition(
          0,
          f,
          [...p].map((v) => v + metres * normal()),
        );
      }
      return draft.done();
    };
    const mean = (degrees: number, metres: number) => {
      const scores = [1, 2, 3, 4].flatMap((seed) => {
        const { contacts } = find(trembling(degrees, metres, seed));
        return [f1(contacts, "left"), f1(contacts, "right")];
      });
      return scores.reduce((a, b) => a + b, 0) / scores.length;
    };

    it.each([
      [0.15, 0, 0.88],
      [0.3, 0, 0.87],
      [0.6, 0, 0.82],
      [0, 0.003, 0.88],
      [0.3, 0.003, 0.85],
    ])("by %d° and %d m stands on the frames of its stances, F1 over %d (0.88 without)", (degrees, metres, least) => {
      expect(mean(degrees, metres)).toBeGreaterThan(least);
    });
  });

  it("ends the search where it is no longer wanted", () => {
    class Enough extends Error {}
    let left = 2;
    const stop = () => {
      if (--left < 0) throw new Enough();
    };
    expect(() => findContacts(characterOf(stick.skeleton, stick.clip, {}), stick.clip, null, stop)).toThrow(Enough);
  });
});

describe("a body that its feet do not carry", () => {
  // Hips 3 m up and never still: the legs swing as they do, and nothing is under them.
  const flying = (() => {
    const draft = ClipDraft.of(stick.clip);
    for (const f of every) draft.setPosition(0, f, [Math.sin(f / 3), 3 + 0.8 * Math.sin(f / 4), 0.15 * f]);
    return draft.done();
  })();

  it("is taken for one, with level ground, unless a person says otherwise", () => {
    const found = find(flying);
    expect(found.support.byFeet).toBe(false);
    expect(found.contacts.filter((c) => c.point.endsWith("Toe"))).toEqual([]);
    expect(found.ground).toEqual(LEVEL_GROUND);
    expect(find(flying, "feet").support).toMatchObject({ byFeet: true, said: true });
    const other = find(stick.clip, "other");
    expect(other.support).toMatchObject({ byFeet: false, said: true });
    expect(other.contacts.filter((c) => c.point.endsWith("Toe") || c.point.endsWith("Heel"))).toEqual([]);
  });
});

describe("a body that climbs", () => {
  // It stands, comes up by half a metre, stands again; and goes so far along with it.
  const climbing = (along: number) => {
    const draft = ClipDraft.make("climbs", 30, 160, stick.clip.jointCount, stick.clip.positionJoints);
    for (let f = 0; f < 160; f++) {
      const steps = Math.floor(f / 50) + Math.max(0, Math.min(1, ((f % 50) - 35) / 15));
      for (let joint = 0; joint < stick.clip.jointCount; joint++) draft.setRotation(joint, f, [0, 0, 0, 1]);
      draft.setPosition(0, f, [0, 0.95 + 0.5 * steps, along * steps]);
    }
    return draft.done();
  };

  it("rests on holds, each where it is, and has no floor under it", () => {
    const { support, contacts, ground } = find(climbing(0.2));
    expect(support).toMatchObject({ byFeet: false, climbs: true });
    expect(ground).toEqual(LEVEL_GROUND);
    const toes = contacts.filter((c) => c.point === "leftToe");
    expect(toes.length).toBeGreaterThan(2);
    for (const toe of toes) expect(toe.on).toBe("place");
    expect(find(climbing(0.2), "feet").support).toMatchObject({ byFeet: true, climbs: false });
  });

  it("does not where it goes along more than up", () => {
    expect(find(climbing(0.8)).support).toMatchObject({ byFeet: true, climbs: false });
  });
});

describe("what a contact rests on", () => {
  const { points, contacts } = find(stick.clip);
  const tracks = new PointTracks(stick.skeleton, stick.clip, points);
  const on = (height: number, decided: ReadonlySet<Contact> = new Set()) => settleSurfaces(contacts, tracks, planeGround(height), decided).map((c) => c.on);

  it("is the ground where it lies near, a place of its own where it does not, and what was decided stays", () => {
    const { ground } = find(stick.clip);
    expect(new Set(on(ground.height))).toEqual(new Set(["ground"]));
    expect(new Set(on(ground.height - 0.03))).toEqual(new Set(["ground"]));
    expect(new Set(on(ground.height - 0.2))).toEqual(new Set(["place"]));
    // On a gallery a metre up it is the gallery, not what lies under it.
    const above = new PointTracks(stick.skeleton, withShift(stick.clip, 0, every, [0, 1, 0]), points);
    const surfaces = (height: number) => new Set(settleSurfaces(contacts, above, planeGround(height), new Set()).map((c) => c.on));
    expect(surfaces(ground.height + 1)).toEqual(new Set(["ground"]));
    expect(surfaces(ground.height)).toEqual(new Set(["place"]));
    expect(on(ground.height - 0.2, new Set([contacts[2]])).map((v, i) => (i === 2 ? v : "place"))).toEqual(
      contacts.map((_, i) => (i === 2 ? "ground" : "place")),
    );
  });

  it("is carried along with the body, by the move at its middle, unless it is a part of it", () => {
    const anchored = (rest: Partial<Contact>): Contact => ({ ...contacts[0], start: 10, end: 20, anchor: { mode: "set", point: [1, 2, 3] }, ...rest });
    const moveAt = (f: number) => ({ shift: [f / 10, 0, 0], turn: null });
    const [ground, part, open] = carryAnchors([anchored({}), anchored({ on: { joint: 3 } }), anchored({ anchor: { mode: "settle", point: null } })], moveAt);
    expect(ground.anchor.point).toEqual([2.5, 2, 3]);
    expect(part.anchor.point).toEqual([1, 2, 3]);
    expect(open.anchor.point).toBeNull();
    expect(carryAnchors([anchored({})], () => null)[0].anchor.point).toEqual([1, 2, 3]);
  });
});

describe("courses of points", () => {
  const { points } = find(stick.clip);
  const tracks = new PointTracks(stick.skeleton, stick.clip, points);

  it("go where the point of the joint goes, and are worked out once", () => {
    const toe = points.find((p) => p.id === "leftToe");
    const course = tracks.course("leftToe");
    expect(tracks.course("leftToe")).toBe(course);
    const { positions, rotations } = tracks.joint(toe?.joint ?? 0);
    expect(tracks.joint(toe?.joint ?? 0).positions).toBe(positions);
    // A point keeps its distance to its joint.
    const length = Math.hypot(...(toe?.local ?? [0, 0, 0]));
    for (const f of [0, 40, 89]) expect(Math.hypot(...[0, 1, 2].map((i) => (course?.[f * 3 + i] ?? 0) - positions[f * 3 + i]))).toBeCloseTo(length, 5);
    expect(rotations).toHaveLength(360);
    expect(tracks.course("tail")).toBeUndefined();
  });

  it("of a span are cut to it; on another part they are as that part sees them", () => {
    const contact: Contact = {
      point: "leftHand",
      joint: 0,
      start: 10,
      end: 14,
      on: "ground",
      anchor: { mode: "settle", point: null },
      rampIn: null,
      rampOut: null,
      origin: "set",
    };
    const whole = tracks.course("leftHand") as Float64Array;
    expect([...(tracks.spanCourse(contact) ?? [])]).toEqual([...whole.slice(30, 45)]);
    // Seen from its own joint a point does not move.
    const own = tracks.spanCourse({ ...contact, on: { joint: points.find((p) => p.id === "leftHand")?.joint ?? 0 } }) as Float64Array;
    for (let i = 3; i < own.length; i++) expect(own[i]).toBeCloseTo(own[i % 3], 5);
    expect(tracks.spanCourse({ ...contact, point: "tail" })).toBeUndefined();
  });

  it("show the travel where they bear the body, by joints before estimates", () => {
    expect(showsTravel(points, "leftToe")).toBe(true);
    expect(showsTravel(points, "leftHeel")).toBe(false);
    expect(showsTravel(points, "leftHand")).toBe(false);
    expect(showsTravel(points, "tail")).toBe(false);
    const estimated = points.filter((p) => p.id !== "leftToe");
    expect(showsTravel(estimated, "leftHeel")).toBe(true);
    expect(tracks.bearing("leftHeel")).toBeUndefined();
    expect(tracks.bearing("leftToe")).toBe(tracks.course("leftToe"));
  });
});
