import { Document, WebIO } from "@gltf-transform/core";

/** What an animation of the file that severalTakes makes is. */
export interface MadeTake {
  /** absent: it has none */
  readonly name?: string;
  readonly seconds: number;
  /** degrees that the head is turned by at its end */
  readonly degrees: number;
  /** its moments run backwards, which no reader takes */
  readonly broken?: boolean;
  /** it swings the sign too, which hangs beside the body and is in no skin */
  readonly sign?: boolean;
}

/** A GLB of a small skinned body with several animations, written by another library: 10 keys a second, each turns the head about its own axis at an even speed. */
export async function severalTakes(takes: readonly MadeTake[]): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  const buffer = document.createBuffer();
  const hips = document.createNode("Hips").setTranslation([0, 1, 0]);
  const spine = document.createNode("Spine").setTranslation([0, 0.4, 0]);
  const head = document.createNode("Head").setTranslation([0, 0.3, 0]);
  const sign = document.createNode("Sign").setTranslation([1, 0, 0]);
  hips.addChild(spine);
  spine.addChild(head);
  document.createScene().addChild(hips).addChild(sign);
  const list = (type: "SCALAR" | "VEC3" | "VEC4", array: Float32Array | Uint16Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const skin = document.createSkin().addJoint(hips).addJoint(spine).addJoint(head);
  const corners = list("VEC3", Float32Array.of(-0.2, 0, 0, 0.2, 0, 0, 0, 1.7, 0));
  const surface = document
    .createPrimitive()
    .setAttribute("POSITION", corners)
    .setAttribute("JOINTS_0", list("VEC4", Uint16Array.of(0, 0, 0, 0, 0, 0, 0, 0, 2, 0, 0, 0)))
    .setAttribute("WEIGHTS_0", list("VEC4", Float32Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0)));
  const node = document.createNode("Surface").setMesh(document.createMesh().addPrimitive(surface)).setSkin(skin);
  document.getRoot().listScenes()[0].addChild(node);
  for (const { name, seconds, degrees, broken, sign: swings } of takes) {
    const keys = Math.round(seconds * 10) + 1;
    const times = list(
      "SCALAR",
      Float32Array.from({ length: keys }, (_, k) => (broken ? keys - k : k) / 10),
    );
    const turns = list(
      "VEC4",
      Float32Array.from({ length: keys }, (_, k) => ((degrees * Math.PI) / 360) * (k / (keys - 1))).reduce(
        (all, half, k) => {
          all.set([0, Math.sin(half), 0, Math.cos(half)], k * 4);
          return all;
        },
        new Float32Array(keys * 4),
      ),
    );
    const animation = document.createAnimation(name ?? "");
    for (const moved of swings ? [head, sign] : [head]) {
      const sampler = document.createAnimationSampler().setInput(times).setOutput(turns).setInterpolation("LINEAR");
      animation.addSampler(sampler).addChannel(document.createAnimationChannel().setTargetNode(moved).setTargetPath("rotation").setSampler(sampler));
    }
  }
  return new Uint8Array(await new WebIO().writeBinary(document));
}
