import { type Footfall, type GroundShape, groundHeight, planeHeight } from "@stride/motion";
import type { MotionView } from "../../../worker/views.ts";

/** Footfalls by which shapes are proposed: of a body on four legs those of its fore legs, which come onto a shape first. */
export function footfallsOf({ prints, ground }: Pick<MotionView, "prints" | "ground">): Footfall[] {
  const fore = prints.filter((p) => p.point.endsWith("Fore"));
  return (fore.length > 0 ? fore : prints).map(({ start, x, z, rise, heading, length }) => {
    // A print's rise is over the surface that stands there already.
    const stands = groundHeight(ground, x, z) - planeHeight(ground, x, z);
    return { start, x, z, rise: rise + stands, heading, length };
  });
}

/** "4 steps of 17 cm", "slope of 8°", "box of 20 cm". */
export function shapeName(shape: GroundShape): string {
  const cm = (metres: number) => `${Number((100 * metres).toFixed(1))} cm`;
  if (shape.shape === "steps") return `${shape.count} ${shape.count === 1 ? "step" : "steps"} of ${cm(shape.rise)}`;
  return shape.shape === "slope" ? `slope of ${Number(shape.degrees.toFixed(1))}°` : `box of ${cm(shape.height)}`;
}

/** A shape with one of its measures changed. */
export function withMeasure(shape: GroundShape, key: string, value: number): GroundShape {
  return { ...shape, [key]: Math.round(value * 1e6) / 1e6 } as GroundShape;
}
