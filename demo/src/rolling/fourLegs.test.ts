import { describe, expect, it } from "vitest";
import { FOUR_BODIES, gaitCases } from "../grid/gaits.ts";
import { FOUR_ACTS, performedOnFour } from "./fourActs.ts";
import { posedOnFour } from "./fourBones.ts";
import { SAME } from "./matrix.ts";
import { worldAt } from "./testing/worldAt.ts";

const CASES = gaitCases();
const named = (name: string) => {
  const found = CASES.find((c) => c.name.endsWith(name));
  if (!found) throw new Error(`no case ${name}`);
  return found.perform();
};
const GAITS = [...new Set(CASES.map((c) => c.name.split(", ")[2]))];

describe("a four-legged body of another make", () => {
  it.each(GAITS)("in a %s: hooves lie still while they are down, and only then", (gait) => {
    const made = named(`${gait}, clean`);
    const hooves = made.turns.map((_, f) => worldAt(made, f).places);
    for (const { point, joint, start, end } of made.contacts) {
      if (joint === undefined) throw new Error(`${point} is no joint`);
      const off = (f: number) => Math.hypot(...hooves[f][joint].map((v, i) => v - hooves[start][joint][i]));
      for (let f = start; f <= end; f++) expect(off(f), `${point} ${f}`).toBeLessThan(1e-9);
      for (const f of [start - 1, end + 1].filter((f) => f >= 0 && f < hooves.length)) expect(off(f), `${point} ${f}`).toBeGreaterThan(1e-9);
    }
  });

  it("comes down in the order that its gait has: side by side, across, or one after the other", () => {
    const landings = (gait: string) => {
      const { contacts, fps } = named(`${gait}, clean`);
      const first = (point: string, after: number) => contacts.filter((c) => c.point === point && c.start / fps >= after).map((c) => c.start)[0];
      const from = first("leftHind", 0.3) / fps - 1e-9;
      return ["leftHind", "rightHind", "leftFore", "rightFore"].map((point) => first(point, from));
    };
    const [hindLeft, hindRight, foreLeft, foreRight] = landings("trot");
    expect([foreRight - hindLeft, foreLeft - hindRight]).toEqual([0, 0]);
    const pacing = landings("pace");
    expect([pacing[2] - pacing[0], pacing[3] - pacing[1]]).toEqual([0, 0]);
    const galloping = landings("gallop");
    expect([...galloping].sort((a, b) => a - b)).toEqual(galloping);
    const [canterLeft, canterRight, canterFore, canterLast] = landings("canter");
    expect(canterFore).toBe(canterRight);
    expect(canterLast - canterRight).toBeGreaterThan(0);
    expect(canterRight - canterLeft).toBeGreaterThan(0);
  });

  it("is off the ground at times as it gallops and trots, never as it walks", () => {
    const least = (gait: string) => {
      const { contacts, turns } = named(`${gait}, clean`);
      return Math.min(...turns.map((_, f) => contacts.filter((c) => c.start <= f && c.end >= f).length));
    };
    expect([least("gallop"), least("trot")]).toEqual([0, 0]);
    expect(least("slow walk")).toBeGreaterThanOrEqual(2);
  });

  it("goes the way it looks, but for backwards", () => {
    for (const gait of GAITS) {
      const { roots } = named(`${gait}, clean`);
      expect(Math.sign(roots[5][2] - roots[0][2]), gait).toBe(gait === "backwards" ? -1 : 1);
    }
  });
});

describe("what animals do beside going", () => {
  it.each(FOUR_ACTS.map((act) => [act.name, act] as const))(
    "%s: hooves lie still on the ground while they are down, and no joint of a leg goes under it",
    (_, act) => {
      for (const body of FOUR_BODIES) {
        const made = performedOnFour(body, act, 30);
        const places = made.turns.map((_, f) => worldAt(made, f).places);
        for (const { point, joint, start, end } of made.contacts) {
          if (joint === undefined) throw new Error(`${point} is no joint`);
          for (let f = start; f <= end; f++) {
            expect(Math.hypot(...places[f][joint].map((v, i) => v - places[start][joint][i])), `${point} ${f}`).toBeLessThan(1e-9);
            expect(places[f][joint][1]).toBeCloseTo(0.035 * body.withers, 9);
          }
        }
        for (const leg of made.legs)
          for (const frame of places) for (const joint of leg) expect(frame[joint][1], `${act.name} ${joint}`).toBeGreaterThan(0.03 * body.withers);
      }
    },
  );

  it("leaves the ground with every hoof in a leap, with the fore ones to rear, with the hind ones to kick", () => {
    const down = (name: string) => {
      const act = FOUR_ACTS.find((a) => a.name === name);
      if (!act) throw new Error(`no ${name}`);
      const { contacts, turns } = performedOnFour(FOUR_BODIES[1], act, 60);
      return turns.map((_, f) => contacts.filter((c) => c.start <= f && c.end >= f).map((c) => c.point));
    };
    expect(Math.min(...down("leaping").map((points) => points.length))).toBe(0);
    expect(down("rearing").find((points) => points.length === 2)).toEqual(["leftHind", "rightHind"]);
    expect(down("kicking out").find((points) => points.length === 2)).toEqual(["leftFore", "rightFore"]);
  });

  it("says which leg of which body cannot reach its hoof", () => {
    const body = FOUR_BODIES[0];
    const far = { hips: [0, 2, 0] as const, turned: SAME, neck: SAME, hoofAt: () => ({ place: [0, 0, 0] as const, yaw: 0, leaning: 0 }) };
    expect(() => posedOnFour(body, [far])).toThrow("0.45 m: a leg does not reach its hoof on frame 0");
  });
});
