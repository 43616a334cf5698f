import { guessScaleAndUp } from "../../character/scale.ts";
import { CHUNK_FRAMES, CHUNK_MASK, CHUNK_SHIFT, type Clip, ClipDraft } from "../../clip/clip.ts";
import { eulerRunToQuats } from "../../math/euler.ts";
import { identityRest, type Skeleton } from "../../skeleton/skeleton.ts";
import { quoted } from "../errors.ts";
import type { FileBytes, MotionFile, ReadOptions, UpAxis } from "../format.ts";
import { type RawHierarchy, readHierarchy } from "./hierarchy.ts";
import { type BvhLayout, fromFileAxes } from "./layout.ts";
import { Scanner } from "./scanner.ts";

/** A BVH file as it was read, with how it said things. */
export interface BvhFile extends MotionFile {
  readonly layout: BvhLayout;
}

const NOTHING_BEFORE = new Float32Array(4);
/**
 * Reads a BVH file from its bytes, at hand or fetched, into metres, +Y up. Takes any channel order, position channels on any joint, tabs, CRLF, wrapped
 * frame lines. Throws MotionFormatError naming the line, what was expected and what came; never returns a partial clip.
 */
export function readBvh(bytes: FileBytes, options: ReadOptions = {}): BvhFile {
  const scan = new Scanner(bytes, options.fileName ?? "file");
  const raw = readHierarchy(scan);
  const { frameCount, frameTime, frameTimeText } = readMotionHeader(scan);
  const positionJoints = raw.names.map((_, joint) => joint).filter((joint) => raw.parents[joint] < 0 || raw.channels[joint].some((c) => c.kind === "position"));
  const channelCount = raw.channels.reduce((sum, list) => sum + list.length, 0);
  if (channelCount === 0) throw scan.fail("the hierarchy has no channels, so there is no motion to read");
  // Every number takes a digit and a separator: refuse impossible counts before reserving memory for them.
  if (frameCount * channelCount * 2 - 1 > scan.left) {
    const held = Math.floor(scan.left / (channelCount * 2));
    throw scan.fail(`Frames: says ${frameCount}, but what follows can hold at most ${held}; the file is cut off or its count is wrong`);
  }
  const fps = roundedRate(1 / frameTime);
  const name = (options.fileName ?? "clip").replace(/^.*[\\/]/, "").replace(/\.bvh$/i, "");
  const { clip } = ClipDraft.make(name, fps, frameCount, raw.names.length, Int16Array.from(positionJoints));
  const warnings = readFrames(scan, raw, clip, channelCount);

  const modes = raw.names.map((_, joint) => positionMode(raw, clip, joint));
  addOffsets(raw, clip, modes);
  const rawSkeleton: Skeleton = {
    names: raw.names,
    parents: Int16Array.from(raw.parents),
    offsets: Float64Array.from(raw.offsets.flat()),
    restRotations: identityRest(raw.names.length),
    tips: raw.tips,
  };
  const { upAxis = "y", unitScale = 1 } =
    options.upAxis && options.unitScale !== undefined ? options : { ...guessScaleAndUp(rawSkeleton, clip), ...definedOnly(options) };
  if (!(unitScale > 0 && Number.isFinite(unitScale))) throw scan.fail(`unit scale must be a positive number, not ${unitScale}`, 0);
  if (upAxis !== "y") for (const track of clip.rotations) for (const chunk of track) for (let i = 0; i < chunk.length; i += 4) fromFileAxes(upAxis, chunk, i);
  for (const track of clip.positions) {
    for (const chunk of track) {
      for (let i = 0; i < chunk.length; i++) chunk[i] *= unitScale;
      for (let i = 0; i < chunk.length; i += 3) fromFileAxes(upAxis, chunk, i);
    }
  }
  const layout: BvhLayout = {
    format: "bvh",
    joints: raw.names.map((_, joint) => ({ channels: raw.channels[joint], offset: raw.offsets[joint], positionMode: modes[joint] })),
    frameTimeText,
    frameTime,
    upAxis,
    unitScale,
  };
  return { skeleton: convertSkeleton(rawSkeleton, unitScale, upAxis), clip, unitScale, upAxis, layout, warnings };
}

