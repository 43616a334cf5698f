import { type Finding, makePatch } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { countInWords, findingLines, groupFindings, treatments } from "./findingGroups.ts";

const finding = (kind: Finding["kind"], part: string, start: number, end = start + 5): Finding => ({
  id: `${kind}-${part}-${start}`,
  kind,
  part,
  joint: 3,
  startFrame: start,
  endFrame: end,
  value: 2,
  unit: "°",
  title: `${part} ${kind}`,
  message: "",
  severity: 1,
  treat: kind === "gap" ? null : { ...makePatch("repair", "Repair", "proposed"), range: { start: start / 30, end: end / 30 } },
});

const many = (kind: Finding["kind"], part: string, count: number) => Array.from({ length: count }, (_, i) => finding(kind, part, i * 20));

describe("findings in a list", () => {
  it("stand one by one while they are few", () => {
    const lines = findingLines(many("jitter", "Right hand", 5), new Set());
    expect(lines.map((l) => l.is)).toEqual(Array.from({ length: 5 }, () => "finding"));
  });

  it("stand together by cause and part past a dozen, in the order of the worst, single ones by themselves", () => {
    const list = [finding("travel", "whole body", 0, 99), ...many("jitter", "Right hand", 14), ...many("pop", "Left knee", 2)];
    const lines = findingLines(list, new Set());
    expect(lines).toHaveLength(3);
    expect(lines[0]).toMatchObject({ is: "finding", within: null });
    expect(lines[1]).toMatchObject({ is: "group", open: false, group: { title: "Right hand jitter" } });
    const opened = findingLines(list, new Set(["jitter Right hand"]));
    expect(opened).toHaveLength(3 + 14);
    expect(opened[2]).toMatchObject({ is: "finding", finding: { id: "jitter-Right hand-0" } });
  });

  it("never come to much more than twenty lines, and lose none", () => {
    const list = Array.from({ length: 45 }, (_, p) => [
      ...many("jitter", `joint ${p}`, 3),
      ...many("pop", `joint ${p}`, 2),
      finding("flip", `joint ${p}`, 4),
    ]).flat();
    const groups = groupFindings(list);
    expect(groups.length).toBeLessThanOrEqual(20);
    expect(groups.flatMap((g) => g.findings)).toHaveLength(list.length);
    expect(groups.at(-1)?.title).toMatch(/other parts/);
  });

  it("tell how many they are in the words of their kind", () => {
    const [jitter, slide, pop] = [many("jitter", "a", 14), many("slide", "b", 3), [finding("pop", "c", 4, 4), finding("pop", "c", 9, 9)]].map(
      (l) => groupFindings(l)[0],
    );
    expect([jitter, slide, pop].map(countInWords)).toEqual(["14 stretches", "3 contacts", "2 frames"]);
  });

  it("are treated all at once, by nothing twice and by nothing that none proposes", () => {
    const [group] = groupFindings([finding("jitter", "a", 0), finding("jitter", "a", 0), finding("jitter", "a", 40)]);
    expect(treatments(group)).toHaveLength(2);
    expect(treatments(groupFindings([finding("gap", "whole body", 0)])[0])).toEqual([]);
  });
});
