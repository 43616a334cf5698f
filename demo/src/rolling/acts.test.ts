import { DEFAULT_RECIPE, Evaluator, emptyWork, findingsOf, jointTrack, measure, oneSource, readMotion, type Work, writeFresh } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { BODIES } from "../grid/rolled.ts";
import { type Performed, performedActs } from "./acts.ts";
import { applied, plus, type Vec } from "./matrix.ts";
import { type RollingFaults, spoiled } from "./spoil.ts";
import { worldAt } from "./testing/worldAt.ts";
import { rolledText } from "./text.ts";
import { bonesOf, LEGS } from "./walker.ts";

/** Where a part is at a frame, by going down the bones. */
function partAt(act: Performed, part: string, frame: number): Vec {
  const { places, turned } = worldAt(act, frame);
  const side = part.startsWith("right") ? 1 : 0;
  const [, shin, foot, toes] = LEGS[side];
  if (part.endsWith("Toe")) return places[toes];
  if (part.endsWith("Heel")) return plus(places[foot], applied(turned[foot], bonesOf(act.body).heel));
  if (part.endsWith("Hand")) return plus(places[15 + 3 * side], applied(turned[15 + 3 * side], [0.04 * act.body.height, 0, 0]));
  if (part.endsWith("Knee")) return places[shin];
  return places[part === "head" ? 4 : part === "back" ? 2 : 0];
}

describe.each(BODIES)("acts of $name", (body) => {
  it.each(performedActs(body, 30).map((act) => [act.name, act] as const))("%s: what rests is where it was to a nanometre, and no joint leaps", (_, act) => {
    for (const { point, start, end } of act.contacts) {
      const from = partAt(act, point, start);
      for (let f = start; f <= end; f++) expect(Math.hypot(...partAt(act, point, f).map((v, i) => v - from[i])), `${point} ${f}`).toBeLessThan(1e-9);
    }
    for (let f = 1; f < act.turns.length; f++)
      act.turns[f].forEach((turned, joint) => {
        // The cosine of the angle between two turns, from the trace of one against the other.
        const trace = turned.reduce((sum, v, i) => sum + v * act.turns[f - 1][joint][i], 0);
        expect((trace - 1) / 2, `${joint} at ${f}`).toBeGreaterThan(Math.cos(0.9));
      });
  });
});

const ORDER = ["z", "x", "y"] as const;
const named = (name: string, fps = 60) => performedActs(BODIES[0], fps).find((act) => act.name.startsWith(name)) as Performed;
const read = (act: Performed, faults: RollingFaults = {}) => {
  const { turns, roots } = spoiled(act, faults, 5);
  return readMotion(new TextEncoder().encode(rolledText(act, turns, roots, { order: ORDER, unit: 100 })), { fileName: "act.bvh" });
};
const found = (act: Performed, faults: RollingFaults = {}, work: Partial<Work> = {}) => {
  const { skeleton, clip } = read(act, faults);
  return new Evaluator(oneSource(skeleton, clip)).evaluate({ ...emptyWork(), ...work }).base;
};
const spans = (base: ReturnType<typeof found>, part: string) => base.contacts.filter((c) => c.point === part);

describe("a seat", () => {
  it("is found on a bench, at its own height, from when the body sits to when it rises; also where all drifts", () => {
    for (const faults of [{}, { floor: [-0.05, 0.02] }, { trembles: 0.3 }] as const) {
      const base = found(named("sitting"), faults);
      const [seat, ...more] = spans(base, "seat");
      expect(more).toEqual([]);
      expect(seat.on).toBe("place");
      // It settles by and by: the last millimetre takes some frames.
      expect(Math.abs(seat.start - 108)).toBeLessThan(12);
      expect(Math.abs(seat.end - 252)).toBeLessThan(12);
    }
  });

  it("is none where the body crouches over its feet, kneels, or is on its hands and toes", () => {
    for (const act of ["crouching", "kneeling", "push-ups"]) expect(spans(found(named(act)), "seat"), act).toEqual([]);
  });
});

describe("hands", () => {
  it("hold on to a rail though the feet stand, and lie on the ground in a push-up: one of them is lifted and comes back", () => {
    const rail = found(named("squatting"));
    for (const part of ["leftHand", "rightHand"]) {
      const [hand, ...more] = spans(rail, part);
      expect(more).toEqual([]);
      expect(hand).toMatchObject({ on: "place" });
      expect(Math.abs(hand.start - 60)).toBeLessThan(8);
      expect(Math.abs(hand.end - 300)).toBeLessThan(8);
    }
    const prone = found(named("push-ups"));
    expect(spans(prone, "leftHand").map((c) => [c.start, c.end, c.on])).toEqual([[0, 300, "ground"]]);
    const right = spans(prone, "rightHand");
    expect(right.map((c) => c.on)).toEqual(["ground", "ground"]);
    expect(Math.abs(right[0].end - 132)).toBeLessThan(5);
    expect(Math.abs(right[1].start - 204)).toBeLessThan(5);
  });
});

