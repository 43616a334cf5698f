import { type Clip, makeClip } from "../../clip/clip.ts";
import { eulerToQuatFlat } from "../../math/euler.ts";
import { dotQuatFlat } from "../../math/quat.ts";
import { guessScaleAndUp } from "../../skeleton/scale.ts";
import type { Skeleton } from "../../skeleton/skeleton.ts";
import { quoted } from "../errors.ts";
import { type RawHierarchy, readHierarchy } from "./hierarchy.ts";
import { type BvhLayout, fromFileAxes, type UpAxis } from "./layout.ts";
import { Scanner } from "./scanner.ts";

export interface BvhReadOptions {
  /** shown in error messages, and the clip's name without its ending */
  readonly fileName?: string;
  /** metres per file unit; guessed from the body's size when absent */
  readonly unitScale?: number;
  /** guessed from the body's stance when absent */
  readonly upAxis?: UpAxis;
}

export interface BvhFile {
  readonly skeleton: Skeleton;
  readonly clip: Clip;
  readonly layout: BvhLayout;
  /** what was legal but odd, a sentence each */
  readonly warnings: readonly string[];
}

const DEGREE = Math.PI / 180;
const ROTATION = 3;

/**
 * Reads a BVH file from its bytes into metres, +Y up. Takes any channel order, position channels on any joint, tabs, CRLF, wrapped
 * frame lines. Throws MotionFormatError naming the line, what was expected and what came; never returns a partial clip.
 */
