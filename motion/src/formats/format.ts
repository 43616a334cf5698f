import type { Character } from "../character/character.ts";
import type { Clip } from "../clip/clip.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import type { TimeWarp } from "../time/warp.ts";

export type UpAxis = "y" | "z";

/** What a person may say of how a file is to be read, where its format leaves it open. */
export type ReadChoice = "unitScale" | "upAxis";

export interface ReadOptions {
  /** shown in error messages, and the clip's name without its ending */
  readonly fileName?: string;
  /** metres per file unit; guessed from the body's size when absent */
  readonly unitScale?: number;
  /** guessed from the body's stance when absent */
  readonly upAxis?: UpAxis;
  /** of a file with several animations the one that is read, as `takes` of what was read names it; the first when absent, none (the body at rest) when empty */
  readonly take?: string;
  /** frames a second, of a file that has keys rather than frames; its own rate when absent */
  readonly fps?: number;
}

/** How a file is to be read, by its name. */
export interface FileReading extends ReadOptions {
  readonly fileName: string;
}

/** How a file is to be read, as it is kept beside it; null: as the file itself suggests. */
export interface KeptReading {
  readonly fileName: string;
  readonly unitScale: number | null;
  readonly upAxis: UpAxis | null;
  readonly take: string | null;
}

/** How to read a file that is kept. */
export function readingOf({ fileName, unitScale, upAxis, take }: KeptReading): FileReading {
  return { fileName, unitScale: unitScale ?? undefined, upAxis: upAxis ?? undefined, take: take ?? undefined };
}

/** The bytes of a file that are fetched as they are needed, so that a long one never lies in memory as a whole. */
export interface ByteSource {
  readonly size: number;
  /** Fills `into` with the bytes that come next and says how many; 0 at the end. */
  read(into: Uint8Array): number;
}

/** A file's bytes, all at hand or fetched. */
export type FileBytes = Uint8Array | ByteSource;

/** A file as it was read: its motion in metres, +Y up, and how it said things, so that it can be written back the same way. */
export interface MotionFile {
  readonly skeleton: Skeleton;
  readonly clip: Clip;
  /** metres per file unit, and the file's vertical */
  readonly unitScale: number;
  readonly upAxis: UpAxis;
  /** what was legal but odd, a sentence each */
  readonly warnings: readonly string[];
  /** its animations, each by a name of its own, where its format can hold several */
  readonly takes?: readonly string[];
  /** the file holds a body without a motion of its own: its clip is one frame of the rest pose */
  readonly still?: boolean;
  /** how the format it came in said things; only that format looks inside */
  readonly layout: unknown;
}

/** A place fixed to a joint, as it is written where a format writes places. */
export interface Marker {
  readonly name: string;
  readonly joint: number;
  /** in the joint's frame, metres */
  readonly local: readonly [number, number, number];
}

/** How far what lies between keys may be off, when keys are thinned: degrees of a joint's own rotation, metres of its place. */
export interface KeyTolerance {
  readonly degrees: number;
  readonly metres: number;
}

/** How a file is to be written, where its format leaves a choice. */
export interface WriteOptions {
  /** fewer keys where those between them say the same; one a frame when absent */
  readonly thin?: KeyTolerance;
  /** the places that are written; every joint when absent */
  readonly markers?: readonly Marker[];
  /** which moment of the motion that was read each moment of the one that is written shows, for what a format keeps beside joints; each its own when absent */
  readonly time?: TimeWarp;
  /** the body, for formats that say which joint is which part */
  readonly character?: Character;
}

/** A file format: what it is called, how its files end, and what can be done with it. */
export interface Format {
  readonly id: string;
  readonly label: string;
  /** with their dot, lower case; the first is written */
  readonly endings: readonly string[];
  /** what its files leave open, so that a person may have to say it */
  readonly options: readonly ReadChoice[];
  /** what such a file begins with; bytes that cannot be one are refused from their first kilobytes */
  begins?(head: Uint8Array): boolean;
  /** Loads what reading these bytes needs, such as decoders; a format without it needs nothing. */
  prepare?(bytes: FileBytes): Promise<void>;
  /** Throws MotionFormatError naming what is wrong and where; never returns a part of a motion. */
  read?(bytes: FileBytes, options: ReadOptions): MotionFile;
  /** Writes a clip, in pieces; as `like` was written where that came in this format. */
  write?(skeleton: Skeleton, clip: Clip, like: MotionFile | null, options?: WriteOptions): Iterable<string | Uint8Array>;
}
