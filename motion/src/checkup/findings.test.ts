import { describe, expect, it } from "vitest";
import type { Clip } from "../clip/clip.ts";
import { Evaluator } from "../evaluate.ts";
import { readBvh } from "../formats/bvh/read.ts";
import { oneSource } from "../sources.ts";
import { around, at, patch, stick, withShift } from "../testing/patched.ts";
import { skatingBody } from "../testing/skatingBody.ts";
import { findingsInTime, findingsOf, sourceInTime, treatedFindings } from "./findings.ts";
import { measure } from "./measures.ts";

const findings = (clip: Clip, ...patches: Parameters<typeof stick.work>) => {
  const { base, result } = stick.evaluator(clip).evaluate(stick.work(...patches));
  const source = sourceInTime(base, result);
  const list = (motion: typeof base) => findingsOf(motion, measure(motion));
  return { all: list(base), before: source ? list(source) : findingsInTime(list(base), base, result), after: list(result) };
};

describe("findings", () => {
  it("tell a root that leaps aside for a frame, where and how far", () => {
    const clip = withShift(stick.clip, 0, [40], [0.2, 0, 0]);
    const jumps = findings(clip).before.filter((f) => f.kind === "jump");
    expect(findings(stick.clip).before.filter((f) => f.kind === "jump")).toEqual([]);
    expect(jumps).toHaveLength(1);
    expect(jumps[0]).toMatchObject({ joint: 0, startFrame: 40, endFrame: 40, unit: "cm", title: "Hips jumps" });
    expect(jumps[0].value).toBeCloseTo(20, 0);
  });

  it("tell the same of any joint with a place of its own", () => {
    // A hand that the file moves by itself, as props and stretched joints are.
    const lines = skatingBody().replace(
      "JOINT LeftHand { OFFSET 25.5 0 0 CHANNELS 3 ",
      "JOINT LeftHand { OFFSET 25.5 0 0 CHANNELS 6 Xposition Yposition Zposition ",
    );
    const head = lines.slice(0, lines.indexOf("Frame Time"));
    const rows = lines.slice(lines.indexOf("Frame Time")).trim().split("\n");
    const channels = [...head.matchAll(/JOINT (\w+)|CHANNELS (\d)/g)];
    let before = 6;
    for (const [, joint, count] of channels.slice(1)) {
      if (joint === "LeftHand") break;
      if (count) before += Number(count);
    }
    const text = [
      rows[0],
      ...rows.slice(1).map((row, f) => {
        const v = row.split(" ");
        v.splice(before, 0, "25.5", f === 33 ? "12" : "0", "0");
        return v.join(" ");
      }),
    ].join("\n");
    const file = readBvh(new TextEncoder().encode(head + text), { fileName: "hand.bvh" });
    expect(file.clip.positionJoints).toHaveLength(2);
    const { base } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate(stick.work());
    const jumps = findingsOf(base, measure(base)).filter((f) => f.kind === "jump");
    expect(jumps.map((j) => file.skeleton.names[j.joint])).toEqual(["LeftHand"]);
    expect(jumps[0]).toMatchObject({ startFrame: 33, endFrame: 33 });
  });

  it("that are cut away are not treated; a trim treats none, whatever else stands above it does", () => {
    const clip = withShift(stick.clip, 0, [40], [0.2, 0, 0]);
    const trim = patch("trim", { from: at(12), to: at(70) });
    const cut = findings(clip, trim);
    expect(cut.all.length).toBeGreaterThan(cut.before.length);
    expect(cut.before.length).toBeGreaterThan(8);
    expect(treatedFindings(cut.before, cut.after)).toEqual([]);
    const planted = findings(clip, trim, ...stick.grounded().patches);
    const treated = treatedFindings(planted.before, planted.after);
    expect(treated.some((f) => f.kind === "slide")).toBe(true);
    // Told in the frames of the result, which has 59.
    for (const f of treated) expect(f.endFrame, f.title).toBeLessThan(59);
  });

  it("of a source that a loop repeats are those of the source, where the loop first shows them: its seams are none", () => {
    const clip = withShift(stick.clip, 0, [40, 80], [0.2, 0, 0]);
    const loop = patch("loop", { from: at(20), to: at(60), repeats: 2 });
    const { before, all } = findings(clip, loop);
    expect(
      all
        .filter((f) => f.kind === "jump")
        .map((f) => f.startFrame)
        .sort((x, y) => x - y),
    ).toEqual([40, 80]);
    expect(before.filter((f) => f.kind === "jump").map((f) => f.startFrame)).toEqual([20]);
  });

  it("name the patch that treats them, placed where they are", () => {
    const { before } = findings(stick.clip);
    const slide = before.find((f) => f.kind === "slide");
    expect(slide?.treat?.kind).toBe("plant");
    const clip = withShift(stick.clip, 0, [40], [0.2, 0, 0]);
    expect(findings(clip, patch("floor", {}, around(40))).before.find((f) => f.kind === "travel")?.treat?.kind).toBe("plant");
  });
});
