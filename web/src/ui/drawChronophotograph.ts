import type { ChronoPicture } from "@stride/server";

/** What a chronophotograph is drawn with, as CSS colours. */
export interface ChronoColours {
  readonly left: string;
  readonly right: string;
  readonly middle: string;
  readonly line: string;
  readonly slide: string;
  /** what it is drawn on */
  readonly ground: string;
}

/** The part of a canvas' context that is used. */
export type ChronoContext = Pick<
  CanvasRenderingContext2D,
  | "setTransform"
  | "clearRect"
  | "beginPath"
  | "moveTo"
  | "lineTo"
  | "ellipse"
  | "roundRect"
  | "stroke"
  | "fill"
  | "strokeStyle"
  | "fillStyle"
  | "lineWidth"
  | "lineCap"
  | "lineJoin"
>;

export interface ChronoDrawing {
  /** CSS pixels, and device pixels in each */
  readonly width: number;
  readonly height: number;
  readonly pixels: number;
  readonly colours: ChronoColours;
  /** the one pose to draw; null draws the still picture */
  readonly pose: number | null;
}

/** Every this-many-th of the kept poses stands in the still picture. */
const SPACING = 4;
/** How strongly the first pose of a still picture is drawn, and how much the later ones gain. */
const FAINTEST = 0.16;
const GAIN = 0.62;
/** Room beside the travel, over the head and under the floor, metres. */
const BESIDE = 0.8;
const LOWEST_BODY = 0.8;
const OVERHEAD = 1.12;
const UNDER = 0.34;
/** As wide as this many heights at least. */
const WIDTH_OVER_HEIGHT = 2.35;
/** A smear shorter than this, metres, is not drawn; what is drawn is no shorter than the other. */
const LEAST_SMEAR = 0.008;
const SHORTEST_SMEAR = 0.1;

/** The poses that are drawn, each with its strength 0..1: later ones stronger, the last one (or the one alone) full. */
export function posesDrawn(count: number, pose: number | null): { readonly index: number; readonly strength: number }[] {
  if (pose !== null) return [{ index: pose, strength: 1 }];
  const stills = Array.from({ length: Math.ceil(count / SPACING) }, (_, i) => i * SPACING);
  return stills.map((index, i) => ({ index, strength: i === stills.length - 1 ? 1 : FAINTEST + (GAIN * i) / stills.length }));
}

/** Where the picture lies in a box of pixels: `x` and `y` of its metres' zero (y down, floor at 0), and pixels a metre; whole, in the middle. */
export function chronoFrame(
  picture: Pick<ChronoPicture, "width" | "height">,
  width: number,
  height: number,
): { readonly x: number; readonly y: number; readonly scale: number; readonly wide: number } {
  const tall = Math.max(picture.height, LOWEST_BODY) * OVERHEAD;
  const wide = Math.max(picture.width + BESIDE, tall * WIDTH_OVER_HEIGHT);
  const scale = Math.min(width / wide, height / (tall + UNDER));
  return { x: width / 2 - (picture.width / 2) * scale, y: height / 2 + ((tall - UNDER) / 2) * scale, scale, wide };
}

/** Draws a clip's picture, what was there before is gone: silhouettes along its travel, the footprints under them, and how far feet slid. */
export function drawChronophotograph(to: ChronoContext, picture: ChronoPicture, drawing: ChronoDrawing): void {
  const { width, height, pixels, colours } = drawing;
  const { x, y, scale, wide } = chronoFrame(picture, width, height);
  to.setTransform(pixels, 0, 0, pixels, 0, 0);
  to.clearRect(0, 0, width, height);
  to.setTransform(pixels * scale, 0, 0, pixels * scale, pixels * x, pixels * y);
  to.lineCap = "butt";
  to.lineJoin = "round";

  const centre = picture.width / 2;
  to.strokeStyle = colours.line;
  to.lineWidth = 0.014;
  to.beginPath();
  to.moveTo(centre - wide / 2, 0.02);
  to.lineTo(centre + wide / 2, 0.02);
  to.stroke();

  for (const print of picture.prints) {
    const left = print.side === "left";
    if (print.smear > LEAST_SMEAR) {
      const length = Math.max(SHORTEST_SMEAR, print.smear);
      to.fillStyle = faded(colours.slide, 0.85, colours.ground);
      to.beginPath();
      to.roundRect(print.x - length, 0.17, length, 0.045, 0.02);
      to.fill();
    }
    to.beginPath();
    to.ellipse(print.x, left ? 0.23 : 0.16, 0.11, 0.036, 0, 0, Math.PI * 2);
    to.fillStyle = left ? colours.left : colours.ground;
    to.fill();
    if (left) continue;
    to.strokeStyle = colours.right;
    to.lineWidth = 0.02;
    to.stroke();
  }

  to.lineCap = "round";
  for (const { index, strength } of posesDrawn(picture.poses.length, drawing.pose)) {
    const [left, right, middle] = [colours.left, colours.right, colours.middle].map((colour) => faded(colour, strength, colours.ground));
    const of = { left, right, middle };
    for (const strip of picture.poses[index]) {
      to.strokeStyle = of[strip.side];
      to.lineWidth = strip.width;
      to.beginPath();
      for (let i = 0; i < strip.points.length; i += 2) {
        if (i === 0) to.moveTo(strip.points[0], -strip.points[1]);
        else to.lineTo(strip.points[i], -strip.points[i + 1]);
      }
      to.stroke();
    }
  }
}

/** A colour mixed with what it stands on, so that what overlaps in one figure does not show through. */
function faded(colour: string, strength: number, ground: string): string {
  return strength >= 1 ? colour : `color-mix(in srgb, ${colour} ${Math.round(strength * 100)}%, ${ground})`;
}
