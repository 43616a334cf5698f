import { z } from "zod";

/** The furthest place, the longest side and the greatest height that a shape of the ground may have, metres. */
const FAR = 10_000;
const LONGEST = 500;
const HIGHEST = 20;

/** Where a shape begins (the middle of its near edge, world metres), which way it runs (degrees about +Y from +Z) and how broad it is. */
const placed = {
  x: z.number().min(-FAR).max(FAR),
  z: z.number().min(-FAR).max(FAR),
  heading: z.number().min(-360).max(360),
  width: z.number().min(0.05).max(LONGEST),
};

/** Level ground behind the top (or the foot) of a slope or a flight of steps, metres. */
const landing = z.number().min(0).max(LONGEST);

/** What can stand on a ground. Heights are over the ground where the shape begins; negative ones go down. */
export const groundShapeSchema = z.discriminatedUnion("shape", [
  z.strictObject({ shape: z.literal("slope"), ...placed, degrees: z.number().min(-45).max(45), length: z.number().min(0.05).max(LONGEST), landing }),
  z.strictObject({
    shape: z.literal("steps"),
    ...placed,
    rise: z.number().min(-1).max(1),
    tread: z.number().min(0.1).max(5),
    count: z.number().int().min(1).max(200),
    landing,
  }),
  z.strictObject({ shape: z.literal("box"), ...placed, length: z.number().min(0.05).max(LONGEST), height: z.number().min(-HIGHEST).max(HIGHEST) }),
]);
export type GroundShape = z.infer<typeof groundShapeSchema>;

/** A shape's own axes over a level place: how far along it (metres from its near edge), and how far to the side of its middle. */
export function alongShape(shape: GroundShape, x: number, z: number): { along: number; across: number } {
  const a = (shape.heading * Math.PI) / 180;
  const [dx, dz] = [x - shape.x, z - shape.z];
  return { along: dx * Math.sin(a) + dz * Math.cos(a), across: dx * Math.cos(a) - dz * Math.sin(a) };
}

/** A place of the world from a shape's own axes, x and z. */
export function placeOnShape(shape: GroundShape, along: number, across: number): [number, number] {
  const a = (shape.heading * Math.PI) / 180;
  return [shape.x + along * Math.sin(a) + across * Math.cos(a), shape.z + along * Math.cos(a) - across * Math.sin(a)];
}

/** How far a shape reaches along its heading, metres. */
export function shapeLength(shape: GroundShape): number {
  if (shape.shape === "box") return shape.length;
  return (shape.shape === "slope" ? shape.length : shape.count * shape.tread) + shape.landing;
}

/** Height of a shape over the ground where it begins, and its grade (rise per metre along), so far along it. */
export function shapeProfile(shape: GroundShape, along: number): { height: number; grade: number } {
  if (shape.shape === "box") return { height: shape.height, grade: 0 };
  if (shape.shape === "steps") return { height: shape.rise * Math.min(shape.count, Math.floor(along / shape.tread) + 1), grade: 0 };
  const grade = Math.tan((shape.degrees * Math.PI) / 180);
  return { height: grade * Math.min(along, shape.length), grade: along < shape.length ? grade : 0 };
}

/** The corners of a shape's profile, front to back: how far along, and how high over the ground where it begins. */
export function profileCorners(shape: GroundShape): [number, number][] {
  const end = shapeLength(shape);
  if (shape.shape === "box")
    return [
      [0, shape.height],
      [end, shape.height],
    ];
  if (shape.shape === "slope") {
    const top = shapeProfile(shape, shape.length).height;
    const corners: [number, number][] = [
      [0, 0],
      [shape.length, top],
    ];
    return shape.landing > 0 ? [...corners, [end, top]] : corners;
  }
  const steps = Array.from({ length: shape.count }, (_, i): [number, number][] => [
    [i * shape.tread, (i + 1) * shape.rise],
    [(i + 1) * shape.tread + (i + 1 === shape.count ? shape.landing : 0), (i + 1) * shape.rise],
  ]);
  return steps.flat();
}

/** A shape so many times as large about the world's origin. */
export function scaledShape(shape: GroundShape, by: number): GroundShape {
  const at = { x: shape.x * by, z: shape.z * by, width: shape.width * by };
  if (shape.shape === "box") return { ...shape, ...at, length: shape.length * by, height: shape.height * by };
  const landing = shape.landing * by;
  if (shape.shape === "slope") return { ...shape, ...at, length: shape.length * by, landing };
  return { ...shape, ...at, rise: shape.rise * by, tread: shape.tread * by, landing };
}
