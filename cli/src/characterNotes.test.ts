import { readFileSync } from "node:fs";
import {
  acceptanceOf,
  bakedOnto,
  type CharacterNotes,
  characterIn,
  clipWorld,
  emptyNotes,
  findingsOf,
  type Motion,
  measure,
  measuredLimits,
  quatAngleFlat,
  readCharacterNotes,
  readMotion,
  restSurface,
  type Skeleton,
  skinOfFile,
  solesOnSkin,
  sourceOf,
} from "@stride/motion";
import { describe, expect, it } from "vitest";
import { ofTruth, WALK } from "../../demo/src/testing/evaluated.ts";
import { about, times } from "../../demo/src/turn.ts";

const file = readMotion(readFileSync(new URL("../../demo/bodies/osk.glb", import.meta.url)), { fileName: "osk.glb" });
const { skeleton } = file;
const joint = (name: string) => skeleton.names.indexOf(name);
const said = (part: Partial<CharacterNotes>): CharacterNotes => ({ ...emptyNotes(), ...part });
const walk = ofTruth(WALK);
const onto = (notes: CharacterNotes | null, body: Skeleton = skeleton) =>
  bakedOnto(walk, characterIn({ ...sourceOf(file, "osk.glb", notes), skeleton: body })).motion;
/** How a joint is turned in the world at a frame, against another motion's, degrees. */
function apart(a: Motion, b: Motion, name: string, frame: number): number {
  const [p, q] = [a, b].map((m) => clipWorld(m.character.skeleton, m.clip).rotations);
  const o = (frame * skeleton.names.length + joint(name)) * 4;
  return (quatAngleFlat(p, o, q, o) * 180) / Math.PI;
}

