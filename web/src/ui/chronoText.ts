import type { ChronoPicture } from "@stride/server";

/** Colours of a picture, as SVG takes them. */
export interface ChronoColours {
  readonly left: string;
  readonly right: string;
  readonly middle: string;
  readonly line: string;
  readonly sheet: string;
  readonly smear: string;
}

/** Every this-many-th of the kept poses stands in the still picture. */
const SPACING = 4;
/** Smears shorter than this are none, metres. */
const LEAST_SMEAR = 0.008;

/** The window that a picture is seen through, metres: left, top, width, height; y goes down. */
export function chronoBox({ width, height }: Pick<ChronoPicture, "width" | "height">): readonly [number, number, number, number] {
  const tall = Math.max(height, 0.8) * 1.12;
  const wide = Math.max(width + 0.8, tall * 2.35);
  return [-(wide - width) / 2, -tall, wide, tall + 0.34];
}

/** A picture as SVG text: its ground, its footprints and every fourth of its poses, the last one darkest. */
export function chronoText(picture: ChronoPicture, colours: ChronoColours): string {
  const box = chronoBox(picture);
  const poses = picture.poses.filter((_, i) => i % SPACING === 0);
  const line = `<line x1="${box[0]}" x2="${box[0] + box[2]}" y1=".02" y2=".02" stroke="${colours.line}" stroke-width=".014"/>`;
  const drawn = poses.map((pose, i) => {
    const opacity = i === poses.length - 1 ? 1 : Math.round((0.16 + (0.62 * i) / poses.length) * 1000) / 1000;
    const strips = pose.map(({ side, width, points }) => `<polyline points="${chronoPoints(points)}" stroke="${colours[side]}" stroke-width="${width}"/>`);
    return `<g opacity="${opacity}">${strips.join("")}</g>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="${box.join(" ")}" preserveAspectRatio="xMidYMid meet">${line}${printsText(picture.prints, colours)}<g fill="none" stroke-linecap="round" stroke-linejoin="round">${drawn.join("")}</g></svg>`;
}

function printsText(prints: ChronoPicture["prints"], { left, right, sheet, smear: smeared }: ChronoColours): string {
  return prints
    .map(({ side, x, smear }) => {
      const long = Math.max(0.1, smear);
      const smeary = smear > LEAST_SMEAR ? `<rect x="${x - long}" y=".17" width="${long}" height=".045" rx=".02" fill="${smeared}" opacity=".85"/>` : "";
      const sole = side === "left" ? `cy=".23" fill="${left}"` : `cy=".16" fill="${sheet}" stroke="${right}" stroke-width=".02"`;
      return `${smeary}<ellipse cx="${x}" rx=".11" ry=".036" ${sole}/>`;
    })
    .join("");
}

/** Points of a strip, [x, y up, …], as SVG has them. */
export function chronoPoints(points: readonly number[]): string {
  let text = "";
  for (let i = 0; i < points.length; i += 2) text += `${points[i]},${-points[i + 1]} `;
  return text;
}
