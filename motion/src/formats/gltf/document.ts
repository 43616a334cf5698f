import { z } from "zod";

// What of a glTF 2.0 document (https://registry.khronos.org/glTF/specs/2.0/glTF-2.0.html) motion is read from. Everything else of it is handed on as it is.

const index = z.int().min(0);
const numbers = (length: number) => z.array(z.number()).length(length);

const nodeSchema = z.object({
  name: z.string().optional(),
  children: z.array(index).optional(),
  translation: numbers(3).optional(),
  rotation: numbers(4).optional(),
  scale: numbers(3).optional(),
  matrix: numbers(16).optional(),
  mesh: index.optional(),
  camera: index.optional(),
  skin: index.optional(),
  weights: z.array(z.number()).optional(),
});
export type GltfNode = z.infer<typeof nodeSchema>;

const bufferViewSchema = z.object({
  buffer: index,
  byteOffset: index.default(0),
  byteLength: z.int().min(1),
  byteStride: z.int().min(4).max(252).optional(),
  extensions: z.record(z.string(), z.unknown()).optional(),
});

/** A buffer view that holds less than it stands for (EXT_meshopt_compression). */
export const meshoptViewSchema = z.object({
  buffer: index,
  byteOffset: index.default(0),
  byteLength: z.int().min(1),
  byteStride: z.int().min(1).max(256),
  count: z.int().min(1),
  mode: z.enum(["ATTRIBUTES", "TRIANGLES", "INDICES"]),
  filter: z.enum(["NONE", "OCTAHEDRAL", "QUATERNION", "EXPONENTIAL"]).default("NONE"),
});

const accessorSchema = z.object({
  bufferView: index.optional(),
  byteOffset: index.default(0),
  componentType: z.union([z.literal(5120), z.literal(5121), z.literal(5122), z.literal(5123), z.literal(5125), z.literal(5126)]),
  normalized: z.boolean().default(false),
  count: z.int().min(1),
  type: z.enum(["SCALAR", "VEC2", "VEC3", "VEC4", "MAT2", "MAT3", "MAT4"]),
  sparse: z
    .object({
      count: z.int().min(1),
      indices: z.object({ bufferView: index, byteOffset: index.default(0), componentType: z.union([z.literal(5121), z.literal(5123), z.literal(5125)]) }),
      values: z.object({ bufferView: index, byteOffset: index.default(0) }),
    })
    .optional(),
});
export type GltfAccessor = z.infer<typeof accessorSchema>;

const animationSchema = z.object({
  name: z.string().optional(),
  channels: z.array(z.object({ sampler: index, target: z.object({ node: index.optional(), path: z.string() }) })),
  samplers: z.array(z.object({ input: index, output: index, interpolation: z.enum(["LINEAR", "STEP", "CUBICSPLINE"]).default("LINEAR") })),
});
export type GltfAnimation = z.infer<typeof animationSchema>;

export const gltfSchema = z.object({
  asset: z.object({ version: z.string(), minVersion: z.string().optional() }),
  extensionsRequired: z.array(z.string()).default([]),
  scene: index.optional(),
  scenes: z.array(z.object({ nodes: z.array(index).optional() })).default([]),
  nodes: z.array(nodeSchema).default([]),
  skins: z.array(z.object({ joints: z.array(index).min(1), skeleton: index.optional(), inverseBindMatrices: index.optional() })).default([]),
  animations: z.array(animationSchema).default([]),
  accessors: z.array(accessorSchema).default([]),
  bufferViews: z.array(bufferViewSchema).default([]),
  buffers: z.array(z.object({ uri: z.string().optional(), byteLength: z.int().min(1), extensions: z.record(z.string(), z.unknown()).optional() })).default([]),
});
export type Gltf = z.infer<typeof gltfSchema>;
