import { readFileSync } from "node:fs";
import { join } from "node:path";
import { demoClips } from "@stride/demo";
import {
  clipWorld,
  Evaluator,
  emptyWork,
  formatToWrite,
  type Motion,
  markersOf,
  oneSource,
  PoseFrame,
  readMotion,
  renamed,
  type WriteOptions,
} from "@stride/motion";
import { Vector3 } from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";
import { describe, expect, it } from "vitest";
import { furthest, heightOf, places, played, verdict } from "../../motion/src/testing/gltfChecks.ts";

const clip = (id: string) => {
  const found = demoClips().find((c) => c.id === id);
  if (!found) throw new Error(`no clip ${id}`);
  const { skeleton } = found.truth.character;
  return new Evaluator(oneSource(skeleton, found.clip)).evaluate(emptyWork()).base;
};
const walk = clip("porter-night-shift-walk");

function written(ending: string, motion: Motion, options: WriteOptions = {}): Uint8Array {
  const format = formatToWrite(`x${ending}`);
  if (!format) throw new Error(`no ${ending} is written`);
  const pieces = [...format.write(motion.character.skeleton, motion.clip, null, { character: motion.character, ...options })];
  return Uint8Array.from(Buffer.concat(pieces.map((p) => Buffer.from(p as Uint8Array))));
}

describe("keys thinned on request", () => {
  it("leave every joint within what its chain can add up to, in three.js as here, in a smaller file that the validator finds faultless", async () => {
    const all = written(".glb", walk);
    const thin = written(".glb", walk, { thin: { degrees: 0.25, metres: 5e-4 } });
    expect(thin.length).toBeLessThan(0.8 * all.length);
    expect(await verdict(thin)).toEqual({ errors: 0, warnings: 0, said: [] });
    const { names } = walk.character.skeleton;
    const here = places({ skeleton: walk.character.skeleton, clip: walk.clip });
    const theirs = await played(thin, names, walk.clip.frameCount, walk.clip.fps);
    // A quarter of a degree at each of a dozen joints of a body of 1.72 m could come to some cm; it does not come near that.
    expect(furthest(here, theirs)).toBeLessThan(0.02);
    expect(furthest(here, theirs)).toBeGreaterThan(1e-5);
    const back = readMotion(thin, { fileName: "x.glb", fps: walk.clip.fps });
    expect(furthest(Float64Array.from(clipWorld(back.skeleton, back.clip).positions), theirs) / heightOf(here)).toBeLessThan(1e-5);
  });
});

