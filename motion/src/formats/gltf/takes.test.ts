import { describe, expect, it } from "vitest";
import { readRotation } from "../../clip/clip.ts";
import { quatAngleFlat } from "../../math/quat.ts";
import { severalTakes } from "../../testing/severalTakes.ts";
import { readGltf } from "./read.ts";
import { asGlb, writeIntoOwn } from "./write.ts";

const made = severalTakes([
  { name: "Idle", seconds: 1, degrees: 30 },
  { name: "Idle", seconds: 2, degrees: 60 },
  { seconds: 3, degrees: 90, sign: true },
  { name: "Torn", seconds: 1, degrees: 10, broken: true },
  { name: "animation 3", seconds: 0.5, degrees: 5 },
]);
const TAKES = ["Idle", "Idle (2)", "animation 3 (2)", "Torn", "animation 3"];

/** Degrees that a file's head is turned by at the end of its motion. */
function turned({ skeleton, clip }: ReturnType<typeof readGltf>): number {
  const head = skeleton.names.indexOf("Head");
  const own = new Float64Array(4);
  readRotation(clip, head, clip.frameCount - 1, own, 0);
  return (quatAngleFlat(own, 0, Float64Array.of(0, 0, 0, 1), 0) * 180) / Math.PI;
}

describe("a file of several animations", () => {
  it("names each by a name of its own, and any of them is read by it, on the same body", async () => {
    const bytes = await made;
    const first = readGltf(bytes, { fileName: "kit.glb" });
    expect(first.takes).toEqual(TAKES);
    expect(first.skeleton.names).toEqual(["Hips", "Spine", "Head", "Sign"]);
    const wanted = { Idle: [11, 30], "Idle (2)": [21, 60], "animation 3 (2)": [31, 90], "animation 3": [6, 5] } as const;
    for (const [take, [frames, degrees]] of Object.entries(wanted)) {
      const file = readGltf(bytes, { fileName: "kit.glb", take });
      expect([file.clip.frameCount, file.clip.fps, file.still]).toEqual([frames, 10, false]);
      expect(turned(file)).toBeCloseTo(degrees, 3);
      expect(file.skeleton.names).toEqual(first.skeleton.names);
    }
    expect(turned(first)).toBeCloseTo(30, 3);
    expect(first.warnings.join()).toContain('it holds other animations too, each read by its name: "Idle (2)", "animation 3 (2)", "Torn", "animation 3"');
  });

  it("gives its body at rest where none is asked for; one that is torn stops none but itself", async () => {
    const bytes = await made;
    const rest = readGltf(bytes, { fileName: "kit.glb", take: "" });
    expect([rest.clip.frameCount, rest.still, turned(rest)]).toEqual([1, true, 0]);
    expect(() => readGltf(bytes, { fileName: "kit.glb", take: "Torn" })).toThrow(/kit\.glb.*its times do not grow at key 1/);
    expect(() => readGltf(bytes, { fileName: "kit.glb", take: "Run" })).toThrow('kit.glb: it holds no animation "Run"; there are "Idle", "Idle (2)"');
  });

  it("is written with the one that was read in its own place, and the others as they were", async () => {
    const bytes = await made;
    const second = readGltf(bytes, { fileName: "kit.glb", take: "Idle (2)" });
    const back = asGlb(writeIntoOwn(second.skeleton, readGltf(bytes, { fileName: "kit.glb", take: "Idle" }).clip, second.layout, 1));
    const again = readGltf(back, { fileName: "kit.glb", take: "Idle (2)" });
    expect(again.takes).toEqual(TAKES);
    expect(turned(again)).toBeCloseTo(30, 3);
    expect(turned(readGltf(back, { fileName: "kit.glb" }))).toBeCloseTo(30, 3);
    expect(turned(readGltf(back, { fileName: "kit.glb", take: "animation 3 (2)" }))).toBeCloseTo(90, 3);
    // From the body at rest a motion is put behind them all.
    const rest = readGltf(bytes, { fileName: "kit.glb", take: "" });
    const more = readGltf(asGlb(writeIntoOwn(rest.skeleton, second.clip, rest.layout, 1)), { fileName: "kit.glb" });
    expect(more.takes?.length).toBe(TAKES.length + 1);
    expect(more.takes?.slice(0, 5)).toEqual(TAKES);
  });
});
