import { Document, WebIO } from "@gltf-transform/core";
import { describe, expect, it } from "vitest";
import { furthest, heightOf, places, played, verdict } from "../../testing/gltfChecks.ts";
import { skatingBody } from "../../testing/skatingBody.ts";
import { readBvh } from "../bvh/read.ts";
import { readGltf } from "./read.ts";
import { asGlb, asText, writeBare, writeIntoOwn } from "./write.ts";

const walk = () => readBvh(new TextEncoder().encode(skatingBody(40)), { fileName: "walk.bvh" });

describe("a skeleton and its motion written as glTF", () => {
  it("is faultless to the format's validator, plays in three.js to the same places, and comes back as it was", async () => {
    const file = walk();
    const glb = asGlb(writeBare(file.skeleton, file.clip));
    const text = new TextEncoder().encode([...asText(writeBare(file.skeleton, file.clip))].join(""));
    const here = places(file);
    const height = heightOf(here);
    for (const bytes of [glb, text]) {
      expect(await verdict(bytes)).toEqual({ errors: 0, warnings: 0, said: [] });
      const back = readGltf(bytes, { fileName: "walk.glb" });
      expect(back.clip).toMatchObject({ fps: file.clip.fps, frameCount: 40 });
      expect(back.skeleton.names).toEqual(file.skeleton.names);
      expect(furthest(here, places(back)) / height).toBeLessThan(1e-5);
    }
    const loaded = await played(glb, file.skeleton.names, file.clip.frameCount, file.clip.fps);
    expect(furthest(here, loaded) / height).toBeLessThan(1e-5);
  });
});