function readMotionHeader(scan: Scanner): { frameCount: number; frameTime: number; frameTimeText: string } {
  expectWord(scan, "frames");
  const frameCount = scan.number("the number of frames");
  if (!(Number.isInteger(frameCount) && frameCount > 0)) throw scan.fail(`expected a positive whole number of frames, got ${frameCount}`);
  expectWord(scan, "frame");
  expectWord(scan, "time");
  scan.skipSpace();
  const frameTimeText = scan.peek();
  const frameTime = scan.number("the frame time in seconds");
  if (!(frameTime >= 1e-5 && frameTime <= 10)) throw scan.fail(`expected a frame time between 0.00001 and 10 seconds, got ${frameTime}`);
  return { frameCount, frameTime, frameTimeText };
}

/** Takes the keyword with or without its colon, attached or apart. */
function expectWord(scan: Scanner, keyword: string): void {
  const word = scan.word();
  const label = keyword === "frames" ? "Frames:" : "Frame Time:";
  if (word.toLowerCase().replace(/:$/, "") !== keyword) {
    throw scan.fail(`expected ${label}, got ${word === "" ? "the end of the file" : quoted(word)}`);
  }
  if (scan.peek() === ":") scan.word();
}

/** 1 / .0083333 is 120.0005; a rate this near a whole number is meant to be it. */
function roundedRate(fps: number): number {
  const whole = Math.round(fps);
  return whole > 0 && Math.abs(fps - whole) < 3e-4 * fps ? whole : fps;
}

function readFrames(scan: Scanner, raw: RawHierarchy, clip: Clip, channelCount: number): string[] {
  const { frameCount } = clip;
  const store = chunkStore(raw, clip, channelCount);
  // The numbers of as many frames as a chunk holds, in file order: [frame][channel].
  const values = new Float64Array(CHUNK_FRAMES * channelCount);
  let oddLine = 0;
  let oddCount = 0;
  for (let f = 0; f < frameCount; f++) {
    if (!scan.skipSpace()) {
      throw oddLine > 0
        ? scan.fail(`expected ${channelCount} numbers in a frame, got ${oddCount} on this line`, oddLine)
        : scan.fail(`Frames: says ${frameCount}, but the file ends after ${f}`);
    }
    const begin = (f & CHUNK_MASK) * channelCount;
    const end = begin + channelCount;
    const line = scan.line;
    let read = begin;
    while (read < end) {
      read = scan.plainNumbers(values, read, end);
      if (scan.brokeAt >= 0 && oddLine === 0) {
        oddLine = line;
        oddCount = scan.brokeAt - begin;
      }
      if (read === end) break;
      // Not a plain number: the slow reader takes it, or says what is wrong with it.
      if (!scan.skipSpace()) throw scan.fail(`the file ends inside frame ${f}: expected ${channelCount} numbers, got ${read - begin}`);
      if (scan.line !== line && oddLine === 0 && read > begin) {
        oddLine = line;
        oddCount = read - begin;
      }
      values[read] = scan.number(`number ${read - begin + 1} of ${channelCount} in frame ${f}`);
      read++;
    }
    if ((f & CHUNK_MASK) === CHUNK_MASK || f === frameCount - 1) store(values, f >> CHUNK_SHIFT, (f & CHUNK_MASK) + 1);
  }
  if (!clip.positions.every((track) => track.every((chunk) => chunk.every(Number.isFinite)))) throw scan.fail("a position is too large to be stored", 0);
  return leftOver(scan, channelCount, frameCount, oddLine, oddCount);
}

