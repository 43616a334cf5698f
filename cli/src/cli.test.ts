import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
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
  const { status, stdout, stderr } = spawnSync(process.execPath, [".built/stride.js", ...args], {
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

  it("tells what was held where, as JSON beside the cleaned clip", () => {
    const contacts = at("contacts.json");
    expect(stride("clean", source, "-o", at("held.bvh"), "--contacts", contacts).status).toBe(0);
    const report = JSON.parse(readFileSync(contacts, "utf8")) as CheckReport;
    expect(report.contacts.length).toBeGreaterThan(8);
    // Every contact that the stack held is still; none lies off the clip.
    for (const c of report.contacts) {
      expect(c.slideCm, `${c.part} ${c.startFrame}`).toBeLessThan(0.05);
      expect(c.startFrame).toBeGreaterThanOrEqual(0);
      expect(c.endFrame).toBeLessThan(90);
    }
    expect(report.totals.slideWorstCm).toBeLessThan(0.05);
  });

  it("runs a recipe in seconds of the clip at hand, of this or an older version, and says on stderr which part a body lacks", () => {
    const recipe = (name: string, data: unknown) => {
      writeFileSync(at(name), JSON.stringify(data));
      return at(name);
    };
    const frames = (path: string) => Number(/Frames: (\d+)/.exec(readFileSync(path, "utf8"))?.[1]);
    const now = recipe("now.json", { format: "patch-stride.recipe/2", name: "Cut", patches: [{ kind: "trim", settings: { from: 1, to: 2 } }] });
    const old = recipe("old.json", {
      format: "patch-stride.recipe/1",
      name: "Cut",
      patches: [{ kind: "trim", settings: { keepFromFrame: 30, keepToFrame: 60 } }],
    });
    for (const [path, out] of [
      [now, at("cut-now.bvh")],
      [old, at("cut-old.bvh")],
    ]) {
      expect(stride("clean", source, "-o", out, "--recipe", path).status).toBe(0);
      expect(frames(out)).toBe(31);
    }
    expect(readFileSync(at("cut-now.bvh"), "utf8")).toBe(readFileSync(at("cut-old.bvh"), "utf8"));
    const wing = recipe("wing.json", {
      format: "patch-stride.recipe/2",
      name: "Wing",
      patches: [{ kind: "repair", parts: [{ joint: "Wing" }, { role: "head" }] }],
    });
    const told = stride("clean", source, "-o", at("wing.bvh"), "--recipe", wing);
    expect(told.status).toBe(0);
    expect(told.stderr).toMatch(/Wing/);
    expect(existsSync(at("wing.bvh"))).toBe(true);
    const wrong = recipe("wrong.json", { format: "patch-stride.recipe/2", name: "Wrong", patches: [{ kind: "repair", settings: { smooth: 7 } }] });
    const refused = stride("clean", source, "-o", at("wrong.bvh"), "--recipe", wrong);
    expect(refused.status).toBe(1);
    expect(refused.stderr).toMatch(/patches\.0\.settings\.smooth/);
    expect(existsSync(at("wrong.bvh"))).toBe(false);
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

  it("draws on other clips by content: mixes, joins and settles with what is supplied, and says what is not", () => {
    const other = at("other.bvh");
    writeFileSync(
      other,
      skatingBody()
        .replace(/Frames: 90/, "Frames: 60")
        .split("\n")
        .slice(0, -31)
        .join("\n"),
    );
    const sha256 = (path: string) => createHash("sha256").update(readFileSync(path)).digest("hex");
    const recipe = at("others.json");
    const ref = { name: "other.bvh", sha256: sha256(other) };
    const patches = [
      { kind: "floor" },
      { kind: "plant" },
      { kind: "mix", name: "Arms", parts: [{ role: "leftUpperArm" }], settings: { clip: { name: "skating.bvh", sha256: sha256(source) }, offset: 0.5 } },
      { kind: "join", name: "On", settings: { clip: ref, overlap: 0.3 } },
      { kind: "settle", name: "Stop", settings: { target: { clip: ref, at: 1 }, at: 4 } },
    ];
    writeFileSync(recipe, JSON.stringify({ format: "patch-stride.recipe/2", name: "Others", patches }));
    const out = at("others.bvh");
    const made = stride("clean", source, "-o", out, "--recipe", recipe, "--with", other);
    expect(made.stderr).not.toMatch(/is not here/);
    expect(made.status).toBe(0);
    expect(readFileSync(out, "utf8")).toContain("Frames: 121");
    // Joined alone: A + B − overlap.
    writeFileSync(recipe, JSON.stringify({ format: "patch-stride.recipe/2", name: "Others", patches: patches.slice(0, 4) }));
    expect(stride("clean", source, "-o", out, "--recipe", recipe, "--with", other).status).toBe(0);
    expect(readFileSync(out, "utf8")).toContain(`Frames: ${89 + 59 - 9 + 1}`);
    // Without it the rest is done, and it is told.
    const without = stride("clean", source, "-o", out, "--recipe", recipe);
    expect(without.status).toBe(1);
    expect(without.stderr).toMatch(/skating\.bvh: On: clip: the clip "other\.bvh" is not here; .*--with FILE/);
    expect(readFileSync(out, "utf8")).toContain("Frames: 90");
    writeFileSync(
      recipe,
      JSON.stringify({ format: "patch-stride.recipe/2", name: "Others", patches: [{ kind: "join", settings: { clip: { name: "x.bvh", sha256: "12" } } }] }),
    );
    expect(stride("clean", source, "-o", out, "--recipe", recipe).stderr).toMatch(
      /patches\.0\.settings\.clip\.sha256: expected the clip's SHA-256, 64 hexadecimal digits/,
    );
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
      [["check", folder], 1, /expected a .bvh, .glb, .gltf, .vrma or .vrm file/],
      [["clean", source, "-o", join(folder, "no", "such", "place.bvh")], 1, /cannot be written/],
      [["clean", source], 2, /expected -o OUT/],
      [["dance", source], 2, /no command "dance"/],
      [[], 2, /say what to do/],
      [["convert", source, "-o", at("x.txt")], 2, /must end in .bvh, .glb, .gltf, .vrma, .vrm, .csv or .trc/],
      [["clean", source, "-o", at("x.txt")], 2, /must end in .bvh, .glb, .gltf, .vrma, .vrm, .csv or .trc/],
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