describe("a body that its feet do not carry, in a clip that drifts", () => {
  it.each([
    ["swinging", "LeftHand", 144],
    ["lying", "Head", 100],
  ] as const)("%s: what rests is found all through, and the drift is taken out of the body by it", (name, joint, later) => {
    const { skeleton, clip } = read(named(name), { floor: [0, 0.02] });
    const { base, result } = new Evaluator(oneSource(skeleton, clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
    for (const part of name === "swinging" ? ["leftHand", "rightHand"] : ["back", "seat", "head"])
      expect(
        spans(base, part).map((c) => [c.start, c.end]),
        part,
      ).toEqual([[0, 300]]);
    const at = (of: typeof clip, which: string, frame: number) =>
      jointTrack(skeleton, of, skeleton.names.indexOf(which)).positions.slice(frame * 3, frame * 3 + 3);
    const apart = (of: typeof clip, which: string) => Math.hypot(...at(of, which, 20 + later).map((v, i) => v - at(of, which, 20)[i]));
    // A period of the swing later the hips are where they were.
    expect(apart(clip, "Hips")).toBeGreaterThan(0.03);
    expect(apart(result.clip, "Hips")).toBeLessThan(0.004);
    expect(apart(result.clip, joint)).toBeLessThan(0.002);
  });
});

describe("feet on their toes", () => {
  it("have no heel on the ground, whatever the clip has of flat ones", () => {
    const prone = found(named("push-ups"));
    for (const side of ["left", "right"]) {
      expect(spans(prone, `${side}Heel`)).toEqual([]);
      expect(spans(prone, `${side}Toe`).map((c) => [c.start, c.end])).toEqual([[0, 300]]);
    }
    const kneeling = found(named("kneeling"));
    expect(spans(kneeling, "rightToe").map((c) => [c.start, c.end])).toEqual([[0, 360]]);
    for (const heel of spans(kneeling, "rightHeel")) expect(heel.end < 60 || heel.start > 290, `${heel.start}`).toBe(true);
    expect(spans(kneeling, "rightKnee")).toHaveLength(1);
  });
});

describe("what carries a body", () => {
  it("are not the feet where it hangs, swims or lies; on a ladder they rest on its rungs, and say nothing of a floor", () => {
    for (const act of ["swinging", "swimming", "lying"]) {
      const base = found(named(act));
      expect(base.support, act).toMatchObject({ byFeet: false, climbs: false });
      expect(
        base.contacts.filter((c) => /Toe|Heel/.test(c.point)),
        act,
      ).toEqual([]);
    }
    const ladder = found(named("climbing"));
    expect(ladder.support).toMatchObject({ byFeet: false, climbs: true });
    const toes = spans(ladder, "leftToe").filter((c) => c.end - c.start > 5);
    expect(toes.map((c) => [c.start, c.end, c.on])).toEqual([24, 120, 216, 312].map((start) => [start, start + 72, "place"]));
    expect(ladder.ground.height).toBe(0);
    for (const act of performedActs(BODIES[0], 60)) {
      const base = found(act);
      expect(findingsOf(base, measure(base)), act.name).toEqual([]);
    }
  });

  it("is what a person says it is", () => {
    expect(found(named("climbing"), {}, { carriedBy: "feet" }).support).toMatchObject({ byFeet: true, climbs: false, said: true });
    expect(spans(found(named("sitting"), {}, { carriedBy: "other" }), "leftToe")).toEqual([]);
  });

  it("are hands that hold on, though dangling feet seem to rest now and then", () => {
    const base = found(named("swinging", 30), { trembles: 0.3 });
    expect(base.support.byFeet).toBe(false);
    expect(spans(base, "leftHand").map((c) => [c.start, c.end])).toEqual([[0, 150]]);
  });
});

describe("a file of a body that never stands", () => {
  it("is read with the axis up that it is written in, and as one on two legs", () => {
    for (const act of ["push-ups", "lying", "swimming"])
      for (const upAxis of ["y", "z"] as const) {
        const { skeleton, clip } = read(named(act));
        const again = readMotion(new TextEncoder().encode([...writeFresh(skeleton, clip, 0.01, upAxis)].join("")), { fileName: "again.bvh" });
        expect(again.upAxis, act).toBe(upAxis);
        expect(new Evaluator(oneSource(again.skeleton, again.clip)).character(emptyWork()).body.plan, act).toBe("biped");
      }
  });

  it("stands where z is up though it is built along y: its lowest joints at zero, and on both sides of y", () => {
    // Turned by a quarter at the root, as tools write it whose rest pose keeps another axis than their world.
    const act = named("crouching", 30);
    const turned = act.turns.map((local) => [[1, 0, 0, 0, 0, -1, 0, 1, 0], ...local.slice(1)]);
    const upright = { ...act, turns: turned, roots: act.roots.map(([x, y, z]): Vec => [x, -z, y]) };
    expect(read(upright as unknown as Performed).upAxis).toBe("z");
  });
});
