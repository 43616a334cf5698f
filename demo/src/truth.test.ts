import {
  type Clip,
  DEFAULT_RECIPE,
  Evaluator,
  emptyWork,
  findingsOf,
  mapBody,
  measure,
  oneSource,
  PoseFrame,
  readMotion,
  readPosition,
  writeFresh,
} from "@stride/motion";
import { describe, expect, it } from "vitest";
import { performBiped } from "./biped.ts";
import { PIM } from "./characters.ts";
import { demoClips } from "./clips.ts";
import { fourLegs } from "./grid/cases.ts";
import type { Performance } from "./performance.ts";
import { HOOK } from "./scenes.ts";
import { type Score, score } from "./score.ts";
import { NAMING_STYLES, renamed, TEST_BODIES, testPlans } from "./variants.ts";

function clean(truth: Performance, faulty: Clip): Score {
  const { base, result } = new Evaluator(oneSource(truth.character.skeleton, faulty)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches });
  return score(truth, faulty, base.contacts, result.clip);
}

describe("body map", () => {
  const truth = performBiped(TEST_BODIES[1].character, testPlans(1, 30)[0]);
  for (const [style, name] of Object.entries(NAMING_STYLES)) {
    for (const upAxis of ["y", "z"] as const) {
      for (const unitScale of [1, 0.01, 0.0254]) {
        it(`reads a body named in the style "${style}", ${upAxis} up, ${unitScale} m a unit, from a file`, () => {
          const { skeleton } = renamed(truth.character, name);
          const text = [...writeFresh(skeleton, truth.clip, unitScale, upAxis)].join("");
          const file = readMotion(new TextEncoder().encode(text), { fileName: "named.bvh" });
          expect(file.upAxis).toBe(upAxis);
          expect(file.unitScale).toBeCloseTo(unitScale, 9);
          const { roles, plan } = mapBody(file.skeleton, file.clip);
          expect(plan).toBe("biped");
          for (const role of [
            "hips",
            "spine",
            "chest",
            "head",
            "leftThigh",
            "leftShin",
            "leftFoot",
            "leftToe",
            "rightThigh",
            "rightShin",
            "rightFoot",
            "rightToe",
            "leftUpperArm",
            "rightForearm",
            "leftHand",
            "rightHand",
          ] as const) {
            expect(file.skeleton.names[roles[role] ?? -1], role).toBe(skeleton.names[truth.character.roles[role] ?? -1]);
          }
        });
      }
    }
  }

  it("knows every part of the goat, by topology alone too", () => {
    const clip = demoClips().find((d) => d.truth.character === PIM)?.truth.clip;
    if (!clip) throw new Error("the goat has no clip");
    for (const character of [PIM, renamed(PIM, NAMING_STYLES.numbers)]) {
      const { roles, plan } = mapBody(character.skeleton, clip);
      expect(plan).toBe("quadruped");
      for (const role of ["hips", "leftThigh", "rightFoot", "leftToe", "leftUpperArm", "rightForearm", "leftHand", "rightHandEnd"] as const)
        expect(roles[role], role).toBe(PIM.roles[role]);
    }
  });
});

describe("four legs, by names, codes or numbers alone", () => {
  it.each(fourLegs().filter((c) => c.name.includes("walk, clean")))("$name: hooves, sides and the bones above them", ({ truth }) => {
    const { skeleton, roles: right } = truth.character;
    const { roles, plan } = mapBody(skeleton, truth.clip);
    expect(plan).toBe("quadruped");
    for (const role of ["hips", "leftToe", "rightToe", "leftHandEnd", "rightHandEnd", "leftThigh", "rightShin", "leftUpperArm", "rightForearm"] as const)
      expect(skeleton.names[roles[role] ?? -1], role).toBe(skeleton.names[right[role] ?? -1]);
  });
});

