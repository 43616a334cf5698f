import type { ChronoPicture } from "@stride/server";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type ChronoContext, chronoFrame, drawChronophotograph, posesDrawn } from "./drawChronophotograph.ts";

const COLOURS = { left: "#700", right: "#070", middle: "#111", line: "#ccc", slide: "#f00", ground: "#fff" };

interface Drawn {
  readonly what: "stroke" | "fill";
  readonly colour: string;
  readonly width: number;
  readonly path: readonly (readonly [string, ...number[]])[];
}

/** A context that keeps what is drawn on it instead of drawing. */
function recorder(): { context: ChronoContext; drawn: Drawn[]; cleared: number[][] } {
  const drawn: Drawn[] = [];
  const cleared: number[][] = [];
  let path: [string, ...number[]][] = [];
  const add =
    (name: string) =>
    (...values: unknown[]) => {
      path.push([name, ...values.map(Number)]);
    };
  const context: ChronoContext = {
    strokeStyle: "",
    fillStyle: "",
    lineWidth: 0,
    lineCap: "butt",
    lineJoin: "miter",
    setTransform: () => {},
    clearRect: (...box) => void cleared.push(box),
    beginPath: () => {
      path = [];
    },
    moveTo: add("moveTo"),
    lineTo: add("lineTo"),
    ellipse: add("ellipse"),
    roundRect: add("roundRect"),
    stroke: () => void drawn.push({ what: "stroke", colour: String(context.strokeStyle), width: context.lineWidth, path }),
    fill: () => void drawn.push({ what: "fill", colour: String(context.fillStyle), width: 0, path }),
  };
  return { context, drawn, cleared };
}

const strip = (side: "left" | "right" | "middle", x: number) => ({ side, width: 0.1, points: [x, 1, x, 0.5, x, 0] });
const picture: ChronoPicture = {
  poses: Array.from({ length: 10 }, (_, i) => [strip("right", i), strip("middle", i), strip("left", i)]),
  prints: [
    { side: "left", x: 1, smear: 0 },
    { side: "right", x: 2, smear: 0.3 },
  ],
  width: 9,
  height: 1.7,
};
const draw = (pose: number | null) => {
  const to = recorder();
  drawChronophotograph(to.context, picture, { width: 400, height: 166, pixels: 2, colours: COLOURS, pose });
  return to;
};

describe("a clip's picture", () => {
  it("has every fourth pose, later ones stronger and the last in full, or the one that is asked for", () => {
    expect(posesDrawn(10, null).map(({ index }) => index)).toEqual([0, 4, 8]);
    const strengths = posesDrawn(48, null).map(({ strength }) => strength);
    expect([...strengths].sort((a, b) => a - b)).toEqual(strengths);
    expect(strengths[0]).toBeCloseTo(0.16);
    expect(strengths.at(-1)).toBe(1);
    expect(posesDrawn(10, 7)).toEqual([{ index: 7, strength: 1 }]);
  });

  it("is drawn on an empty ground, in its sides' colours, up to the bodies' own places", () => {
    const { drawn, cleared } = draw(null);
    expect(cleared).toEqual([[0, 0, 400, 166]]);
    const poses = drawn.slice(-9);
    expect(poses.slice(6).map(({ colour }) => colour)).toEqual([COLOURS.right, COLOURS.middle, COLOURS.left]);
    expect(poses[0].colour).toBe("color-mix(in srgb, #070 16%, #fff)");
    expect(poses[3].path).toEqual([
      ["moveTo", 4, -1],
      ["lineTo", 4, -0.5],
      ["lineTo", 4, -0],
    ]);
    expect(poses.every(({ width }) => width === 0.1)).toBe(true);
    expect(
      draw(7)
        .drawn.slice(-3)
        .map(({ path }) => path[0][1]),
    ).toEqual([7, 7, 7]);
  });

  it("tells left and right prints apart, and how far a foot slid, back from where it ended", () => {
    const { drawn } = draw(null);
    const prints = drawn.filter(({ path }) => path[0][0] === "ellipse");
    expect(prints.map(({ what, colour, path }) => [what, colour, path[0][1]])).toEqual([
      ["fill", COLOURS.left, 1],
      ["fill", COLOURS.ground, 2],
      ["stroke", COLOURS.right, 2],
    ]);
    const smears = drawn.filter(({ path }) => path[0][0] === "roundRect");
    expect(smears.map(({ path }) => path[0].slice(1, 4))).toEqual([[1.7, 0.17, 0.3]]);
  });

  it("lies whole in any box, in its middle", () => {
    const size = fc.double({ min: 0.01, max: 60, noNaN: true });
    const box = fc.double({ min: 20, max: 2000, noNaN: true });
    fc.assert(
      fc.property(size, size, box, box, (travel, tall, width, height) => {
        const { x, y, scale } = chronoFrame({ width: travel, height: tall }, width, height);
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x + travel * scale).toBeLessThanOrEqual(width);
        expect(x + (travel * scale) / 2).toBeCloseTo(width / 2, 6);
        expect(y - tall * scale).toBeGreaterThanOrEqual(-1e-9);
        // Prints lie up to 27 cm under the floor's line.
        expect(y + 0.27 * scale).toBeLessThanOrEqual(height);
      }),
    );
  });
});
