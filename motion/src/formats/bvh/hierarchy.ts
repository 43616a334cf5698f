import { quoted } from "../errors.ts";
import type { Scanner } from "./scanner.ts";

/** The HIERARCHY part as the file has it: file units, file axes. */
export interface RawHierarchy {
  readonly names: string[];
  readonly parents: number[];
  readonly offsets: [number, number, number][];
  readonly channels: { kind: "position" | "rotation"; axis: 0 | 1 | 2 }[][];
  readonly tips: { joint: number; offset: [number, number, number] }[];
}

/** Far above any body; stops files made to exhaust memory. */
const MOST_JOINTS = 4096;
const DEEPEST = 512;

/** Reads from the start of the file to just behind the word MOTION. Iterative, so depth costs no stack. Throws MotionFormatError. */
export function readHierarchy(scan: Scanner): RawHierarchy {
  const raw: RawHierarchy = { names: [], parents: [], offsets: [], channels: [], tips: [] };
  const first = scan.word();
  if (first.toUpperCase() !== "HIERARCHY") throw scan.fail(`expected HIERARCHY at the start of a BVH file, got ${quoted(first)}`);
  /** open blocks: a joint's index, or −1 for an end site */
  const open: number[] = [];
  const hasOffset = new Set<number>();
  const seenChannels = new Set<number>();
  for (;;) {
    const word = scan.word();
    const keyword = word.toUpperCase();
    const joint = open.at(-1);
    if (keyword === "ROOT" || keyword === "JOINT") {
      if ((keyword === "ROOT") !== (open.length === 0)) {
        throw scan.fail(keyword === "ROOT" ? "ROOT inside another joint; expected JOINT" : "JOINT outside a ROOT; expected ROOT or MOTION");
      }
      if (joint === -1) throw scan.fail("JOINT inside an End Site; an end site holds an OFFSET only");
      if (raw.names.length >= MOST_JOINTS) throw scan.fail(`more than ${MOST_JOINTS} joints`);
      if (open.length >= DEEPEST) throw scan.fail(`joints nested more than ${DEEPEST} deep`);
      const line = scan.line;
      const name = scan.restOfLine();
      if (name === "") throw scan.fail(`expected a name after ${keyword}`, line);
      raw.parents.push(joint ?? -1);
      raw.names.push(name.slice(0, 200));
      raw.offsets.push([0, 0, 0]);
      raw.channels.push([]);
      open.push(raw.names.length - 1);
      expectBrace(scan, `${keyword} ${name}`);
    } else if (keyword === "END" || keyword === "ENDSITE") {
      if (joint === undefined || joint < 0) throw scan.fail("End Site outside a joint");
      scan.restOfLine();
      raw.tips.push({ joint, offset: [0, 0, 0] });
      open.push(-1);
      expectBrace(scan, "End Site");
    } else if (keyword === "OFFSET") {
      if (joint === undefined) throw scan.fail("OFFSET outside a joint");
      const offset: [number, number, number] = [offsetNumber(scan, 0), offsetNumber(scan, 1), offsetNumber(scan, 2)];
      if (joint < 0) raw.tips[raw.tips.length - 1].offset = offset;
      else raw.offsets[joint] = offset;
      if (joint >= 0) hasOffset.add(joint);
    } else if (keyword === "CHANNELS") {
      if (joint === undefined || joint < 0) throw scan.fail("CHANNELS outside a joint");
      if (seenChannels.has(joint)) throw scan.fail(`a second CHANNELS line for ${quoted(raw.names[joint])}`);
      seenChannels.add(joint);
      readChannels(scan, raw.channels[joint], raw.names[joint]);
    } else if (keyword === "}") {
      const closed = open.pop();
      if (closed === undefined) throw scan.fail("a closing brace without an opening one");
      if (closed >= 0 && !hasOffset.has(closed)) throw scan.fail(`joint ${quoted(raw.names[closed])} has no OFFSET`);
    } else if (keyword === "MOTION") {
      if (open.length > 0) throw scan.fail(`MOTION inside the hierarchy: ${open.length} closing brace${open.length > 1 ? "s are" : " is"} missing`);
      if (raw.names.length === 0) throw scan.fail("no joints before MOTION");
      return raw;
    } else if (word === "") {
      throw scan.fail("the file ends inside the hierarchy; expected MOTION");
    } else {
      throw scan.fail(`expected JOINT, End Site, OFFSET, CHANNELS, a brace or MOTION, got ${quoted(word)}`);
    }
  }
}

function expectBrace(scan: Scanner, after: string): void {
  const word = scan.word();
  if (word !== "{") throw scan.fail(`expected { after ${quoted(after)}, got ${word === "" ? "the end of the file" : quoted(word)}`);
}

function offsetNumber(scan: Scanner, index: number): number {
  return scan.number(`number ${index + 1} of 3 after OFFSET`);
}

function readChannels(scan: Scanner, channels: RawHierarchy["channels"][number], joint: string): void {
  const count = scan.number("the number of channels");
  if (!(Number.isInteger(count) && count >= 0 && count <= 6)) throw scan.fail(`expected 0 to 6 channels for ${quoted(joint)}, got ${count}`);
  for (let i = 0; i < count; i++) {
    const word = scan.word();
    const match = /^([xyz])(position|rotation)$/i.exec(word);
    if (!match) throw scan.fail(`expected channel ${i + 1} of ${count} such as Xrotation, got ${quoted(word)}`);
    const kind = match[2].toLowerCase() === "position" ? "position" : "rotation";
    const axis = "xyz".indexOf(match[1].toLowerCase()) as 0 | 1 | 2;
    if (channels.some((c) => c.kind === kind && c.axis === axis)) {
      throw scan.fail(`${quoted(joint)} names ${word} twice`);
    }
    channels.push({ kind, axis });
  }
}