describe("keys of every sort", () => {
  const made = (interpolation: "STEP" | "LINEAR" | "CUBICSPLINE", options: { scale?: number; normalized?: boolean; sparse?: boolean } = {}) => {
    const document = new Document();
    const buffer = document.createBuffer();
    const armature = document
      .createNode("Armature")
      .setScale([options.scale ?? 1, options.scale ?? 1, options.scale ?? 1])
      .setRotation([-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
    const hips = document.createNode("Hips").setTranslation([0, 0, 1]);
    const shell = document.createNode("Between").setTranslation([0, 0, 0.2]);
    const head = document.createNode("Head").setTranslation([0, 0, 0.5]);
    armature.addChild(hips);
    hips.addChild(shell);
    shell.addChild(head);
    document.createScene("Scene").addChild(armature);
    const skin = document.createSkin("Skin").addJoint(hips).addJoint(head);
    skin.setSkeleton(armature);
    const each = interpolation === "CUBICSPLINE" ? 3 : 1;
    const times = document
      .createAccessor()
      .setType("SCALAR")
      .setArray(Float32Array.of(0, 0.5, 1))
      .setBuffer(buffer);
    const half = Math.SQRT1_2;
    const quats = [
      [0, 0, 0, 1],
      [half, 0, 0, half],
      [0, half, 0, half],
    ];
    const key = (q: number[]) => (each === 1 ? q : [...[0, 0, 0, 0], ...q, ...[0, 0, 0, 0]]);
    const numbers = quats.flatMap(key);
    const rotations = document.createAccessor().setType("VEC4").setBuffer(buffer);
    if (options.normalized) rotations.setArray(Int16Array.from(numbers, (v) => Math.round(v * 32767))).setNormalized(true);
    else rotations.setArray(Float32Array.from(numbers));
    const steps = [
      [0, 0, 1],
      [0, 0, 1.2],
      [0.3, 0, 1],
    ].flatMap((p) => (each === 1 ? p : [...[0, 0, 0], ...p, ...[0, 0, 0]]));
    const translations = document
      .createAccessor()
      .setType("VEC3")
      .setArray(Float32Array.from(steps))
      .setBuffer(buffer)
      .setSparse(options.sparse === true);
    const sampler = (output: typeof rotations) => document.createAnimationSampler().setInput(times).setOutput(output).setInterpolation(interpolation);
    const [turn, move] = [sampler(rotations), sampler(translations)];
    document
      .createAnimation("Swing")
      .addSampler(turn)
      .addSampler(move)
      .addChannel(document.createAnimationChannel().setTargetNode(hips).setTargetPath("rotation").setSampler(turn))
      .addChannel(document.createAnimationChannel().setTargetNode(hips).setTargetPath("translation").setSampler(move));
    return new WebIO().writeBinary(document);
  };

  it.each(["STEP", "LINEAR", "CUBICSPLINE"] as const)(
    "%s is sampled to where three.js plays it, through a turned and scaled armature and a node between joints",
    async (interpolation) => {
      for (const options of [{}, { scale: 0.01 }, { normalized: true }, { sparse: true }]) {
        // STEP between keys is read at the frames themselves, where both say the same.
        const bytes = await made(interpolation, options);
        const file = readGltf(bytes, { fileName: "swing.glb", fps: 20, unitScale: 1 });
        expect(file.skeleton.names).toEqual(["Armature", "Hips", "Between", "Head"]);
        expect(file.clip.frameCount).toBe(21);
        const loaded = await played(bytes, file.skeleton.names, 21, 20);
        const here = places(file);
        // three.js interpolates cubic rotations without renewing their length until they are used; here as there the turn is the same.
        expect(furthest(here, loaded) / heightOf(loaded)).toBeLessThan(interpolation === "CUBICSPLINE" ? 2e-5 : 1e-5);
      }
    },
  );

  it("come at the rate of the densest track; another animation is asked for by name", async () => {
    const bytes = await made("LINEAR");
    expect(readGltf(bytes, { fileName: "swing.glb" }).clip).toMatchObject({ fps: 2, frameCount: 3 });
    expect(readGltf(bytes, { fileName: "swing.glb", take: "Swing" }).layout.take).toBe(0);
    expect(() => readGltf(bytes, { fileName: "swing.glb", take: "Run" })).toThrow('swing.glb: it holds no animation "Run"; there is "Swing"');
  });
});

describe("tracks that are no rotation of a joint", () => {
  it("are kept: places of any joint as they are, scales and morph weights in the file that is written; and told", async () => {
    const document = new Document();
    const buffer = document.createBuffer();
    const nodes = ["Hips", "Spine", "Head"].map((name, i) => document.createNode(name).setTranslation([0, i === 0 ? 1 : 0.3, 0]));
    nodes[0].addChild(nodes[1]);
    nodes[1].addChild(nodes[2]);
    document.createScene().addChild(nodes[0]);
    document.createSkin().addJoint(nodes[0]).addJoint(nodes[1]).addJoint(nodes[2]);
    const list = (type: "SCALAR" | "VEC3", values: number[]) => document.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer);
    const times = list("SCALAR", [0, 0.5, 1]);
    const animation = document.createAnimation("Stretch");
    const add = (node: (typeof nodes)[number], path: "translation" | "scale", values: number[]) => {
      const sampler = document.createAnimationSampler().setInput(times).setOutput(list("VEC3", values)).setInterpolation("LINEAR");
      animation.addSampler(sampler).addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
    };
    add(nodes[1], "translation", [0, 0.3, 0, 0, 0.4, 0, 0.1, 0.3, 0]);
    add(nodes[2], "translation", [0, 0.3, 0, 0, 0.3, 0.2, 0, 0.3, 0]);
    add(nodes[2], "scale", [1, 1, 1, 2, 2, 2, 1, 1, 1]);
    const bytes = await new WebIO().writeBinary(document);
    const file = readGltf(bytes, { fileName: "stretch.glb", fps: 10 });
    expect(file.warnings.join("; ")).toMatch(/1 of its tracks scale nodes: kept.*2 of its joints move in their places \("Spine", "Head"\): kept/);
    const at = (frame: number, joint: number) =>
      Array.from(places(file).slice((frame * 3 + joint) * 3, (frame * 3 + joint) * 3 + 3), (v) => Math.round(v * 1e5) / 1e5);
    expect(at(5, 1)).toEqual([0, 1.4, 0]);
    expect(at(5, 2)).toEqual([0, 1.7, 0.2]);
    const out = asGlb(writeIntoOwn(file.skeleton, file.clip, file.layout, file.unitScale));
    const again = await new WebIO().readBinary(out);
    const scales = again
      .getRoot()
      .listAnimations()[0]
      .listChannels()
      .filter((c) => c.getTargetPath() === "scale");
    expect(scales).toHaveLength(1);
    expect([...(scales[0].getSampler()?.getOutput()?.getArray() ?? [])]).toEqual([1, 1, 1, 2, 2, 2, 1, 1, 1]);
    expect(furthest(places(file), places(readGltf(out, { fileName: "stretch.glb" })))).toBeLessThan(1e-5);
    expect(await verdict(out)).toMatchObject({ errors: 0, warnings: 0 });
  });
});

describe("a file that means ill, or is broken", () => {
  const json = (document: unknown) => new TextEncoder().encode(JSON.stringify(document));
  const asset = { version: "2.0" };
  const nodes = [{ name: "Hips", children: [1] }, { name: "Head" }];
  const buffer = (bytes: number[]) => ({
    byteLength: bytes.length,
    uri: `data:application/octet-stream;base64,${(globalThis as unknown as { btoa(text: string): string }).btoa(String.fromCharCode(...bytes))}`,
  });
  const animated = (accessors: unknown[], bytes = 64, more: object = {}) => ({
    asset,
    nodes,
    buffers: [buffer(Array.from({ length: bytes }, () => 0))],
    bufferViews: [{ buffer: 0, byteLength: bytes }],
    accessors,
    animations: [{ samplers: [{ input: 0, output: 1 }], channels: [{ sampler: 0, target: { node: 0, path: "rotation" } }] }],
    ...more,
  });
  const time = { bufferView: 0, componentType: 5126, count: 1, type: "SCALAR" };

  it.each([
    ["cut off", asGlb(writeBare(walk().skeleton, walk().clip)).subarray(0, 5000), /cut off/],
    ["nodes in a ring", json({ asset, nodes: [{ children: [1] }, { children: [0] }] }), /in a ring|under itself/],
    ["a node of two parents", json({ asset, nodes: [{ children: [2] }, { children: [2] }, {}] }), /node 2 has two parents/],
    ["a child that is not there", json({ asset, nodes: [{ children: [7] }] }), /child 7, which is not there/],
    [
      "an accessor out of range",
      json(animated([time, { bufferView: 0, componentType: 5126, count: 9, type: "VEC4" }])),
      /accessor 1: it ends at byte 144 of buffer view 0, which has 64/,
    ],
    [
      "numbers that are none",
      json({
        ...animated([time, { bufferView: 0, componentType: 5126, count: 1, type: "VEC4" }]),
        buffers: [buffer(Array.from({ length: 64 }, (_, i) => (i % 4 > 1 ? 0xff : 0)))],
      }),
      /a number that is none/,
    ],
    ["two gigabytes claimed", json(animated([{ ...time, count: 2_000_000_000 }, time])), /accessor 0: it says that it holds 2000000000 elements/],
    [
      "a buffer of two gigabytes",
      json({ ...animated([time, time]), buffers: [{ byteLength: 2 ** 31, uri: "data:application/octet-stream;base64,AAAA" }] }),
      /says that it is 2147483648 bytes long, but holds 3/,
    ],
    ["a million nodes", json({ asset, nodes: Array.from({ length: 1_000_000 }, () => ({})) }), /it has 1000000 nodes; at most 50000 are read/],
    [
      "a buffer elsewhere",
      json({ ...animated([time, time]), buffers: [{ byteLength: 64, uri: "https://example.invalid/walk.bin" }] }),
      /lies outside the file, at "https:\/\/example.invalid\/walk.bin"/,
    ],
    ["a buffer up the folders", json({ ...animated([time, time]), buffers: [{ byteLength: 64, uri: "../../etc/passwd" }] }), /lies outside the file/],
    ["an extension it cannot do without", json({ asset, nodes, extensionsRequired: ["EXT_secret"] }), /without the extension "EXT_secret"/],
    ["no JSON", new TextEncoder().encode("{ not json"), /no valid JSON/],
    ["version one", json({ asset: { version: "1.0" }, nodes }), /glTF "1.0"; version 2 is read/],
    ["no nodes", json({ asset }), /it has no nodes/],
    ["a negative index", json({ asset, nodes: [{ children: [-1] }] }), /its document is wrong at "nodes.0.children.0"/],
  ])("%s is refused in one line", (_, bytes, reason) => {
    let said = "";
    try {
      readGltf(bytes, { fileName: "ill.glb" });
    } catch (error) {
      said = (error as Error).message;
    }
    expect(said).toMatch(reason);
    expect(said.startsWith("ill.glb: ")).toBe(true);
    expect(said).not.toContain("\n");
  });

  it("names like a prototype's are names", () => {
    const file = readGltf(
      new TextEncoder().encode(
        '{"asset":{"version":"2.0"},"nodes":[{"name":"__proto__","children":[1]},{"name":"constructor"}],"__proto__":{"polluted":true}}',
      ),
      {
        fileName: "names.gltf",
      },
    );
    expect(file.skeleton.names).toEqual(["__proto__", "constructor"]);
    expect(({} as { polluted?: boolean }).polluted).toBeUndefined();
  });
});