describe("what a person says of a character", () => {
  it("brings a rest pose that nothing else could tell into the common one: a head that the file holds tilted, a twisted forearm", () => {
    const rest = skeleton.restRotations.slice();
    const turnedBy = (name: string, axis: "x" | "y" | "z", degrees: number) => {
      const o = joint(name) * 4;
      rest.set(times([...rest.subarray(o, o + 4)] as never, about(axis, (degrees * Math.PI) / 180)), o);
    };
    turnedBy("Head", "x", 25);
    turnedBy("LeftForearm", "x", 40);
    const tilted: Skeleton = { ...skeleton, restRotations: rest };
    const [plain, wrong, right] = [onto(null), onto(null, tilted), onto(said({ rest: { Head: [-25, 0, 0], LeftForearm: [-40, 0, 0] } }), tilted)];
    for (const frame of [0, 40, 100]) {
      expect(apart(wrong, plain, "Head", frame)).toBeGreaterThan(20);
      expect(apart(wrong, plain, "LeftForearm", frame)).toBeGreaterThan(30);
      expect(apart(right, plain, "Head", frame)).toBeLessThan(0.01);
      expect(apart(right, plain, "LeftForearm", frame)).toBeLessThan(0.01);
    }
  });

  it("corrects its map: what is called another part moves as that one does", () => {
    const swapped = onto(
      said({
        body: { leftForearm: "RightForearm", leftHand: "RightHand", leftUpperArm: "RightUpperArm", rightForearm: null, rightHand: null, rightUpperArm: null },
      }),
    );
    expect(swapped.character.body.roles.leftForearm).toBe(joint("RightForearm"));
    expect(swapped.character.body.roles.rightForearm).toBeUndefined();
    expect(swapped.character.body.guesses.find((g) => g.role === "leftForearm")?.confidence).toBe(1);
  });

  it("lays its soles onto the mesh: they are held there, and feet stay on the floor", () => {
    const body = characterIn(sourceOf(file, "osk.glb"));
    const skin = skinOfFile(file, "osk.glb");
    if (!skin) throw new Error("no skin");
    const soles = solesOnSkin(body.points, restSurface(skeleton, skin), body.character.rig, body.character.height);
    const made = onto(said({ points: soles }));
    for (const point of made.points.filter((p) => p.bears)) {
      expect(point.local).toEqual(soles[point.id]);
      expect(point.clearance).toBe(0);
    }
    const cast = acceptanceOf(walk, made);
    expect(cast.standing.map((s) => s.point).sort()).toEqual(["leftHeel", "leftToe", "rightHeel", "rightToe"]);
    for (const { depthCm, contacts } of cast.standing) {
      expect(contacts).toBeGreaterThan(1);
      expect(depthCm).toBeLessThan(0.2);
    }
    const slides = measure(made).spans.filter(({ contact }) => contact.point.endsWith("Toe"));
    expect(slides.length).toBeGreaterThan(4);
    for (const { slideCm } of slides) expect(slideCm).toBeLessThan(0.25);
  });

  it("has limits measured off its clips, within which those clips stay; a cast that passes narrower ones is told, and is not changed by them", () => {
    const free = onto(null);
    const limits = measuredLimits(free.character, [{ skeleton, clip: free.clip }]);
    expect(limits.length).toBeGreaterThan(15);
    const named = (list: typeof limits) =>
      Object.fromEntries(list.map(({ joint: j, bend, side, twist }) => [skeleton.names[j], { bend: [...bend], side: [...side], twist: [...twist] }]));
    const within = onto(readCharacterNotes(said({ limits: named(limits) as never })));
    expect(acceptanceOf(walk, within).limits).toEqual([]);
    expect(findingsOf(within, measure(within)).filter((f) => f.kind === "limit")).toEqual([]);
    const knee = limits.find((l) => l.joint === joint("LeftShin"));
    if (!knee) throw new Error("no knee");
    const most = Math.max(...knee.bend.map(Math.abs));
    const stiff = onto(said({ limits: { LeftShin: { bend: [-most / 2, most / 2], side: [-90, 90], twist: [-90, 90] } } }));
    const told = acceptanceOf(walk, stiff).limits;
    expect(told).toHaveLength(1);
    expect(told?.[0]).toMatchObject({ part: { role: "leftShin" }, way: "bend" });
    // A little room lies around what was measured: 5°.
    expect(told?.[0].degrees).toBeGreaterThan(most / 2 - 7);
    expect(told?.[0].degrees).toBeLessThan(most / 2 - 3);
    const found = findingsOf(stiff, measure(stiff)).filter((f) => f.kind === "limit");
    expect(found[0].message).toMatch(/^Left shin is past its limit by [\d.]+ ° at frames? \d+/);
    expect(stiff.clip.rotations).toEqual(free.clip.rotations);
    expect(acceptanceOf(walk, free).limits).toBeNull();
  });

  it("is a document of its own: read back as it was, and refused with the field where it is wrong", () => {
    const notes = said({
      body: { tail: null },
      rest: { Head: [1, 2, 3] },
      points: { leftHeel: [0, -0.1, 0] },
      limits: { Head: { bend: [-10, 10], side: [0, 0], twist: [-5, 5] } },
    });
    expect(readCharacterNotes(JSON.parse(JSON.stringify(notes)))).toEqual(notes);
    expect(() => readCharacterNotes({ ...notes, body: { wing: "X" } })).toThrow(/^body\.wing: /);
    expect(() => readCharacterNotes({ ...notes, limits: { Head: { bend: [10, -10], side: [0, 0], twist: [0, 0] } } })).toThrow(
      /limits\.Head\.bend.*lower bound first/,
    );
    expect(() => readCharacterNotes({ ...notes, format: "other" })).toThrow(/format/);
    expect(() => readCharacterNotes({ ...notes, more: 1 })).toThrow(/more/);
  });
});

describe("how hands are over the body, in the acceptance of a cast", () => {
  it("is told for each side: the part, and how far from its surface before and after", () => {
    const { touches } = acceptanceOf(walk, onto(null));
    expect(touches.map((t) => t.side)).toEqual(["left", "right"]);
    for (const { part, wasCm, isCm, frame } of touches) {
      expect("role" in part).toBe(true);
      expect(frame).toBeGreaterThanOrEqual(0);
      expect(frame).toBeLessThan(walk.clip.frameCount);
      expect(Math.abs(wasCm)).toBeLessThan(60);
      expect(Number.isFinite(isCm)).toBe(true);
    }
  });
});
