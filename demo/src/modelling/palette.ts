import type { Colour } from "./surface.ts";

/** sRGB 0..1 of a hex colour. */
export function hex(code: string): Colour {
  const at = (i: number) => Number.parseInt(code.slice(i, i + 2), 16) / 255;
  return [at(1), at(3), at(5)];
}

export const plain = (code: string) => {
  const colour = hex(code);
  return () => colour;
};

export function mixed(a: Colour, b: Colour, share: number): Colour {
  const u = Math.max(0, Math.min(1, share));
  return [a[0] + (b[0] - a[0]) * u, a[1] + (b[1] - a[1]) * u, a[2] + (b[2] - a[2]) * u];
}

/** Darker towards a height, as cloth and hide are below. */
export function shaded(code: string, from: number, to: number, dark: number): (x: number, y: number, z: number) => Colour {
  const colour = hex(code);
  const low: Colour = [colour[0] * dark, colour[1] * dark, colour[2] * dark];
  return (_x, y) => mixed(colour, low, (y - from) / (to - from));
}
