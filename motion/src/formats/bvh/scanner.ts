import { MotionFormatError, quoted } from "../errors.ts";
import type { ByteSource, FileBytes } from "../format.ts";

const POWERS = /*@__PURE__*/ Float64Array.from({ length: 10 }, (_, i) => 10 ** i);
/** Characters as distances from the digit 0. */
const POINT = 46 - 48;
const SPACE = 32 - 48;
/** More bytes than a plain number can take: sign, up to 19 digits, point, up to 19 more. */
const LONGEST_PLAIN = 64;
/** A word longer than this is no keyword, name or number of a motion file. */
const LONGEST_WORD = 4096;

/** Bytes of a fetched file that are looked at together. */
const WINDOW = 1 << 20;
const LEAST_WINDOW = 2 * LONGEST_WORD;

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** Words, lines and numbers from UTF-8 bytes, without making a string per number. Keeps the line number for error messages. Of a file that is fetched it holds a window. */
export class Scanner {
  /** what is at hand, and where in it the scanner stands */
  private bytes: Uint8Array;
  private view: DataView;
  private at = 0;
  line = 1;
  private readonly source: ByteSource | null;
  private readonly buffer: Uint8Array | null;
  private ended: boolean;
  /** where in the window what must not be dropped begins; −1 for where the scanner stands */
  private kept = -1;
  /** bytes of the file behind the window */
  private ahead = 0;

  constructor(
    of: FileBytes,
    readonly fileName: string,
    window = WINDOW,
  ) {
    this.source = of instanceof Uint8Array ? null : of;
    this.buffer = of instanceof Uint8Array ? null : new Uint8Array(Math.max(window, LEAST_WINDOW));
    this.bytes = of instanceof Uint8Array ? of : new Uint8Array(0);
    this.ended = of instanceof Uint8Array;
    this.view = viewOf(this.bytes);
    if (!(of instanceof Uint8Array)) {
      this.ahead = of.size;
      this.more();
    }
    if (this.bytes[0] === 0xef && this.bytes[1] === 0xbb && this.bytes[2] === 0xbf) this.at = 3;
  }

  /** Bytes that are still to come. */
  get left(): number {
    return this.bytes.length - this.at + this.ahead;
  }

  fail(problem: string, line = this.line): MotionFormatError {
    return new MotionFormatError(problem, line, this.fileName);
  }

  /** Drops what has been read and fetches more; false where nothing more comes. */
  private more(): boolean {
    const { source, buffer } = this;
    if (this.ended || !source || !buffer) return false;
    const from = this.kept >= 0 ? this.kept : this.at;
    const held = this.bytes.length - from;
    buffer.copyWithin(0, from, this.bytes.length);
    let length = held;
    while (length < buffer.length) {
      const got = source.read(buffer.subarray(length));
      if (got === 0) {
        this.ended = true;
        break;
      }
      length += got;
    }
    this.ahead = this.ended ? 0 : Math.max(0, this.ahead - (length - held));
    this.bytes = buffer.subarray(0, length);
    this.view = viewOf(this.bytes);
    this.at -= from;
    if (this.kept >= 0) this.kept = 0;
    return length > held;
  }

  /** Has so many bytes at hand, as far as the file has them. */
  private need(count: number): void {
    if (this.bytes.length - this.at < count && !this.ended) this.more();
  }

  /** Moves to the next byte that is not white space; false at the end of the file. Counts \n, \r\n and lone \r as line ends. */
  skipSpace(): boolean {
    for (;;) {
      const { bytes } = this;
      const end = bytes.length;
      let at = this.at;
      while (at < end) {
        const c = bytes[at];
        if (c === 10) this.line++;
        else if (c === 13) {
          // Whether a line feed follows has to be seen.
          if (at + 1 === end && !this.ended) break;
          if (bytes[at + 1] !== 10) this.line++;
        } else if (c !== 32 && c !== 9 && c !== 11 && c !== 12) break;
        at++;
      }
      this.at = at;
      if (at < end && !(bytes[at] === 13 && !this.ended)) return true;
      if (!this.more() && this.at >= this.bytes.length) return false;
    }
  }

  /** The next word, or "" at the end of the file. Braces are words of their own. */
  word(): string {
    if (!this.skipSpace()) return "";
    this.need(LONGEST_WORD + 2);
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
    const { line } = this;
    this.kept = this.at;
    const word = this.word();
    this.at = this.kept;
    this.kept = -1;
    this.line = line;
    return word;
  }

