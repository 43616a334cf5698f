import { readFileSync } from "node:fs";
import { join } from "node:path";
import { Logger, NodeIO } from "@gltf-transform/core";
import { EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization } from "@gltf-transform/extensions";
import draco3d from "draco3d";
import { MeshoptDecoder, MeshoptEncoder } from "meshoptimizer";
import { beforeAll, describe, expect, it } from "vitest";
import { skinnedVertices } from "../../motion/src/character/skin.ts";
import { MotionFormatError } from "../../motion/src/formats/errors.ts";
import { makeDecodersReady } from "../../motion/src/formats/gltf/decoders.ts";
import { readGltf } from "../../motion/src/formats/gltf/read.ts";
import { readSkin } from "../../motion/src/formats/gltf/skin.ts";
import { clipWorld } from "../../motion/src/kinematics/forward.ts";

const ina = new Uint8Array(readFileSync(join(import.meta.dirname, "../../demo/bodies/ina.glb")));
let io: NodeIO;
beforeAll(async () => {
  await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]);
  io = new NodeIO()
    .registerExtensions([EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization])
    .registerDependencies({
      "meshopt.decoder": MeshoptDecoder,
      "meshopt.encoder": MeshoptEncoder,
      "draco3d.encoder": await draco3d.createEncoderModule(),
      "draco3d.decoder": await draco3d.createDecoderModule(),
    })
    .setLogger(new Logger(Logger.Verbosity.SILENT));
});

async function compressed(by: "meshopt" | "draco"): Promise<Uint8Array> {
  const document = await io.readBinary(ina);
  if (by === "meshopt")
    document.createExtension(EXTMeshoptCompression).setRequired(true).setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.FILTER });
  else
    document
      .createExtension(KHRDracoMeshCompression)
      .setRequired(true)
      .setEncoderOptions({ method: KHRDracoMeshCompression.EncoderMethod.EDGEBREAKER, quantizationBits: { POSITION: 16, NORMAL: 12 } });
  return io.writeBinary(document);
}

/** Where the surface stands at rest: its box, and the sum of all vertices' places, which no order of vertices changes. */
function restingSurface(bytes: Uint8Array) {
  const file = readGltf(bytes, { fileName: "ina.glb" });
  const skin = readSkin(file, "ina.glb");
  if (!skin) throw new Error("no skin");
  const { positions, rotations } = clipWorld(file.skeleton, file.clip);
  const low = [9, 9, 9];
  const high = [-9, -9, -9];
  const sum = [0, 0, 0];
  let [vertices, triangles] = [0, 0];
  for (const part of skin.parts) {
    vertices += part.positions.length / 3;
    triangles += part.indices.length / 3;
    skinnedVertices(skin, part, positions, rotations).forEach((v, i) => {
      low[i % 3] = Math.min(low[i % 3], v);
      high[i % 3] = Math.max(high[i % 3], v);
      sum[i % 3] += v;
    });
  }
  return { skeleton: file.skeleton, skin, vertices, triangles, low, high, middle: sum.map((v) => v / vertices) };
}

