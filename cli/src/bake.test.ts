import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { demoClips } from "@stride/demo";
import { type CheckReport, clipWorld, makePatch, quatAngleFlat, RECIPE_FORMAT, readMotion, readRotation, writeFresh } from "@stride/motion";
import { afterAll, describe, expect, it } from "vitest";
import { verdict } from "../../motion/src/testing/gltfChecks.ts";
import { severalTakes } from "../../motion/src/testing/severalTakes.ts";

const root = fileURLToPath(new URL("../..", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "stride-bake-"));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function stride(...args: string[]) {
  return spawnSync(process.execPath, [".built/stride.js", ...args], { cwd: root, encoding: "utf8", maxBuffer: 1 << 28 });
}

const clip = (id: string) => {
  const found = demoClips().find((c) => c.id === id);
  if (!found) throw new Error(`no clip ${id}`);
  return found;
};
for (const [id, name] of [
  ["porter-night-shift-walk", "walk.bvh"],
  ["diver-dock-patrol", "diver.bvh"],
] as const)
  writeFileSync(at(name), [...writeFresh(clip(id).truth.character.skeleton, clip(id).clip, 0.01)].join(""));

const read = (name: string) => readMotion(new Uint8Array(readFileSync(at(name))), { fileName: name });

describe("stride bake", () => {
  it("cleans a walk and casts it onto another body: its skeleton, the walk's length and rate, and feet that stay", () => {
    const { status, stderr } = stride("bake", at("walk.bvh"), "--onto", at("diver.bvh"), "-o", at("out.bvh"));
    expect(status).toBe(0);
    expect(stderr).toMatch(/left thumb.*: moves, and has no partner on diver\.bvh/);
    const [walk, diver, out] = [read("walk.bvh"), read("diver.bvh"), read("out.bvh")];
    expect(out.skeleton.names).toEqual(diver.skeleton.names);
    expect(Math.max(...out.skeleton.offsets.map((v, i) => Math.abs(v - diver.skeleton.offsets[i])))).toBeLessThan(1e-6);
    expect(out.clip).toMatchObject({ fps: walk.clip.fps, frameCount: walk.clip.frameCount });
    const report = JSON.parse(stride("check", at("out.bvh"), "--json").stdout) as CheckReport;
    expect(report.totals.slideWorstCm).toBeLessThan(0.2);
    expect(Math.abs(report.floorHeightM)).toBeLessThan(0.005);
    expect(Math.abs(report.totals.travelErrorPercent)).toBeLessThan(2);
  });

  it("writes into a character's own GLB, which the format's validator finds faultless, and says what it is asked wrongly", async () => {
    expect(stride("convert", at("diver.bvh"), "-o", at("diver.glb")).status).toBe(0);
    expect(stride("bake", at("walk.bvh"), "--onto", at("diver.glb"), "-o", at("out.glb")).status).toBe(0);
    expect(await verdict(new Uint8Array(readFileSync(at("out.glb"))))).toEqual({ errors: 0, warnings: 0, said: [] });
    const [fromBvh, fromGlb] = [read("out.bvh"), read("out.glb")];
    const [a, b] = [fromBvh, fromGlb].map(({ skeleton, clip }) => clipWorld(skeleton, clip).positions);
    // The same body by either road, to a tenth of a millimetre: BVH is written with six figures. Where hands end only BVH says, so they are led a little otherwise.
    expect(a.length).toBe(b.length);
    const { names } = fromBvh.skeleton;
    const apart = (own: (name: string) => boolean) =>
      a.reduce((most, v, i) => (own(names[Math.floor(i / 3) % names.length]) ? Math.max(most, Math.abs(v - b[i])) : most), 0);
    const arm = (name: string) => /(Forearm|Hand)$/.test(name);
    expect(apart((name) => !arm(name))).toBeLessThan(1e-3);
    expect(apart(arm)).toBeLessThan(0.05);
    expect(stride("convert", at("out.glb"), "-o", at("text.gltf")).status).toBe(0);
    expect(stride("check", at("text.gltf"), "--json").status).toBe(0);

    const missing = stride("convert", at("out.glb"), "-o", at("x.bvh"), "--take", "Run");
    expect([missing.status, missing.stderr.trim()]).toEqual([1, `${at("out.glb")}: it holds no animation "Run"; there is "diver"`]);
    expect(stride("bake", at("walk.bvh"), "-o", at("x.bvh")).status).toBe(2);
    expect(stride("check", at("out.glb"), "--fps", "fast").stderr).toContain('--fps must be a number from 1 to 1000, not "fast"');
    writeFileSync(at("cut.glb"), readFileSync(at("out.glb")).subarray(0, 4000));
    const cut = stride("check", at("cut.glb"));
    expect([cut.status, cut.stderr]).toEqual([
      1,
      expect.stringMatching(/^\S*cut\.glb: it says that it is \d+ bytes long, but ends after 4000; the file is cut off\n$/),
    ]);
  });

  it("reads the animation that is asked for, and those of a file that a recipe names", async () => {
    const kit = await severalTakes([
      { name: "Idle", seconds: 1, degrees: 30 },
      { name: "Look", seconds: 2, degrees: 80 },
    ]);
    writeFileSync(at("kit.glb"), kit);
    expect(stride("convert", at("kit.glb"), "-o", at("look.bvh"), "--take", "Look").status).toBe(0);
    expect(read("look.bvh").clip.frameCount).toBe(21);
    const sha256 = createHash("sha256").update(kit).digest("hex");
    const mix = makePatch("mix", "Mix", "m", { clip: { name: "kit.glb", sha256, take: "Look" } });
    writeFileSync(at("recipe.json"), JSON.stringify({ format: RECIPE_FORMAT, name: "Look", patches: [mix] }));
    const made = stride("clean", at("kit.glb"), "-o", at("mixed.glb"), "--recipe", at("recipe.json"));
    expect([made.status, made.stderr]).toEqual([0, expect.not.stringContaining("not here")]);
    const { skeleton, clip } = read("mixed.glb");
    const turn = new Float64Array(4);
    readRotation(clip, skeleton.names.indexOf("Head"), clip.frameCount - 1, turn, 0);
    expect((2 * Math.acos(turn[3]) * 180) / Math.PI).toBeCloseTo(40, 1);
  });

  it("heeds what is said of the character, and writes as it is asked to", () => {
    const notes = { format: "patch-stride.character/1", rest: { Head: [-30, 0, 0] } };
    writeFileSync(at("notes.json"), JSON.stringify(notes));
    const onto = (...more: string[]) => stride("bake", at("walk.bvh"), "--onto", "demo/bodies/osk.glb", "-o", ...more);
    expect(onto(at("plain.glb")).status).toBe(0);
    expect(onto(at("tilted.glb"), "--character", at("notes.json"), "--names", "vrm", "--thin", "0.5,1").status).toBe(0);
    const [plain, tilted] = [read("plain.glb"), read("tilted.glb")];
    expect(tilted.skeleton.names).toContain("leftUpperArm");
    const head = (m: typeof plain, name: string) => m.clip.rotations[m.skeleton.names.indexOf(name)][0].slice(0, 4);
    expect((quatAngleFlat(head(plain, "Head"), 0, head(tilted, "head"), 0) * 180) / Math.PI).toBeGreaterThan(28);
    expect(readFileSync(at("tilted.glb")).length).toBeLessThan(readFileSync(at("plain.glb")).length);
    writeFileSync(at("wrong.json"), JSON.stringify({ ...notes, limits: 3 }));
    const wrong = onto(at("x.glb"), "--character", at("wrong.json"));
    expect([wrong.status, wrong.stderr]).toEqual([1, expect.stringMatching(/wrong\.json: limits: /)]);
    expect(stride("convert", at("walk.bvh"), "-o", at("walk.vrma")).status).toBe(0);
    expect(read("walk.vrma").skeleton.said?.by).toMatch(/VRM/);
    expect(stride("convert", at("walk.bvh"), "-o", at("walk.trc"), "--points", "leftHeel,Hips").status).toBe(0);
    expect(readFileSync(at("walk.trc"), "utf8").split("\n")[3]).toBe("Frame#\tTime\tleftHeel\t\t\tHips\t\t");
    const none = stride("convert", at("walk.bvh"), "-o", at("walk.trc"), "--points", "wing");
    expect([none.status, none.stderr]).toEqual([1, expect.stringMatching(/no joint, part or contact point "wing"/)]);
    for (const words of [
      ["--names", "latin"],
      ["--thin", "much"],
    ])
      expect(stride("convert", at("walk.bvh"), "-o", at("x.glb"), ...words).status).toBe(2);
  });
});
