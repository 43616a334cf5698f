import { MotionFormatError, quoted } from "../errors.ts";

const _powers = /*@__PURE__*/ Float64Array.from({ length: 23 }, (_, i) => 10 ** i);
/** A word longer than this is no keyword, name or number of a motion file. */
const LONGEST_WORD = 4096;

/** Words, lines and numbers from UTF-8 bytes, without making a string per number. Keeps the line number for error messages. */
export class Scanner {
  at = 0;
  line = 1;

  constructor(
    readonly bytes: Uint8Array,
    readonly fileName: string,
  ) {
    if (bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf) this.at = 3;
  }

  fail(problem: string, line = this.line): MotionFormatError {
    return new MotionFormatError(problem, line, this.fileName);
  }

  /** Moves to the next byte that is not white space; false at the end of the file. Counts \n, \r\n and lone \r as line ends. */
  skipSpace(): boolean {
    const { bytes } = this;
    const end = bytes.length;
    let at = this.at;
    while (at < end) {
      const c = bytes[at];
      if (c === 10) this.line++;
      else if (c === 13) {
        if (bytes[at + 1] !== 10) this.line++;
      } else if (c !== 32 && c !== 9 && c !== 11 && c !== 12) break;
      at++;
    }
    this.at = at;
    return at < end;
  }

  /** The next word, or "" at the end of the file. Braces are words of their own. */
  word(): string {
    if (!this.skipSpace()) return "";
    const { bytes } = this;
    const start = this.at;
    let at = start;
    if (bytes[at] === 123 || bytes[at] === 125) at++;
    else while (at < bytes.length && bytes[at] > 32 && bytes[at] !== 123 && bytes[at] !== 125) at++;
    if (at - start > LONGEST_WORD) throw this.fail(`a word of ${at - start} characters; expected a keyword, a name or a number`);
    this.at = at;
    return decode(bytes, start, at);
  }

  /** The word that comes next, left unread. */
  peek(): string {
    const { at, line } = this;
    const word = this.word();
    this.at = at;
    this.line = line;
    return word;
  }

  /** What is left of the current line, trimmed. An opening brace ends it. */
  restOfLine(): string {
    const { bytes } = this;
    const start = this.at;
    let at = start;
    while (at < bytes.length && bytes[at] !== 10 && bytes[at] !== 13 && bytes[at] !== 123) at++;
    if (at - start > LONGEST_WORD) throw this.fail(`a line of ${at - start} characters; expected a name`);
    this.at = at;
    return decode(bytes, start, at).trim();
  }

  /** The next number. Exact to the last bit for up to 15 digits with a small exponent, by way of Number() otherwise. */
  number(expected: string): number {
    const value = this.plainNumber();
    if (!Number.isNaN(value)) return value;
    if (!this.skipSpace()) throw this.fail(`the file ends here; expected ${expected}`);
    const word = this.word();
    const slow = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(word) ? Number(word) : Number.NaN;
    if (!Number.isFinite(slow)) throw this.fail(`expected ${expected}, got ${quoted(word)}`);
    return slow;
  }

  /** The next number if it is a plain one (the hot path of reading frames); NaN otherwise, with nothing read. */
  plainNumber(): number {
    const bytes = this.bytes;
    const end = bytes.length;
    let at = this.at;
    // Blanks first; anything rarer than spaces, tabs and line ends goes the slow way.
    while (at < end) {
      const c = bytes[at];
      if (c === 32 || c === 9) at++;
      else if (c === 10) {
        this.line++;
        this.at = ++at;
      } else if (c === 13 && bytes[at + 1] === 10) at++;
      else break;
    }
    if (at >= end) return Number.NaN;
    const first = bytes[at];
    const negative = first === 45;
    if (negative || first === 43) at++;
    let mantissa = 0;
    let digits = 0;
    let decimals = 0;
    // Up to nine digits stay in a small integer; the rest is rare.
    while (at < end) {
      const c = bytes[at] - 48;
      if (c < 0 || c > 9) break;
      mantissa = mantissa * 10 + c;
      digits++;
      at++;
    }
    if (at < end && bytes[at] === 46) {
      const point = ++at;
      while (at < end) {
        const c = bytes[at] - 48;
        if (c < 0 || c > 9) break;
        mantissa = mantissa * 10 + c;
        at++;
      }
      decimals = at - point;
      digits += decimals;
    }
    if (digits === 0 || digits > 15 || (at < end && bytes[at] > 32)) return Number.NaN;
    this.at = at;
    const value = mantissa / _powers[decimals];
    return negative ? -value : value;
  }
}

function decode(bytes: Uint8Array, start: number, end: number): string {
  return new TextDecoder().decode(bytes.subarray(start, end));
}
