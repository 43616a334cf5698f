import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { skatingBody } from "../../testing/skatingBody.ts";
import { MotionFormatError } from "../errors.ts";
import type { ByteSource } from "../format.ts";
import { readBvh } from "./read.ts";
import { Scanner } from "./scanner.ts";

/** Behind the numbers there is room, so that the quick way takes all of them. */
const ROOM = "\n".padEnd(80, " ");
const over = (text: string) => new Scanner(new TextEncoder().encode(text), "numbers.bvh");

const digits = (least: number, most: number) => fc.array(fc.constantFrom(..."0123456789"), { minLength: least, maxLength: most }).map((d) => d.join(""));
/** Digits before and behind the point, at least one in all. */
const plain = fc
  .tuple(fc.constantFrom("", "-"), digits(0, 20), fc.option(digits(0, 20), { nil: undefined }))
  .filter(([, whole, decimals]) => whole.length + (decimals?.length ?? 0) > 0)
  .map(([sign, whole, decimals]) => sign + whole + (decimals === undefined ? "" : `.${decimals}`));

describe("numbers of a file", () => {
  it("are read to the last bit, however many digits they have (property)", () => {
    fc.assert(
      fc.property(fc.array(plain, { minLength: 1, maxLength: 12 }), fc.constantFrom(" ", "\t", "  ", "\r\n", "\n"), (words, between) => {
        const scan = over(words.join(between) + ROOM);
        const read = words.map((word) => scan.number(word));
        expect(read).toEqual(words.map(Number));
      }),
      { numRuns: 300 },
    );
  });

  it("come in one go as long as they are plain, and say on which line the row broke", () => {
    const values = new Float64Array(6);
    const scan = over(`1 -2.5 0.001\n  4 5e1 6${ROOM}`);
    expect(scan.plainNumbers(values, 0, 6)).toBe(4);
    expect([...values]).toEqual([1, -2.5, 0.001, 4, 0, 0]);
    expect(scan.brokeAt).toBe(3);
    expect(scan.line).toBe(2);
    expect(scan.number("the fifth")).toBe(50);
    expect(scan.plainNumbers(values, 5, 6)).toBe(6);
    expect(values[5]).toBe(6);
  });

  it("end a file behind much white space, with nothing after the last digit", () => {
    const scan = over(`1${" ".repeat(200)}234`);
    const values = new Float64Array(2);
    expect(scan.plainNumbers(values, 0, 2)).toBe(1);
    expect(scan.number("the last")).toBe(234);
  });

  it("that are none are refused with their line and what came instead", () => {
    for (const word of ["1.2.3", "--4", "5x", "nan", ".", "-", "1e999", "0x10"]) {
      const scan = over(`1\n2\n${word} 4${ROOM}`);
      expect(scan.plainNumbers(new Float64Array(4), 0, 4), word).toBe(2);
      expect(() => scan.number("a height"), word).toThrow(new RegExp(`expected a height, got "${word.replaceAll(".", "\\.")}"`));
    }
  });
});

/** Bytes that come in pieces of some lengths, in turns. */
function fetched(bytes: Uint8Array, lengths: readonly number[]): ByteSource {
  let at = 0;
  let turn = 0;
  return {
    size: bytes.length,
    read(into) {
      const count = Math.min(into.length, lengths[turn++ % lengths.length], bytes.length - at);
      into.set(bytes.subarray(at, at + count));
      at += count;
      return count;
    },
  };
}

describe("a file that is fetched in pieces", () => {
  const piece = fc.integer({ min: 1, max: 5000 });

  it("shows the same words, numbers and lines as one that is at hand, however it comes (property)", () => {
    // Long enough to need several windows.
    const word = fc.oneof(plain, fc.constantFrom("OFFSET", "{", "}", "JOINT", "a-name"), plain);
    const gap = fc.constantFrom(" ", "\t", "\r\n", "\n", "\r", "   ", "\n\n".padEnd(90));
    fc.assert(
      fc.property(fc.array(fc.tuple(word, gap), { minLength: 1500, maxLength: 3000 }), fc.array(piece, { minLength: 1, maxLength: 5 }), (parts, lengths) => {
        const bytes = new TextEncoder().encode(parts.map((p) => p.join("")).join(""));
        const [whole, window] = [new Scanner(bytes, "a.bvh"), new Scanner(fetched(bytes, lengths), "a.bvh", 1)];
        const one = new Float64Array(1);
        for (;;) {
          // By turns a plain number, a look at what comes, and a word.
          expect(window.plainNumbers(one, 0, 1)).toBe(whole.plainNumbers(one, 0, 1));
          expect(window.peek()).toBe(whole.peek());
          const word = whole.word();
          expect(window.word()).toBe(word);
          expect(window.line).toBe(whole.line);
          expect(window.left).toBe(whole.left);
          if (word === "") break;
        }
      }),
      { numRuns: 12 },
    );
  });

  it("is read to the same motion, over several windows, with either line end", () => {
    for (const text of [skatingBody(8000), skatingBody(8000).replaceAll("\n", "\r\n")]) {
      const bytes = new TextEncoder().encode(text);
      expect(bytes.length).toBeGreaterThan(1.5 * 2 ** 20);
      expect(readBvh(fetched(bytes, [70_001, 3, 1 << 22]), { fileName: "a.bvh" })).toEqual(readBvh(bytes, { fileName: "a.bvh" }));
    }
  });

  it("is refused with the same words and the same line", () => {
    const good = skatingBody(8000).split("\n");
    const at = good.length - 300;
    const broken = [
      good.with(at, good[at].replace(/ \S+$/, " x12")),
      good.with(at, good[at].split(" ").slice(0, -1).join(" ")),
      good.slice(0, at),
      good.with(at, `${good[at]} 1`),
    ].map((lines) => new TextEncoder().encode(lines.join("\n")));
    for (const bytes of broken) {
      const said = (read: () => unknown) => {
        try {
          read();
        } catch (error) {
          if (error instanceof MotionFormatError) return error.message;
          throw error;
        }
        throw new Error("it was taken");
      };
      const message = said(() => readBvh(bytes, { fileName: "a.bvh" }));
      expect(said(() => readBvh(fetched(bytes, [4096]), { fileName: "a.bvh" }))).toBe(message);
    }
  });
});
