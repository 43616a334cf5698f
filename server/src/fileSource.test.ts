import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { readMotion } from "@stride/motion";
import { afterAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import { fileSource, withFile } from "./fileSource.ts";

const folder = mkdtempSync(join(tmpdir(), "stride-source-"));
afterAll(() => rmSync(folder, { recursive: true }));
const path = join(folder, "walk.bvh");
const text = skatingBody(200);
writeFileSync(path, text);

describe("a file as a source of bytes", () => {
  it("has its size and gives its bytes one after the other, then none", () => {
    const source = fileSource(path);
    expect(source.size).toBe(text.length);
    const into = new Uint8Array(1000);
    let read = "";
    for (;;) {
      const count = source.read(into);
      if (count === 0) break;
      read += new TextDecoder().decode(into.subarray(0, count));
    }
    expect(read).toBe(text);
    expect(source.read(into)).toBe(0);
    source.close();
    expect(() => source.read(into)).toThrow(/EBADF/);
  });

  it("is read to the same motion as its bytes at hand, and closed even where that fails", () => {
    const options = { fileName: "walk.bvh" };
    expect(withFile(path, (source) => readMotion(source, options))).toEqual(readMotion(new TextEncoder().encode(text), options));
    let kept: { read(into: Uint8Array): number } | undefined;
    expect(() =>
      withFile(path, (source) => {
        kept = source;
        throw new Error("no good");
      }),
    ).toThrow("no good");
    expect(() => kept?.read(new Uint8Array(1))).toThrow(/EBADF/);
    expect(() => fileSource(join(folder, "missing.bvh"))).toThrow(/ENOENT/);
  });
});
