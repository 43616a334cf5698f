import type { SkinMaterial } from "../../character/skin.ts";
import type { GltfContainer } from "./container.ts";
import type { Meshes } from "./meshes.ts";

const PICTURES = /^image\/(png|jpeg|webp)$/;

/** How a primitive looks, as far as it is drawn; a plain white where it says nothing. */
export function materialOf(container: GltfContainer, { materials, textures, images }: Meshes, at: number | undefined): SkinMaterial {
  const material = at === undefined ? undefined : materials[at];
  const pbr = material?.pbrMetallicRoughness;
  const [r, g, b, a] = pbr?.baseColorFactor ?? [1, 1, 1, 1];
  const image = pbr?.baseColorTexture && images[textures[pbr.baseColorTexture.index]?.source ?? -1];
  return {
    name: material?.name ?? "",
    colour: [r, g, b, a],
    doubleSided: material?.doubleSided ?? false,
    roughness: pbr?.roughnessFactor ?? 1,
    picture: image ? pictureOf(container, image) : null,
  };
}

function pictureOf({ doc, buffers }: GltfContainer, image: Meshes["images"][number]): SkinMaterial["picture"] {
  if (image.bufferView === undefined || !image.mimeType || !PICTURES.test(image.mimeType)) return null;
  const view = doc.bufferViews[image.bufferView];
  const buffer = view && buffers[view.buffer];
  if (!buffer || view.byteOffset + view.byteLength > buffer.length) return null;
  return { mime: image.mimeType, bytes: buffer.slice(view.byteOffset, view.byteOffset + view.byteLength) };
}
