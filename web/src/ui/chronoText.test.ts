import type { ChronoPicture } from "@stride/server";
import { describe, expect, it } from "vitest";
import { chronoBox, chronoText } from "./chronoText.ts";

const picture: ChronoPicture = {
  poses: Array.from({ length: 25 }, (_, i) => [
    { side: "left" as const, width: 0.1, points: [i / 10, 0.9, i / 10, 0.1] },
    { side: "middle" as const, width: 0.17, points: [i / 10, 0.9, i / 10, 1.5] },
  ]),
  prints: [
    { side: "left", x: 0.4, smear: 0.05 },
    { side: "right", x: 1.1, smear: 0 },
  ],
  width: 2.4,
  height: 1.6,
};
const colours = { left: "plum", right: "teal", middle: "ink", line: "line", sheet: "sheet", smear: "coral" };

describe("a chronophotograph as text", () => {
  it("holds every fourth pose, darker from first to last, sides by their colours, and a smear where a foot slid", () => {
    const text = chronoText(picture, colours);
    const opacities = [...text.matchAll(/<g opacity="([\d.]+)"/g)].map((m) => Number(m[1]));
    expect(opacities).toHaveLength(7);
    expect(opacities.at(-1)).toBe(1);
    expect(opacities.every((v, i) => i === 0 || v > opacities[i - 1])).toBe(true);
    expect(text.match(/stroke="plum"/g)).toHaveLength(7);
    expect(text.match(/<ellipse/g)).toHaveLength(2);
    expect(text.match(/<rect[^>]*fill="coral"/g)).toHaveLength(1);
    // Up is up.
    expect(text).toContain('points="0.4,-0.9 0.4,-0.1 "');
  });

  it("shows all of it: travel in the middle, ground under the feet", () => {
    const [left, top, wide, tall] = chronoBox(picture);
    expect(left).toBeLessThan(0);
    expect(left + wide).toBeCloseTo(picture.width - left, 12);
    expect(top).toBeLessThan(-picture.height);
    expect(top + tall).toBeGreaterThan(0.28);
    expect(wide / tall).toBeGreaterThan(1.5);
  });
});