describe("units and axes of four-legged bodies from 0.4 to 1.6 m at the withers", () => {
  it.each(fourLegs().filter((c) => /walk, clean|trot, clean/.test(c.name)))("$name, in metres to millimetres, inches and feet", ({ truth }) => {
    for (const unit of [1, 0.1, 0.01, 0.001, 0.0254, 0.3048])
      for (const upAxis of ["y", "z"] as const) {
        const text = [...writeFresh(truth.character.skeleton, truth.clip, unit, upAxis)].join("");
        const file = readMotion(new TextEncoder().encode(text), { fileName: "four.bvh" });
        expect(file.unitScale, `${unit} m a unit, ${upAxis} up`).toBeCloseTo(unit, 9);
        expect(file.upAxis).toBe(upAxis);
      }
  });

  it.each(fourLegs().filter((c) => /walk, clean|trot, clean/.test(c.name)))(
    "$name, in metres and centimetres also a sixth slower or quicker than is usual",
    ({ truth }) => {
      for (const unit of [1, 0.01])
        for (const pace of [0.85, 1.15]) {
          const text = [...writeFresh(truth.character.skeleton, { ...truth.clip, fps: truth.clip.fps * pace }, unit)].join("");
          expect(readMotion(new TextEncoder().encode(text), { fileName: "four.bvh" }).unitScale, `${unit} m a unit, pace ${pace}`).toBeCloseTo(unit, 9);
        }
    },
  );
});

describe("units of the demo's clips", () => {
  it.each(demoClips().map((demo) => [demo.id, demo] as const))("%s, in metres, centimetres and millimetres", (_, { truth, clip }) => {
    for (const unit of [1, 0.01, 0.001]) {
      const text = [...writeFresh(truth.character.skeleton, clip, unit)].join("");
      expect(readMotion(new TextEncoder().encode(text), { fileName: "demo.bvh" }).unitScale, `${unit} m a unit`).toBeCloseTo(unit, 9);
    }
  });
});

describe("bodies that do not stand on their feet", () => {
  const found = (id: string) => {
    const demo = demoClips().find((c) => c.id === id);
    if (!demo) throw new Error(`no clip ${id}`);
    const { base } = new Evaluator(oneSource(demo.truth.character.skeleton, demo.clip)).evaluate(emptyWork());
    return { base, findings: findingsOf(base, measure(base)) };
  };

  it("fall onto the back: it lies from where the body has come to rest to the end, and legs in the air stand on nothing", () => {
    const { base, findings } = found("porter-slip-on-the-ice");
    const last = base.clip.frameCount - 1;
    for (const part of ["back", "seat"]) {
      const [contact, ...more] = base.contacts.filter((c) => c.point === part);
      expect(more).toEqual([]);
      expect(contact.end).toBe(last);
      expect(contact.start).toBeGreaterThan(60);
      expect(contact.start).toBeLessThan(110);
    }
    expect(base.contacts.filter((c) => c.point.endsWith("Toe") && c.start > 60)).toEqual([]);
    // The foot that slips does not stand while it does.
    for (const c of base.contacts.filter((each) => /Toe|Heel/.test(each.point) && each.start < 60)) expect(c.end, c.point).toBeLessThan(25);
    for (const finding of findings.filter((f) => f.kind === "slide")) expect(finding.value).toBeLessThan(5);
    expect(findings.filter((f) => ["travel", "tilt", "floor", "sink", "float"].includes(f.kind))).toEqual([]);
  });

  it("hang: their feet say nothing of ground and travel", () => {
    const { base, findings } = found("porter-hanging-from-the-davit");
    expect(base.support.byFeet).toBe(false);
    expect(base.support.share).toBeLessThan(0.2);
    expect(base.contacts.filter((c) => /Toe|Heel/.test(c.point))).toEqual([]);
    expect(findings).toEqual([]);
    // Hands that turn about the hook hold it all through: at the wrists, where the generator has it.
    expect(base.contacts.map((c) => [c.point, c.start, c.end, c.on])).toEqual([
      ["leftHand", 0, 120, "place"],
      ["rightHand", 0, 120, "place"],
    ]);
    for (const { id, local } of base.points.filter((p) => p.id.endsWith("Hand"))) expect(Math.hypot(...local), id).toBeLessThan(0.006);
  });
});

