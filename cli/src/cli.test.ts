import { spawnSync } from "node:child_process";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { type CheckReport, DEFAULT_RECIPE } from "@stride/motion";
import { afterAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";

const root = fileURLToPath(new URL("../..", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "stride-cli-"));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function stride(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, ["--import", "tsx", "cli/src/main.ts", ...args], {
    cwd: root,
    encoding: "utf8",
    maxBuffer: 1 << 28,
  });
  return { status, stdout, stderr };
}

const source = at("skating.bvh");
writeFileSync(source, skatingBody());

describe("stride", () => {
  it("checks a clip: figures, contacts and ranked findings as JSON", () => {
    const { status, stdout } = stride("check", source, "--json");
    expect(status).toBe(0);
    const report = JSON.parse(stdout) as CheckReport;
    expect(report.clip).toMatchObject({ fps: 30, frames: 90, name: "skating" });
    expect(report.unitScaleToMetres).toBe(0.01);
    expect(report.bodyMap).toMatchObject({
      hips: "Hips",
      leftThigh: "LeftUpLeg",
      rightShin: "RightLeg",
      leftFoot: "LeftFoot",
      rightToe: "RightToeBase",
      leftHand: "LeftHand",
    });
    // The generator travels 15 % too fast.
    expect(report.totals.travelErrorPercent).toBeGreaterThan(11);
    expect(report.totals.travelErrorPercent).toBeLessThan(19);
    expect(report.contacts.length).toBeGreaterThan(8);
    for (const c of report.contacts) expect(["leftHeel", "leftToe", "rightHeel", "rightToe"]).toContain(c.part);
    expect(report.findings[0].message).toMatch(/travels \d+ % too fast/);
  });

  it("cleans it: the same skeleton, channels, frames and frame time, and the slide is gone", () => {
    const out = at("clean.bvh");
    expect(stride("clean", source, "-o", out).status).toBe(0);
    const before = readFileSync(source, "utf8");
    const after = readFileSync(out, "utf8");
    for (const line of ["Frames: 90", "Frame Time: 0.0333333", "CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation"]) {
      expect(before).toContain(line);
      expect(after).toContain(line);
    }
    const report = JSON.parse(stride("check", out, "--json").stdout) as CheckReport;
    expect(report.totals.slideP95Cm).toBeLessThan(1);
    expect(Math.abs(report.totals.travelErrorPercent)).toBeLessThan(3);
  });

  it("runs a recipe, and refuses one of another version in one line", () => {
    const recipe = at("recipe.json");
    writeFileSync(recipe, JSON.stringify({ ...DEFAULT_RECIPE, patches: [] }));
    const out = at("untouched.bvh");
    expect(stride("clean", source, "-o", out, "--recipe", recipe).status).toBe(0);
    const numbers = (text: string) => text.slice(text.indexOf("Frame Time")).split(/\s+/).slice(3).map(Number);
    const a = numbers(readFileSync(source, "utf8"));
    numbers(readFileSync(out, "utf8")).forEach((v, i) => expect(Math.abs(v - a[i])).toBeLessThan(2e-4));
    writeFileSync(recipe, JSON.stringify({ ...DEFAULT_RECIPE, format: "patch-stride.recipe/7" }));
    const refused = stride("clean", source, "-o", out, "--recipe", recipe);
    expect(refused.status).toBe(1);
    expect(refused.stderr.trim().split("\n")).toHaveLength(1);
    expect(refused.stderr).toContain("patch-stride.recipe/7");
  });

  it("converts to world positions as CSV: a line a frame, three columns a joint", () => {
    const out = at("positions.csv");
    expect(stride("convert", source, "-o", out).status).toBe(0);
    const lines = readFileSync(out, "utf8").trim().split("\r\n");
    expect(lines).toHaveLength(91);
    expect(lines[0].split(",").slice(0, 5)).toEqual(["frame", "seconds", "Hips.x", "Hips.y", "Hips.z"]);
    expect(Number(lines[1].split(",")[3])).toBeCloseTo(0.96, 6);
  });

  it("answers refused input with 1 and one line, wrong usage with 2, never with a stack trace", () => {
    writeFileSync(at("cut.bvh"), skatingBody().slice(0, 4000));
    const cases: readonly (readonly [string[], number, RegExp])[] = [
      [["check", at("cut.bvh")], 1, /cut\.bvh:\d+: /],
      [["check", at("absent.bvh")], 1, /there is no such file/],
      [["check", folder], 1, /expected a .bvh file/],
      [["clean", source, "-o", join(folder, "no", "such", "place.bvh")], 1, /cannot be written/],
      [["clean", source], 2, /expected -o OUT/],
      [["dance", source], 2, /no command "dance"/],
      [[], 2, /say what to do/],
      [["convert", source, "-o", at("x.txt")], 2, /must end in .bvh or .csv/],
      [["clean", source, "-o", at("x.txt")], 2, /must end in .bvh or .csv/],
    ];
    for (const [args, code, words] of cases) {
      const { status, stderr } = stride(...args);
      expect(status, args.join(" ")).toBe(code);
      expect(stderr).toMatch(words);
      expect(stderr).not.toMatch(/\n {4}at /);
      if (code === 1) expect(stderr.trim().split("\n")).toHaveLength(1);
    }
    expect(existsSync(at("x.txt"))).toBe(false);
  });
});