export function readBvh(bytes: Uint8Array, options: BvhReadOptions = {}): BvhFile {
  const scan = new Scanner(bytes, options.fileName ?? "file");
  const raw = readHierarchy(scan);
  const { frameCount, frameTime, frameTimeText } = readMotionHeader(scan);
  const positionJoints = raw.names.map((_, joint) => joint).filter((joint) => raw.parents[joint] < 0 || raw.channels[joint].some((c) => c.kind === "position"));
  const channelCount = raw.channels.reduce((sum, list) => sum + list.length, 0);
  if (channelCount === 0) throw scan.fail("the hierarchy has no channels, so there is no motion to read");
  // Every number takes a digit and a separator: refuse impossible counts before reserving memory for them.
  if (frameCount * channelCount * 2 - 1 > bytes.length - scan.at) {
    const held = Math.floor((bytes.length - scan.at) / (channelCount * 2));
    throw scan.fail(`Frames: says ${frameCount}, but what follows can hold at most ${held}; the file is cut off or its count is wrong`);
  }
  const fps = roundedRate(1 / frameTime);
  const name = (options.fileName ?? "clip").replace(/^.*[\\/]/, "").replace(/\.bvh$/i, "");
  const clip = makeClip(name, fps, frameCount, raw.names.length, Int16Array.from(positionJoints));
  const warnings = readFrames(scan, raw, clip, channelCount);

  const modes = raw.names.map((_, joint) => positionMode(raw, clip, joint));
  addOffsets(raw, clip, modes);
  const rawSkeleton: Skeleton = {
    names: raw.names,
    parents: Int16Array.from(raw.parents),
    offsets: Float64Array.from(raw.offsets.flat()),
    tips: raw.tips,
  };
  const { upAxis = "y", unitScale = 1 } =
    options.upAxis && options.unitScale !== undefined ? options : { ...guessScaleAndUp(rawSkeleton, clip), ...definedOnly(options) };
  if (!(unitScale > 0 && Number.isFinite(unitScale))) throw scan.fail(`unit scale must be a positive number, not ${unitScale}`, 0);
  for (let i = 0; i < clip.rotations.length; i += 4) fromFileAxes(upAxis, clip.rotations, i);
  for (let i = 0; i < clip.positions.length; i++) clip.positions[i] *= unitScale;
  for (let i = 0; i < clip.positions.length; i += 3) fromFileAxes(upAxis, clip.positions, i);
  const layout: BvhLayout = {
    joints: raw.names.map((_, joint) => ({ channels: raw.channels[joint], offset: raw.offsets[joint], positionMode: modes[joint] })),
    frameTimeText,
    frameTime,
    upAxis,
    unitScale,
  };
  return { skeleton: convertSkeleton(rawSkeleton, unitScale, upAxis), clip, layout, warnings };
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
  const { frameCount, jointCount } = clip;
  const slots = new Int16Array(jointCount).fill(-1);
  clip.positionJoints.forEach((joint, k) => {
    slots[joint] = k;
  });
  const orders = raw.channels.map((list) => list.filter((c) => c.kind === "rotation").map((c) => c.axis));
  // The channels of a frame in file order: joint, and where its number goes (0–2 a position's axis, 3 a rotation).
  const flat = raw.channels.flatMap((list, joint) => list.map((c) => ({ joint, place: c.kind === "position" ? c.axis : ROTATION })));
  const channelJoint = Int16Array.from(flat, (c) => c.joint);
  const channelPlace = Uint8Array.from(flat, (c) => c.place);
  const values = new Float64Array(channelCount);
  const angles = new Float64Array(6);
  const q = new Float64Array(4);
  const k3 = clip.positionJoints.length * 3;
  let oddLine = 0;
  let oddCount = 0;
  for (let f = 0; f < frameCount; f++) {
    if (!scan.skipSpace()) {
      throw oddLine > 0
        ? scan.fail(`expected ${channelCount} numbers in a frame, got ${oddCount} on this line`, oddLine)
        : scan.fail(`Frames: says ${frameCount}, but the file ends after ${f}`);
    }
    let read = 0;
    const line = scan.line;
    while (read < channelCount) {
      read = scan.plainNumbers(values, read, channelCount);
      if (scan.brokeAt >= 0 && oddLine === 0) {
        oddLine = line;
        oddCount = scan.brokeAt;
      }
      if (read === channelCount) break;
      // Not a plain number: the slow reader takes it, or says what is wrong with it.
      if (!scan.skipSpace()) throw scan.fail(`the file ends inside frame ${f}: expected ${channelCount} numbers, got ${read}`);
      if (scan.line !== line && oddLine === 0 && read > 0) {
        oddLine = line;
        oddCount = read;
      }
      values[read] = scan.number(`number ${read + 1} of ${channelCount} in frame ${f}`);
      read++;
    }
    let at = 0;
    for (let j = 0; j < jointCount; j++) {
      let a = 0;
      for (; at < channelCount && channelJoint[at] === j; at++) {
        const place = channelPlace[at];
        if (place === ROTATION) angles[a++] = values[at] * DEGREE;
        else clip.positions[f * k3 + slots[j] * 3 + place] = values[at];
      }
      eulerToQuatFlat(q, 0, orders[j], angles, 0);
      const o = (f * jointCount + j) * 4;
      // Same hemisphere as the frame before, so that whoever filters or averages need not care.
      const sign = f > 0 && dotQuatFlat(q, 0, clip.rotations, o - jointCount * 4) < 0 ? -1 : 1;
      clip.rotations[o] = q[0] * sign;
      clip.rotations[o + 1] = q[1] * sign;
      clip.rotations[o + 2] = q[2] * sign;
      clip.rotations[o + 3] = q[3] * sign;
    }
  }
  for (let i = 0; i < clip.positions.length; i++) {
    if (!Number.isFinite(clip.positions[i])) throw scan.fail("a position is too large to be stored", 0);
  }
  return leftOver(scan, channelCount, frameCount, oddLine, oddCount);
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
  for (let f = 0; f < clip.frameCount; f++) {
    const o = (f * clip.positionJoints.length + k) * 3;
    const [px, py, pz] = [clip.positions[o], clip.positions[o + 1], clip.positions[o + 2]];
    toOffset += Math.hypot(px - x, py - y, pz - z);
    toZero += Math.hypot(px, py, pz);
  }
  return toOffset < toZero ? "replace" : "add";
}

function addOffsets(raw: RawHierarchy, clip: Clip, modes: readonly ("add" | "replace")[]): void {
  const k3 = clip.positionJoints.length * 3;
  clip.positionJoints.forEach((joint, k) => {
    if (modes[joint] !== "add") return;
    const offset = raw.offsets[joint];
    for (let f = 0; f < clip.frameCount; f++) {
      for (let axis = 0; axis < 3; axis++) clip.positions[f * k3 + k * 3 + axis] += offset[axis];
    }
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
  return { names: raw.names, parents: raw.parents, offsets, tips };
}

/** The reading options that were given, so that they win over what was guessed. */
function definedOnly({ unitScale, upAxis }: BvhReadOptions): Pick<BvhReadOptions, "unitScale" | "upAxis"> {
  return { ...(unitScale !== undefined && { unitScale }), ...(upAxis !== undefined && { upAxis }) };
}