  /** What is left of the current line, trimmed. An opening brace ends it. */
  restOfLine(): string {
    this.need(LONGEST_WORD + 2);
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

  private readonly one = new Float64Array(1);

  /** The next number if it is a plain one; NaN otherwise, with nothing read. */
  private plainNumber(): number {
    return this.plainNumbers(this.one, 0, 1) === 1 ? this.one[0] : Number.NaN;
  }

  /** Index of the first number that `plainNumbers` found on a later line than where it began, or −1. */
  brokeAt = -1;

  /**
   * Reads plain numbers into dst[from..to) until one is not plain or the last bytes of the file are near; returns the index behind the
   * last one read. The hot path of reading frames: everything is kept in locals, and digits are gathered as small integers, up to nine on
   * either side of the point and fifteen in all, so that value = (whole · 10ⁿ + decimals) / 10ⁿ is one exact division, rounded once.
   */
  plainNumbers(dst: Float64Array, from: number, to: number): number {
    this.brokeAt = -1;
    let index = from;
    for (;;) {
      index = this.plainRun(dst, index, to, from);
      // Stopped by the end of the window, not by what came: there is more.
      if (index === to || this.bytes.length - this.at > LONGEST_PLAIN || !this.more()) return index;
    }
  }

  private plainRun(dst: Float64Array, begin: number, to: number, from: number): number {
    const { bytes, view } = this;
    // Nothing needs to look for the end of what is at hand while a plain number fits before it.
    const safe = bytes.length - LONGEST_PLAIN;
    let at = this.at;
    let line = this.line;
    let index = begin;
    for (; index < to && at < safe; index++) {
      let p = at;
      let c = bytes[p];
      let lines = 0;
      while (c <= 32) {
        if (c !== 32) {
          if (c === 10) lines++;
          else if (c !== 9 && !(c === 13 && bytes[p + 1] === 10)) break;
        }
        c = bytes[++p];
      }
      // Behind much white space the end may be nearer than it was.
      if (p >= safe) break;
      // 1 at a minus sign, 0 elsewhere: signs come as they like, and a branch would be guessed wrong.
      const minus = ((c ^ 45) - 1) >>> 31;
      p += minus;
      // As most are written: up to three digits, a point, and four decimals or six; whole words of bytes at once.
      const word = view.getInt32(p, true);
      const bits = bitsBeforePoint(word);
      const wholes = (word ^ 0x30303030) << (32 - bits);
      const point = p + (bits >>> 3);
      const decimals = view.getInt32(point + 1, true) ^ 0x30303030;
      let value = 0;
      let end = 0;
      if (bits > 0 && (notDigits(wholes) | notDigits(decimals)) === 0) {
        const digits = Math.imul(fourDigits(wholes), 10000) + fourDigits(decimals);
        const fifth = bytes[point + 5] - 48;
        const sixth = bytes[point + 6] - 48;
        if (fifth <= SPACE) {
          value = digits / 10000;
          end = point + 5;
        } else if (fifth >>> 0 < 10 && sixth >>> 0 < 10 && bytes[point + 7] <= 32) {
          value = (Math.imul(digits, 100) + Math.imul(fifth, 10) + sixth) / 1000000;
          end = point + 7;
        }
      }
      if (end === 0) {
        let whole = 0;
        c = bytes[p] - 48;
        end = p;
        while (c >>> 0 < 10) {
          whole = (Math.imul(whole, 10) + c) | 0;
          c = bytes[++end] - 48;
        }
        const before = end - p;
        let places = 0;
        value = whole;
        if (c === POINT) {
          let rest = 0;
          const first = ++end;
          c = bytes[end] - 48;
          while (c >>> 0 < 10) {
            rest = (Math.imul(rest, 10) + c) | 0;
            c = bytes[++end] - 48;
          }
          places = end - first;
          value = (whole * POWERS[places] + rest) / POWERS[places];
        }
        // c is what follows the number: white space, or the number is not plain.
        const digits = before + places;
        if (c > SPACE || digits === 0 || (digits > 9 && (digits > 15 || before > 9 || places > 9))) break;
      }
      dst[index] = (1 - 2 * minus) * value;
      if (lines > 0) {
        line += lines;
        if (index > from && this.brokeAt < 0) this.brokeAt = index;
      }
      at = end;
    }
    this.at = at;
    this.line = line;
    return index;
  }
}

/** Marks in the four bytes of a word, each less the code of a zero, that are no digits: a digit is under 128 still with 118 added, and without. */
function notDigits(word: number): number {
  return ((word + 0x76767676) | word) & 0x80808080;
}

/** The number that four digits in a word make, the first of them in its lowest byte: added up in pairs, then the pairs. */
function fourDigits(word: number): number {
  return Math.imul((Math.imul(word, 2561) >>> 8) & 0x00ff00ff, 6553601) >>> 16;
}

/** Bits of a word before the first point in it; 0 where there is none, or nothing before it. */
function bitsBeforePoint(word: number): number {
  const other = word ^ 0x2e2e2e2e;
  const marks = (other - 0x01010101) & ~other & 0x80808080;
  return marks === 0 ? 0 : 24 - Math.clz32(marks & -marks);
}

function decode(bytes: Uint8Array, start: number, end: number): string {
  return new TextDecoder().decode(bytes.subarray(start, end));
}