describe("the demo's clips", () => {
  const clips = demoClips();
  it("are sixteen and always the same", () => {
    expect(clips).toHaveLength(16);
    const again = demoClips();
    clips.forEach((c, i) => expect(again[i].clip.rotations).toEqual(c.clip.rotations));
  });

  it("hang by the hands from a hook that stays where it is, and fall onto a floor that is not gone through", () => {
    const course = (id: string, names: readonly ("leftHand" | "rightHand" | "chest" | "hips")[]) => {
      const { truth } = clips.find((c) => c.id === id) ?? clips[0];
      const frame = new PoseFrame(truth.character.skeleton, truth.clip);
      return Array.from({ length: truth.clip.frameCount }, (_, f) => {
        frame.load(truth.clip, f);
        return names.map((name) => Array.from(frame.worldPositions.slice((truth.character.roles[name] ?? 0) * 3, (truth.character.roles[name] ?? 0) * 3 + 3)));
      });
    };
    for (const [left, right] of course("porter-hanging-from-the-davit", ["leftHand", "rightHand"])) {
      HOOK.forEach((v, c) => {
        expect((left[c] + right[c]) / 2).toBeCloseTo(v, 5);
      });
    }
    const fall = course("porter-slip-on-the-ice", ["chest", "hips"]);
    expect(Math.min(...fall.flat().map((p) => p[1]))).toBeGreaterThan(0.09);
    expect(fall[0][0][1]).toBeGreaterThan(1);
    expect(fall.at(-1)?.[0][1]).toBeLessThan(0.2);
  });

  it("stand about 60 % of a walking cycle with two double supports (Winter; Perry, Gait Analysis; memory)", () => {
    const { truth } = clips[0];
    const down = (side: string) => truth.contacts.filter((c) => c.point.startsWith(side)).sort((a, b) => a.start - b.start);
    const [heel] = down("right").filter((c) => c.point.endsWith("Heel"));
    const [toe] = down("right").filter((c) => c.point.endsWith("Toe") && c.start > heel.start);
    const next = down("right").filter((c) => c.point.endsWith("Heel"))[1];
    const stance = (toe.end - heel.start + 1) / (next.start - heel.start);
    expect(stance).toBeGreaterThan(0.56);
    expect(stance).toBeLessThan(0.66);
  });

  it("run where the Froude number says run (over about 0.5; Alexander 1989; memory) and walk below", () => {
    const froude = (index: number) => {
      const { clip } = clips[index].truth;
      const [a, b] = [0, clip.frameCount - 1].map((f) => {
        const p = [0, 0, 0];
        readPosition(clip, 0, f, p, 0);
        return p;
      });
      const speed = Math.hypot(b[0] - a[0], b[2] - a[2]) / ((clip.frameCount - 1) / clip.fps);
      return speed ** 2 / (9.81 * 0.53 * 1.72);
    };
    expect(froude(0)).toBeLessThan(0.5);
    expect(froude(3)).toBeGreaterThan(0.5);
  });

  it("come clean: slide under 0.5 cm, contacts at F1 0.88 or better, half the distance to the truth", () => {
    // Those that walk, run or stand: a swing and a fall have no true steps, and some clips have no fault of their feet.
    const grounded = clips.filter((c) => c.truth.contacts.length > 0 && !["hands", "talk", "stand"].some((tag) => c.tags.includes(tag)));
    expect(grounded).toHaveLength(10);
    for (const { id, truth, clip } of grounded) {
      const result = clean(truth, clip);
      expect(result.slideP95Cm, id).toBeLessThan(0.5);
      expect(result.f1, id).toBeGreaterThan(0.88);
      expect(result.distanceCleanedCm, id).toBeLessThan(0.5 * result.distanceFaultyCm);
    }
  });
});
