import { describe, expect, it } from "vitest";
import { rolledCases } from "../grid/rolled.ts";
import { anglesOf, applied, plus, product, turn, turnAbout, type Vec } from "./matrix.ts";
import { spoiled } from "./spoil.ts";
import { worldAt } from "./testing/worldAt.ts";
import { LEGS, type Rolled } from "./walker.ts";

const CASES = rolledCases();
const named = (name: string) => CASES.find((c) => c.name.includes(name))?.perform() as Rolled;

describe("a rolled walk", () => {
  it.each(["rolled, 30, walk, clean", "rolled child, 24, curve", "rolled giant, 30, limp", "rolled, 60, run"])(
    "%s: its balls lie still while its toes are down, its heels while they are",
    (name) => {
      const walk = named(name);
      const heel: Vec = [0, -walk.body.ankle * walk.body.height, -0.35 * walk.body.foot * walk.body.height];
      for (const { point, start, end } of walk.contacts) {
        const [, , foot, toes] = LEGS[point.startsWith("left") ? 0 : 1];
        const at = (f: number) => {
          const { places, turned } = worldAt(walk, f);
          return point.endsWith("Toe") ? places[toes] : plus(places[foot], applied(turned[foot], heel));
        };
        for (let f = start; f <= end; f++) expect(Math.hypot(...at(f).map((v, i) => v - at(start)[i])), `${point} ${f}`).toBeLessThan(1e-9);
      }
    },
  );

  it("has both feet down at times as it walks, none at times as it runs", () => {
    const down = (name: string) => {
      const walk = named(name);
      const count = (side: string, f: number) => walk.contacts.some((c) => c.point.startsWith(side) && c.start <= f && c.end >= f);
      return new Set(walk.turns.map((_, f) => Number(count("left", f)) + Number(count("right", f))));
    };
    expect([...down("rolled, 30, walk, clean")].sort()).toEqual([1, 2]);
    expect([...down("rolled, 60, run")].sort()).toEqual([0, 1]);
  });

  it("is written with angles that make its turns again, in any order", () => {
    const skew = product(turnAbout([0.3, -0.5, 0.8], 1.1), turn("x", 0.4));
    const onTheBack = [-1, 0, 0, 0, 0, 1, 0, 1, 0];
    for (const m of [skew, onTheBack, turn("y", Math.PI / 2), turn("z", -Math.PI / 2)])
      for (const order of [
        ["z", "x", "y"],
        ["x", "y", "z"],
        ["y", "x", "z"],
        ["z", "y", "x"],
      ] as const) {
        const [a, b, c] = anglesOf(m, order);
        product(turn(order[0], a), turn(order[1], b), turn(order[2], c)).forEach((v, i) => {
          expect(v).toBeCloseTo(m[i], 7);
        });
      }
  });

  it("is spoilt by as much as is said, and the same way every time", () => {
    const walk = named("rolled, 30, walk, clean");
    const faults = { travel: 1.1, floor: [-0.05, 0.02], spikes: 4 } as const;
    const { turns, roots } = spoiled(walk, faults, 3);
    expect(spoiled(walk, faults, 3)).toEqual({ turns, roots });
    const last = roots.length - 1;
    expect(roots[last][2] - roots[0][2]).toBeCloseTo(1.1 * (walk.roots[last][2] - walk.roots[0][2]), 9);
    expect(roots[last][1] - walk.roots[last][1]).toBeCloseTo(-0.05, 12);
    const other = turns.flatMap((local, f) => (local.some((m, j) => m !== walk.turns[f][j]) ? [f] : []));
    expect(other).toHaveLength(4);
    expect(spoiled(walk, {}, 3).turns).toEqual(walk.turns);
  });

  it("is struck on the first or last frame of its stands, in one joint of the leg that stands, and nowhere else", () => {
    const walk = named("rolled, 30, walk, clean");
    const { turns } = spoiled(walk, { struck: true }, 5);
    const leaps = turns.flatMap((local, f) => local.flatMap((m, joint) => (m === walk.turns[f][joint] ? [] : [{ f, joint }])));
    expect(leaps.length).toBeGreaterThan(3);
    for (const { f, joint } of leaps) {
      const leg = LEGS.find((l) => l.some((j) => j === joint));
      expect(
        walk.contacts.some((c) => leg?.some((j) => j === c.joint) && (c.start === f || c.end === f)),
        `${joint} at ${f}`,
      ).toBe(true);
    }
    expect(new Set(leaps.map(({ f }) => f)).size).toBe(leaps.length);
  });

  it("has each third stand of a joint slip: its leg takes it along evenly, by as much as its length and the angle say, and the others stay", () => {
    const walk = named("rolled, 30, walk, clean");
    const angle = 0.06;
    const { turns, roots } = spoiled(walk, { slips: [angle, "z"] }, 5);
    roots.forEach((root, f) => root.forEach((v, i) => expect(v).toBeCloseTo(walk.roots[f][i], 12)));
    const stands = walk.contacts.filter((c) => c.joint !== undefined);
    let slipping = 0;
    for (const [k, { joint, start, end }] of stands.entries()) {
      const leg = LEGS.find((l) => l.some((j) => j === joint)) ?? LEGS[0];
      const slips = k % 3 === 1 && end - start >= 4;
      const turned = (f: number) => turns[f][leg[0]] !== walk.turns[f][leg[0]];
      if (slips) {
        slipping++;
        for (let f = start + 1; f <= end; f++) expect(turned(f), `${joint} at ${f}`).toBe(true);
        const [, ...others] = leg;
        for (const j of others) expect(turns[end][j]).toBe(walk.turns[end][j]);
        // The cosine of a turn is half of its trace less one.
        const [was, is] = [walk.turns[end][leg[0]], turns[end][leg[0]]];
        const trace = was.reduce((sum, v, i) => sum + v * is[i], 0);
        expect(Math.acos((trace - 1) / 2)).toBeCloseTo(angle, 6);
      } else expect(turned(Math.round((start + end) / 2)), `${joint} ${start}-${end}`).toBe(false);
    }
    expect(slipping).toBeGreaterThan(1);
  });
});