describe("a compressed body", () => {
  it.each(["meshopt", "draco"] as const)("is read as the one that it was made of: %s, as another program's writer has it", async (by) => {
    const bytes = await compressed(by);
    expect(bytes.length).toBeLessThan(0.6 * ina.length);
    await makeDecodersReady(bytes);
    const [is, was] = [restingSurface(bytes), restingSurface(ina)];
    expect(is.skeleton.names).toEqual(was.skeleton.names);
    expect(is.triangles).toBe(was.triangles);
    expect(Math.abs(is.vertices - was.vertices)).toBeLessThan(0.02 * was.vertices);
    for (const [a, b] of [
      [is.low, was.low],
      [is.high, was.high],
      [is.middle, was.middle],
    ])
      for (let c = 0; c < 3; c++) expect(Math.abs(a[c] - b[c])).toBeLessThan(1e-3);
    // Who hangs on what: as many vertices on each joint, by weight.
    const loads = ({ skin, skeleton }: typeof is) => {
      const load = new Float64Array(skeleton.names.length);
      for (const part of skin.parts) part.weights.forEach((w, i) => (load[skin.joints[part.binds[i]]] += w));
      return load;
    };
    const [here, there] = [loads(is), loads(was)];
    for (const [j, load] of there.entries()) expect(Math.abs(here[j] - load)).toBeLessThan(3 + 0.04 * load);
    for (const part of is.skin.parts) for (let o = 0; o < part.normals.length; o += 3) expect(Math.hypot(...part.normals.subarray(o, o + 3))).toBeCloseTo(1, 3);
  });

  it.each(["meshopt", "draco"] as const)("that is spoilt, cut or claims the world is refused in one line: %s", async (by) => {
    const bytes = await compressed(by);
    await makeDecodersReady(bytes);
    const jsonLength = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
    let refused = 0;
    for (let seed = 1; seed <= 60; seed++) {
      const broken = bytes.slice();
      // Bytes of the data changed here and there, as a bad disc or a bad person would.
      for (let k = 0; k < 12; k++) broken[20 + jsonLength + 8 + ((seed * 7919 + k * 104729 * seed) % (broken.length - jsonLength - 28))] ^= 1 << (k % 8);
      try {
        const file = readGltf(broken, { fileName: "ina.glb" });
        readSkin(file, "ina.glb");
      } catch (error) {
        expect(error).toBeInstanceOf(MotionFormatError);
        expect((error as Error).message.split("\n")).toHaveLength(1);
        refused++;
      }
    }
    expect(refused).toBeGreaterThan(0);
  });

  it("that would come to more than is read is refused before it is unpacked", async () => {
    const bytes = await compressed("meshopt");
    const { json } = readGltf(bytes, { fileName: "ina.glb" }).layout.container;
    const text = JSON.stringify(json).replace(/"count":\d+,"byteStride"|"byteStride":(\d+),"count":\d+/g, '"byteStride":$1,"count":900000000');
    expect(text).not.toBe(JSON.stringify(json));
    const jsonLength = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
    const made = new TextEncoder().encode(text.padEnd(Math.ceil(text.length / 4) * 4));
    const bomb = new Uint8Array(20 + made.length + bytes.length - 20 - jsonLength);
    bomb.set(bytes.subarray(0, 20));
    bomb.set(made, 20);
    bomb.set(bytes.subarray(20 + jsonLength), 20 + made.length);
    const view = new DataView(bomb.buffer);
    view.setUint32(8, bomb.length, true);
    view.setUint32(12, made.length, true);
    expect(() => readSkin(readGltf(bomb, { fileName: "bomb.glb" }), "bomb.glb")).toThrow(/bomb\.glb.*more than are read/);
  });

  it("whose meshes claim the world in their own headers is refused in one line, and the next body is read", async () => {
    const bytes = await compressed("draco");
    await makeDecodersReady(bytes);
    const heads = [...Buffer.from(bytes).toString("latin1").matchAll(/DRACO/g)].map((m) => m.index);
    expect(heads.length).toBeGreaterThan(0);
    // Behind magic, version, sort, method and flags (11 bytes) stand, as numbers of seven bits a byte, how many vertices, faces and parts there are.
    const MOST = [0xff, 0xff, 0xff, 0xff, 0x0f];
    const before = process.memoryUsage().rss;
    for (const sequential of [false, true])
      for (let at = 11; at < 26; at++) {
        const bomb = bytes.slice();
        for (const head of heads) {
          if (sequential) bomb[head + 8] = 0;
          bomb.set(MOST, head + at);
        }
        await makeDecodersReady(bomb);
        try {
          readSkin(readGltf(bomb, { fileName: "bomb.glb" }), "bomb.glb");
        } catch (error) {
          expect(error).toBeInstanceOf(MotionFormatError);
          expect((error as Error).message.split("\n")).toHaveLength(1);
        }
        await makeDecodersReady(bytes);
        expect(restingSurface(bytes).triangles).toBe(27_000);
      }
    expect(process.memoryUsage().rss - before).toBeLessThan(1.5e9);
  });
});
