import { Document, WebIO } from "@gltf-transform/core";

/** A GLB by another library, of a body whose head turns, grows, and has a face of four targets, at rest as `rest` weighs them: keys at begin, begin + 1 and begin + 2 seconds, each track's values 0, 1, 0 of what it does. */
export async function face(begin: number, interpolation: "LINEAR" | "STEP" = "LINEAR", { grows = true, rest = [0, 0, 0, 0] } = {}): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const list = (type: "SCALAR" | "VEC3" | "VEC4", values: number[]) =>
    document.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer);
  const corners = [0, 0, 0, 0.1, 0, 0, 0, 0.1, 0];
  const surface = document.createPrimitive().setAttribute("POSITION", list("VEC3", corners));
  for (let t = 0; t < 4; t++)
    surface.addTarget(
      document.createPrimitiveTarget().setAttribute(
        "POSITION",
        list(
          "VEC3",
          corners.map((v) => v * (t + 1)),
        ),
      ),
    );
  const head = document.createNode("Head").setTranslation([0, 0.5, 0]).setMesh(document.createMesh().addPrimitive(surface).setWeights(rest));
  const hips = document.createNode("Hips").setTranslation([0, 1, 0]).addChild(head);
  document.createScene().addChild(hips);
  const times = list(
    "SCALAR",
    [0, 1, 2].map((t) => begin + t),
  );
  const animation = document.createAnimation("Talk");
  const half = Math.SQRT1_2;
  const add = (path: "rotation" | "scale" | "weights", output: ReturnType<typeof list>) => {
    const sampler = document.createAnimationSampler().setInput(times).setOutput(output).setInterpolation(interpolation);
    animation.addSampler(sampler).addChannel(document.createAnimationChannel().setTargetNode(head).setTargetPath(path).setSampler(sampler));
  };
  add("rotation", list("VEC4", [0, 0, 0, 1, 0, half, 0, half, 0, 0, 0, 1]));
  if (grows) add("scale", list("VEC3", [1, 1, 1, 2, 2, 2, 1, 1, 1]));
  add("weights", list("SCALAR", [0, 0, 0, 0, 1, 0.5, 0.25, 0.1, 0, 0, 0, 0]));
  return new WebIO().writeBinary(document);
}
