import {
  atRate,
  type CharacterNotes,
  cropWarp,
  Evaluator,
  emptyWork,
  type FileReading,
  figureClip,
  findingsOf,
  formatToWrite,
  type JointNames,
  type KeyTolerance,
  type Motion,
  type MotionFile,
  markersOf,
  measure,
  oneSource,
  PatchError,
  readMotion,
  renamed,
  type SourceRef,
  type Supplied,
  SuppliedSources,
  sourceOf,
  type Totals,
  throughWarp,
  totalsOf,
  type Work,
  WRITE_ENDINGS,
  writeLike,
} from "@stride/motion";

/** A work with all that it takes to evaluate it elsewhere. */
export interface Evaluable {
  readonly bytes: Uint8Array;
  readonly reading: FileReading;
  readonly document: Work;
  /** other clips that the document draws on, those that they draw on included */
  readonly others: readonly SuppliedBytes[];
}

/** A clip that a work draws on: its bytes, how they are read, and the work that was done on it where its result is meant. */
export interface SuppliedBytes {
  readonly ref: SourceRef;
  readonly bytes: Uint8Array;
  readonly reading: FileReading;
  readonly work: Work | null;
  /** what a person says of the body in it */
  readonly notes: CharacterNotes | null;
}

/** Reads a clip that a work draws on. Throws MotionFormatError. */
export function suppliedFrom({ ref, bytes, work, notes, reading }: SuppliedBytes): Supplied & MotionFile {
  const file = readMotion(bytes, reading);
  return { ...file, ref, work, ...sourceOf(file, reading.fileName, notes) };
}

/** What of the result is to be written, and how. */
export interface ExportWish {
  /** in frames of the result, inclusive */
  readonly start: number;
  readonly end: number;
  readonly fps: number;
  readonly name: string;
  /** how the file ends; as the clip (or the body that it was cast onto) came, where absent */
  readonly ending?: string;
  /** what joints are called in the file; as they are, where absent */
  readonly names?: JointNames;
  /** fewer keys, of formats that have keys; one a frame, where absent */
  readonly thin?: KeyTolerance;
  /** joints, parts or contact points by name, of formats that have places; every joint, where absent */
  readonly points?: string[];
}

export type ExportRequest = Evaluable & ExportWish;

/**
 * What is written beside the file: what was measured before and after. `after` is of the frames that the file holds, at its own length and rate, over
 * the contacts of the work; `reread` is of the same frames as anyone reads them who has nothing but the file, its contacts found anew.
 */
export interface ResultNote {
  readonly format: "patch-stride.result/1";
  readonly clip: string;
  readonly source: { readonly file: string; readonly frames: number; readonly fps: number };
  readonly written: { readonly frames: number; readonly fps: number; readonly range: readonly [number, number] };
  readonly patches: readonly { readonly kind: string; readonly name: string; readonly muted: boolean }[];
  readonly before: Totals;
  readonly after: Totals;
  readonly reread: Totals;
  readonly findingsLeft: readonly string[];
}

export interface ExportResult {
  /** the file: as it is where it is text, else in base64 */
  readonly text: string;
  readonly base64: boolean;
  /** what the file's name ends in */
  readonly ending: string;
  readonly note: ResultNote;
}

/** Evaluates a work and writes its result. Throws RangeError for a range outside the result, PatchError for a patch that fails or whose clip is missing. */
export function exportWork(request: ExportRequest): ExportResult {
  const { reading, document, start, end } = request;
  const { fileName } = reading;
  const file = readMotion(request.bytes, reading);
  const others = request.others.map((other) => ({ fileName: other.reading.fileName, ...suppliedFrom(other) }));
  const { base, result, notes } = new Evaluator(new SuppliedSources(file, others)).evaluate(document);
  // A file without what it was to draw on would be taken for the finished one.
  const missing = notes.find((note) => note.stops);
  if (missing) {
    const name = document.patches.find((p) => p.id === missing.patchId)?.name ?? missing.patchId;
    throw new PatchError(missing.patchId, name, missing.field, missing.message);
  }
  const written = writtenMotion(result, start, end, request.fps);
  const after = measure(written);
  // Cast onto another body, the motion goes into that one's file.
  const onto = others.find(({ skeleton }) => skeleton === written.character.skeleton);
  // In the format that the clip, or the body, came in, where that can be written and no other is asked for.
  const ending = request.ending ?? formatToWrite(onto?.fileName ?? fileName)?.endings[0] ?? WRITE_ENDINGS[0];
  if (!WRITE_ENDINGS.includes(ending)) throw new RangeError(`"${ending}" is no file that is written; there are ${WRITE_ENDINGS.join(", ")}`);
  const { names = "own", thin, points } = request;
  const { character } = written;
  const like = onto ?? file;
  const options = { thin, time: onto ? undefined : written.time, character, markers: points && markersOf(character, written.points, points) };
  const skeleton = renamed(like.skeleton, character.body, names);
  return {
    ...textOf(writeLike({ ...like, skeleton }, { ...figureClip(written), ...(onto && { name: request.name }) }, `${request.name}${ending}`, options)),
    ending,
    note: {
      format: "patch-stride.result/1",
      clip: request.name,
      source: { file: fileName, frames: file.clip.frameCount, fps: file.clip.fps },
      written: { frames: written.clip.frameCount, fps: written.clip.fps, range: [start, end] },
      patches: document.patches.map(({ kind, name, muted }) => ({ kind, name, muted })),
      before: totalsOf(measure(base)),
      after: totalsOf(after),
      reread: totalsOf(measure(new Evaluator(oneSource(written.character.skeleton, figureClip(written))).evaluate(emptyWork()).base)),
      findingsLeft: findingsOf(written, after).map((f) => f.message),
    },
  };
}

/** A file's pieces as what can be sent in JSON. */
function textOf(pieces: Iterable<string | Uint8Array>): Pick<ExportResult, "text" | "base64"> {
  const all = [...pieces];
  if (all.every((piece) => typeof piece === "string")) return { text: all.join(""), base64: false };
  return { text: Buffer.concat(all.map((piece) => Buffer.from(piece as Uint8Array))).toString("base64"), base64: true };
}

/** The motion that a file will hold: frames start..end at a rate, with the contacts that lie in it. */
function writtenMotion(result: Motion, start: number, end: number, fps: number): Motion {
  const last = result.clip.frameCount - 1;
  if (!(start >= 0 && end <= last && start <= end)) throw new RangeError(`frames ${start}–${end} do not lie inside 0–${last}`);
  return atRate(throughWarp(result, cropWarp(start / result.clip.fps, end / result.clip.fps)), fps);
}
