import { z } from "zod";

// What of a document's meshes a skin is read from (glTF 2.0, "Meshes", "Skins", "Materials").
const index = z.int().min(0);
const primitiveSchema = z.object({
  attributes: z.record(z.string(), index),
  indices: index.optional(),
  material: index.optional(),
  mode: z.int().min(0).max(6).default(4),
  targets: z.array(z.record(z.string(), index)).default([]),
  extensions: z.object({ KHR_draco_mesh_compression: z.object({ bufferView: index, attributes: z.record(z.string(), index) }).optional() }).optional(),
});
const textureSchema = z.object({ index, texCoord: index.optional() });
const materialSchema = z.object({
  name: z.string().default(""),
  pbrMetallicRoughness: z
    .object({ baseColorFactor: z.array(z.number()).length(4).optional(), baseColorTexture: textureSchema.optional(), roughnessFactor: z.number().optional() })
    .optional(),
  doubleSided: z.boolean().default(false),
});
export const meshesSchema = z.object({
  meshes: z.array(z.object({ name: z.string().optional(), primitives: z.array(primitiveSchema), weights: z.array(z.number()).default([]) })).default([]),
  materials: z.array(materialSchema).default([]),
  textures: z.array(z.object({ source: index.optional() })).default([]),
  images: z.array(z.object({ mimeType: z.string().optional(), bufferView: index.optional(), uri: z.string().optional() })).default([]),
});
export type Meshes = z.infer<typeof meshesSchema>;
export type Primitive = z.infer<typeof primitiveSchema>;