describe("a VRM animation", () => {
  it("rests in a T-pose facing +Z, says which node is which bone, and moves as the motion does, as three.js has it", async () => {
    const bytes = written(".vrma", walk);
    const said = await verdict(bytes);
    expect([said.errors, said.warnings]).toEqual([0, 0]);
    const { scene, parser } = await new GLTFLoader().parseAsync(bytes.slice().buffer, "");
    scene.updateMatrixWorld(true);
    const { humanoid, specVersion } = parser.json.extensions.VRMC_vrm_animation as {
      specVersion: string;
      humanoid: { humanBones: Record<string, { node: number }> };
    };
    expect(specVersion).toBe("1.0");
    const place = (bone: string) => {
      const name = parser.json.nodes[humanoid.humanBones[bone].node].name as string;
      return new Vector3().setFromMatrixPosition((scene.getObjectByName(name) ?? scene).matrixWorld);
    };
    for (const [side, sign] of [
      ["left", 1],
      ["right", -1],
    ] as const) {
      const [shoulder, elbow, wrist] = ["UpperArm", "LowerArm", "Hand"].map((b) => place(side + b));
      const [hip, knee, ankle] = ["UpperLeg", "LowerLeg", "Foot"].map((b) => place(side + b));
      for (const way of [
        elbow.clone().sub(shoulder).normalize(),
        wrist.clone().sub(elbow).normalize(),
        place(`${side}MiddleDistal`)
          .sub(place(`${side}MiddleProximal`))
          .normalize(),
      ])
        expect(way.x * sign).toBeGreaterThan(0.999);
      for (const way of [knee.clone().sub(hip).normalize(), ankle.clone().sub(knee).normalize()]) expect(way.y).toBeLessThan(-0.999);
      expect(place(`${side}Toes`).z - ankle.z).toBeGreaterThan(0.05);
      expect(place(`${side}Toes`).y).toBeGreaterThan(0);
      expect(place(`${side}Toes`).y).toBeLessThan(0.08);
    }
    expect(place("head").y).toBeGreaterThan(1.3);
    const { skeleton } = walk.character;
    const theirs = await played(bytes, skeleton.names, walk.clip.frameCount, walk.clip.fps);
    const here = places({ skeleton, clip: walk.clip });
    expect(furthest(here, theirs) / heightOf(here)).toBeLessThan(1e-5);
    // Read again, its own words say which part is which.
    const back = readMotion(bytes, { fileName: "walk.vrma" });
    const { body } = new Evaluator(oneSource(back.skeleton, back.clip)).evaluate(emptyWork()).base.character;
    for (const role of ["leftUpperArm", "rightShin", "leftIndex2", "head"] as const) expect(body.roles[role]).toBe(walk.character.body.roles[role]);
    expect(body.guesses.find((g) => g.role === "leftUpperArm")?.reason).toMatch(/VRM/);
  });

  it("of an animal is refused in a line", () => {
    expect(() => written(".vrma", clip("goat-standing-at-the-bollard"))).toThrow(/on two legs/);
  });

  it("is written of the demo's own bodies, which rest otherwise", () => {
    for (const id of ["ina", "osk"]) {
      const file = readMotion(readFileSync(join(import.meta.dirname, `../../demo/bodies/${id}.glb`)), { fileName: `${id}.glb` });
      const motion = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate(emptyWork()).base;
      const back = readMotion(written(".vrma", motion), { fileName: "x.vrma" });
      expect(furthest(places(back), places({ skeleton: motion.character.skeleton, clip: motion.clip }))).toBeLessThan(1e-5);
    }
  });
});

describe("joints called as a standard calls them", () => {
  it.each(["hanim", "vrm"] as const)("%s: are read again as the same parts; others keep their names, each one its own", (by) => {
    const { skeleton, body } = walk.character;
    const made = renamed(skeleton, body, by);
    expect(new Set(made.names).size).toBe(skeleton.names.length);
    expect(made.names[body.roles.leftForearm as number]).toBe(by === "vrm" ? "leftLowerArm" : "l_elbow");
    const again = new Evaluator(oneSource(made, walk.clip)).evaluate(emptyWork()).base.character.body.roles;
    const limbs = Object.entries(body.roles).filter(([role]) => /UpperArm|Forearm|Hand$|Thigh|Shin|Foot|Index/.test(role));
    expect(limbs.length).toBeGreaterThan(12);
    for (const [role, joint] of limbs) expect(again[role as keyof typeof again], role).toBe(joint);
    expect(renamed(skeleton, body, "own")).toBe(skeleton);
  });
});

describe("places of chosen points", () => {
  it("are those of joints, parts and contact points, in the order in which they are asked for", () => {
    const markers = markersOf(walk.character, walk.points, ["leftHeel", "Hips", "rightHand"]);
    const format = formatToWrite("x.csv");
    const lines = [...(format?.write(walk.character.skeleton, walk.clip, null, { markers }) ?? [])].join("").trim().split("\r\n");
    expect(lines[0]).toBe("frame,seconds,leftHeel.x,leftHeel.y,leftHeel.z,Hips.x,Hips.y,Hips.z,rightHand.x,rightHand.y,rightHand.z");
    const heel = walk.points.find((p) => p.id === "leftHeel");
    const pose = new PoseFrame(walk.character.skeleton, walk.clip);
    pose.load(walk.clip, 40);
    pose.update();
    const place = pose.point(new Float64Array(3), heel?.joint as number, heel?.local as [number, number, number]);
    const row = lines[41].split(",").map(Number);
    expect(row[0]).toBe(40);
    for (let c = 0; c < 3; c++) expect(row[2 + c]).toBeCloseTo(place[c], 5);
    expect(() => markersOf(walk.character, walk.points, ["leftWing"])).toThrow(/no joint, part or contact point "leftWing"; its contact points are leftHeel/);
  });
});
