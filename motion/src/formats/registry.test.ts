import { describe, expect, it } from "vitest";
import { stick } from "../testing/patched.ts";
import { skatingBody } from "../testing/skatingBody.ts";
import { MotionFormatError } from "./errors.ts";
import { checkHead, clipNameOf, FORMATS, formatToRead, formatToWrite, READ_ENDINGS, readMotion, WRITE_ENDINGS, writeFresh, writeLike } from "./index.ts";

const bytes = (text: string) => new TextEncoder().encode(text);

describe("the formats", () => {
  it("have ids and endings of their own; each can read or write", () => {
    expect(new Set(FORMATS.map((f) => f.id)).size).toBe(FORMATS.length);
    const endings = FORMATS.flatMap((f) => f.endings);
    expect(new Set(endings).size).toBe(endings.length);
    for (const f of FORMATS) {
      expect(f.read ?? f.write, f.id).toBeDefined();
      for (const ending of f.endings) expect(ending).toMatch(/^\.[a-z0-9]+$/);
    }
  });

  it("are found by a name's ending in any case; a name of another says what is read", () => {
    for (const ending of READ_ENDINGS) {
      expect(formatToRead(`WALK${ending.toUpperCase()}`).endings).toContain(ending);
      expect(clipNameOf(`Night walk${ending.toUpperCase()}`)).toBe("Night walk");
    }
    for (const ending of WRITE_ENDINGS) expect(formatToWrite(`out${ending}`)?.endings).toContain(ending);
    expect(formatToWrite("out.mov")).toBeUndefined();
    expect(() => formatToRead("walk.mov")).toThrow(MotionFormatError);
    expect(() => formatToRead("walk.mov")).toThrow(`expected a ${READ_ENDINGS.slice(0, -1).join(", ")} or ${READ_ENDINGS.at(-1)} file`);
    expect(clipNameOf("walk.mov")).toBe("walk.mov");
  });

  it("say what their files leave open: the same file read in another unit, or with another vertical, is another size or another way up", () => {
    const text = bytes(skatingBody());
    const plain = readMotion(text, { fileName: "walk.bvh" });
    const { options } = formatToRead("walk.bvh");
    expect(options).toContain("unitScale");
    const doubled = readMotion(text, { fileName: "walk.bvh", unitScale: plain.unitScale * 2 });
    expect(doubled.skeleton.offsets[4]).toBeCloseTo(2 * plain.skeleton.offsets[4], 9);
    expect(options).toContain("upAxis");
    const lying = readMotion(text, { fileName: "walk.bvh", upAxis: "z" });
    expect(Math.abs(lying.skeleton.offsets[4])).not.toBeCloseTo(Math.abs(plain.skeleton.offsets[4]), 3);
    for (const f of FORMATS) if (!f.read) expect(f.options, f.id).toEqual([]);
  });

  it("refuse from its beginning what cannot be one, and let begin what can", () => {
    expect(() => checkHead(new Uint8Array(4096), "zeros.bvh")).toThrow(/zeros\.bvh:1: .*does not begin like one/);
    expect(() => checkHead(bytes("PK\u0003\u0004 zip"), "zip.bvh")).toThrow(MotionFormatError);
    expect(() => checkHead(bytes("<html>"), "page.bvh")).toThrow(MotionFormatError);
    for (const good of [skatingBody(), `\ufeff${skatingBody()}`, `\r\n\t  ${skatingBody()}`])
      expect(() => checkHead(bytes(good.slice(0, 4096)), "walk.bvh")).not.toThrow();
  });

  it("write a clip back like the file it came from, or fresh where there is none", () => {
    const file = readMotion(bytes(skatingBody()), { fileName: "walk.bvh" });
    const text = [...writeLike(file, file.clip, "out.bvh")].join("");
    const again = readMotion(bytes(text), { fileName: "out.bvh" });
    expect(again.skeleton.names).toEqual(file.skeleton.names);
    expect(again.unitScale).toBe(file.unitScale);
    for (const unitScale of [1, 0.01, 0.0254]) {
      const fresh = readMotion(bytes([...writeFresh(stick.skeleton, stick.clip, unitScale)].join("")), { fileName: "fresh.bvh" });
      expect(fresh.unitScale).toBeCloseTo(unitScale, 9);
      expect(fresh.clip.frameCount).toBe(stick.clip.frameCount);
    }
  });

  it("come in pieces, so that no file is in memory twice", () => {
    const pieces = [...writeLike({ ...stick, upAxis: "y", warnings: [] }, stick.clip, "out.csv")];
    expect(pieces.length).toBeGreaterThan(1);
    const lines = pieces.join("").trim().split(/\r\n/);
    expect(lines).toHaveLength(stick.clip.frameCount + 1);
    expect(lines[0].split(",").slice(0, 3)).toEqual(["frame", "seconds", "Hips.x"]);
  });
});
