import fc from "fast-check";
import { describe, expect, it } from "vitest";
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

  it("that are none are refused with their line and what came instead", () => {
    for (const word of ["1.2.3", "--4", "5x", "nan", ".", "-", "1e999", "0x10"]) {
      const scan = over(`1\n2\n${word} 4${ROOM}`);
      expect(scan.plainNumbers(new Float64Array(4), 0, 4), word).toBe(2);
      expect(() => scan.number("a height"), word).toThrow(new RegExp(`expected a height, got "${word.replaceAll(".", "\\.")}"`));
    }
  });
});
