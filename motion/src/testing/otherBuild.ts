import { WebIO } from "@gltf-transform/core";

/** A GLB of a body under a node that scales all of it, and the joints whose names match `long` so many times as far from what they hang on. */
export async function otherBuild(bytes: Uint8Array, tall: number, long: RegExp, by: number): Promise<Uint8Array> {
  const io = new WebIO();
  const file = await io.readBinary(bytes);
  const [scene] = file.getRoot().listScenes();
  const armature = file.createNode("armature").setScale([tall, tall, tall]);
  for (const node of scene.listChildren()) armature.addChild(node);
  scene.addChild(armature);
  for (const node of file.getRoot().listNodes())
    if (long.test(node.getName())) node.setTranslation(node.getTranslation().map((v) => v * by) as [number, number, number]);
  return io.writeBinary(file);
}