/** Writes the channels of a chunk's frames to the clip's tracks, a joint at a time. */
function chunkStore(raw: RawHierarchy, clip: Clip, channelCount: number): (values: Float64Array, chunkIndex: number, frames: number) => void {
  let first = 0;
  const joints = raw.channels.map((list, joint) => {
    const at = first;
    first += list.length;
    const numbered = list.map((c, i) => ({ ...c, channel: at + i }));
    const turns = numbered.filter((c) => c.kind === "rotation");
    return {
      slot: clip.positionJoints.indexOf(joint),
      run: { order: turns.map((c) => c.axis), columns: Int32Array.from(turns, (c) => c.channel), stride: channelCount },
      places: numbered.filter((c) => c.kind === "position"),
    };
  });
  return (values, chunkIndex, frames) => {
    joints.forEach(({ slot, run, places }, joint) => {
      for (const { axis, channel } of places) {
        const chunk = clip.positions[slot][chunkIndex];
        for (let f = 0; f < frames; f++) chunk[f * 3 + axis] = values[f * channelCount + channel];
      }
      // Same hemisphere as the frame before, so that whoever filters or averages need not care.
      const before = chunkIndex > 0 ? clip.rotations[joint][chunkIndex - 1] : NOTHING_BEFORE;
      eulerRunToQuats(clip.rotations[joint][chunkIndex], run, values, frames, before, before.length - 4);
    });
  };
}

/** Whole frames beyond the stated count are legal and left out, with a warning; anything else behind the last frame is refused. */
function leftOver(scan: Scanner, channelCount: number, frameCount: number, oddLine: number, oddCount: number): string[] {
  let numbers = 0;
  while (scan.skipSpace()) {
    if (oddLine > 0) throw scan.fail(`expected ${channelCount} numbers in a frame, got ${oddCount} on this line`, oddLine);
    scan.number("a number or the end of the file");
    numbers++;
  }
  if (numbers % channelCount !== 0)
    throw scan.fail(`${numbers} numbers follow the last of ${frameCount} frames, which is no whole number of frames of ${channelCount}`);
  const extra = numbers / channelCount;
  return extra > 0
    ? [`Frames: says ${frameCount}, but the file holds ${frameCount + extra}; the last ${extra === 1 ? "one was" : `${extra} were`} left out`]
    : [];
}

/**
 * BVH writers disagree on whether a joint's position channels include its OFFSET. The root's are added to it (as three.js reads them);
 * for other joints the data tell: values that lie nearer to the OFFSET than to zero stand for the whole position.
 */
function positionMode(raw: RawHierarchy, clip: Clip, joint: number): "add" | "replace" {
  const k = clip.positionJoints.indexOf(joint);
  if (k < 0 || raw.parents[joint] < 0) return "add";
  const [x, y, z] = raw.offsets[joint];
  let toOffset = 0;
  let toZero = 0;
  for (const chunk of clip.positions[k]) {
    for (let o = 0; o < chunk.length; o += 3) {
      const [px, py, pz] = [chunk[o], chunk[o + 1], chunk[o + 2]];
      toOffset += Math.hypot(px - x, py - y, pz - z);
      toZero += Math.hypot(px, py, pz);
    }
  }
  return toOffset < toZero ? "replace" : "add";
}

function addOffsets(raw: RawHierarchy, clip: Clip, modes: readonly ("add" | "replace")[]): void {
  clip.positionJoints.forEach((joint, k) => {
    if (modes[joint] !== "add") return;
    const offset = raw.offsets[joint];
    for (const chunk of clip.positions[k]) for (let i = 0; i < chunk.length; i++) chunk[i] += offset[i % 3];
  });
}

function convertSkeleton(raw: Skeleton, unitScale: number, upAxis: UpAxis): Skeleton {
  const offsets = raw.offsets.map((v) => v * unitScale);
  for (let i = 0; i < offsets.length; i += 3) fromFileAxes(upAxis, offsets, i);
  const tips = raw.tips.map(({ joint, offset }) => {
    const v = Float64Array.from(offset, (x) => x * unitScale);
    fromFileAxes(upAxis, v, 0);
    return { joint, offset: [v[0], v[1], v[2]] as const };
  });
  return { ...raw, offsets, tips };
}

/** The reading options that were given, so that they win over what was guessed. */
function definedOnly({ unitScale, upAxis }: ReadOptions): Pick<ReadOptions, "unitScale" | "upAxis"> {
  return { ...(unitScale !== undefined && { unitScale }), ...(upAxis !== undefined && { upAxis }) };
}
