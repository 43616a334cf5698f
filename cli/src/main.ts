import { createHash } from "node:crypto";
import { once } from "node:events";
import { createWriteStream, readFileSync } from "node:fs";
import { basename } from "node:path";
import { parseArgs } from "node:util";
import {
  bakedOnto,
  type CheckReport,
  type Clip,
  characterIn,
  checkReport,
  clipNameOf,
  DEFAULT_RECIPE,
  DocumentError,
  Evaluator,
  emptyWork,
  figureClip,
  formatToRead,
  formatToWrite,
  JOINT_NAMES,
  type JointNames,
  type KeyTolerance,
  type Marker,
  type Motion,
  type MotionFile,
  MotionFormatError,
  markersOf,
  oneSource,
  PatchError,
  partInWords,
  patchKind,
  READ_ENDINGS,
  type Recipe,
  readCharacterNotes,
  readRecipe,
  renamed,
  type SourceRef,
  type Supplied,
  SuppliedSources,
  sourceOf,
  type TimeWarp,
  WRITE_ENDINGS_TEXT,
} from "@stride/motion";
import { withFile } from "@stride/server/fileSource";

const USAGE = `Usage:
  stride check FILE [--json]                     measure a clip and say what is wrong with it
  stride clean FILE -o OUT [--recipe R.json]     ground its feet (or run a recipe) and write it back
               [--contacts OUT.json]             … and what \`check --json\` says of the result, with the stack's own contacts
               [--with FILE]…                    other clips that the recipe draws on, found by their content
  stride bake FILE --onto CHARACTER -o OUT       the same (or a recipe) and then cast onto another body, by the ending of OUT
               [--recipe R.json] [--with FILE]… [--character NOTES.json: what the characters screen wrote of it]
  stride convert IN -o OUT                       by extension: ${READ_ENDINGS.join(", ")} → ${WRITE_ENDINGS_TEXT} (joint world positions as text)
  of what is written: joints called --names hanim|vrm; keys thinned to within --thin DEGREES,MM;
                      --points NAME,… (joints, parts, contact points) in tables and tracks of places
  of a file with several animations the first is read, or: --take NAME; keys at another rate: --fps N`;

/** How the file that is named first is read. */
let reading: { readonly take?: string; readonly fps?: number } = {};
/** How what is made is written. */
let writing: { readonly names: JointNames; readonly thin?: KeyTolerance; readonly points?: readonly string[] } = { names: "own" };

/** Wrong words on the command line. */
class UsageError extends Error {}
/** An input that is refused: one line, told with exit code 1. */
class InputError extends Error {}

process.stdout.on("error", (error: NodeJS.ErrnoException) => {
  // The reader has gone (a closed pipe): nothing left to say.
  if (error.code === "EPIPE") process.exit(0);
  throw error;
});

try {
  await main(process.argv.slice(2));
} catch (error) {
  if (error instanceof UsageError) {
    process.stderr.write(`${error.message}\n${USAGE}\n`);
    process.exitCode = 2;
  } else if (error instanceof InputError || error instanceof MotionFormatError || error instanceof PatchError || error instanceof DocumentError) {
    process.stderr.write(`${error.message}\n`);
    process.exitCode = 1;
  } else {
    process.stderr.write(`stride: an error of its own: ${error instanceof Error ? error.message.split("\n")[0] : String(error)}\n`);
    process.exitCode = 1;
  }
}

async function main(args: string[]): Promise<void> {
  const { values, positionals } = readArguments(args);
  const [command, file, ...more] = positionals;
  if (values.help) {
    process.stdout.write(`${USAGE}\n`);
    return;
  }
  if (!command) throw new UsageError("stride: say what to do");
  if (!["check", "clean", "bake", "convert"].includes(command)) throw new UsageError(`stride: there is no command "${command}"`);
  if (!file || more.length > 0) throw new UsageError(`stride ${command}: expected one file`);
  reading = { take: values.take, fps: rateOf(values.fps) };
  writing = { names: namesOf(values.names), thin: toleranceOf(values.thin), points: values.points?.split(",").filter((name) => name !== "") };
  if (command === "check") {
    await check(file, values.json === true);
    return;
  }
  if (!values.output) throw new UsageError(`stride ${command}: expected -o OUT`);
  if (command === "bake") {
    if (!values.onto) throw new UsageError("stride bake: expected --onto CHARACTER");
    await bake(file, values.onto, values.output, values.recipe, values.with ?? [], values.character);
  } else if (command === "clean") await clean(file, values.output, values.recipe, values.contacts, values.with ?? []);
  else await convert(file, values.output);
}

function readArguments(args: string[]) {
  try {
    return parseArgs({
      args,
      allowPositionals: true,
      options: {
        json: { type: "boolean" },
        output: { type: "string", short: "o" },
        recipe: { type: "string" },
        contacts: { type: "string" },
        with: { type: "string", multiple: true },
        onto: { type: "string" },
        character: { type: "string" },
        take: { type: "string" },
        fps: { type: "string" },
        names: { type: "string" },
        thin: { type: "string" },
        points: { type: "string" },
        help: { type: "boolean", short: "h" },
      },
    });
  } catch (error) {
    throw new UsageError(`stride: ${error instanceof Error ? error.message.split("\n")[0] : "wrong options"}`);
  }
}

function rateOf(text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  const fps = Number(text);
  if (!(fps >= 1 && fps <= 1000)) throw new UsageError(`stride: --fps must be a number from 1 to 1000, not "${text}"`);
  return fps;
}

function namesOf(text = "own"): JointNames {
  const found = JOINT_NAMES.find((names) => names === text);
  if (!found) throw new UsageError(`stride: --names must be one of ${JOINT_NAMES.join(", ")}, not "${text}"`);
  return found;
}

function toleranceOf(text: string | undefined): KeyTolerance | undefined {
  if (text === undefined) return undefined;
  const [degrees, millimetres = 0.1] = text.split(",").map(Number);
  if (!(degrees >= 0 && degrees <= 90 && millimetres >= 0 && millimetres <= 1000))
    throw new UsageError(`stride: --thin must be degrees and millimetres, such as 0.1,0.1, not "${text}"`);
  return { degrees, metres: millimetres / 1000 };
}

/** Writes a motion as its format and the command line want it. */
async function write(
  path: string,
  format: ReturnType<typeof writer>,
  { character, points }: Pick<Motion, "character" | "points">,
  clip: Clip,
  like: MotionFile,
  time?: TimeWarp,
): Promise<void> {
  const { names, thin, points: wanted } = writing;
  let markers: Marker[] | undefined;
  try {
    markers = wanted && markersOf(character, points, wanted);
  } catch (error) {
    if (error instanceof RangeError) throw new InputError(`${path}: ${error.message}`);
    throw error;
  }
  await writeFile(path, format.write(renamed(character.skeleton, character.body, names), clip, like, { thin, character, markers, time }));
}

function readFile(path: string): Buffer {
  return opened(path, () => readFileSync(path));
}

/** What comes of reading a file, with what the system has against it in plain words. */
function opened<T>(path: string, read: () => T): T {
  try {
    return read();
  } catch (error) {
    const { code, syscall } = error as NodeJS.ErrnoException;
    if (syscall === undefined) throw error;
    const why =
      code === "ENOENT"
        ? "there is no such file"
        : code === "EISDIR"
          ? "this is a folder, not a file"
          : code === "EACCES"
            ? "it may not be read"
            : (code ?? "it cannot be read");
    throw new InputError(`${path}: ${why}`);
  }
}

async function readClip(path: string, options: { readonly take?: string; readonly fps?: number } = {}): Promise<MotionFile> {
  const format = formatToRead(path);
  if (format.prepare) await format.prepare(readFile(path));
  const file = opened(path, () => withFile(path, (source) => format.read(source, { fileName: path, ...options })));
  for (const warning of file.warnings) process.stderr.write(`${path}: ${warning}\n`);
  return file;
}

/** Refuses an ending before anything is read, so that a wrong name costs nothing. */
function writer(command: string, out: string) {
  const format = formatToWrite(out);
  if (!format) throw new UsageError(`stride ${command}: OUT must end in ${WRITE_ENDINGS_TEXT}, not "${basename(out)}"`);
  return format;
}

async function check(path: string, json: boolean): Promise<void> {
  const file = await readClip(path, reading);
  const motion = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate(emptyWork()).base;
  const report = checkReport(motion, file.unitScale);
  process.stdout.write(json ? `${JSON.stringify(report, null, 2)}\n` : plainReport(report));
}

function plainReport(report: CheckReport): string {
  const { clip, totals } = report;
  const lines = [
    `${clip.name}: ${clip.frames} frames, ${clip.fps} fps, ${clip.seconds.toFixed(2)} s, ${clip.joints} joints, ${Object.keys(report.bodyMap).length} parts known`,
    `floor ${(report.floorHeightM * 100).toFixed(1)} cm, tilt ${totals.floorTiltDegrees.toFixed(1)}°, ${report.contacts.length} contacts, slide ${totals.slideWorstCm.toFixed(1)} cm at worst`,
    ...report.findings.map((f) => `  ${String(f.startFrame).padStart(5)}–${String(f.endFrame).padEnd(5)} ${f.message}`),
    report.findings.length === 0 ? "nothing out of tolerance" : `${report.findings.length} findings`,
  ];
  return `${lines.join("\n")}\n`;
}

function recipeFrom(path: string, fps: number): Recipe {
  return document(path, (data) => readRecipe(data, { fps }));
}

/** A document from a file. */
function document<T>(path: string, read: (data: unknown) => T): T {
  let data: unknown;
  try {
    data = JSON.parse(readFile(path).toString("utf8"));
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError(`${path}: not valid JSON: ${error instanceof Error ? error.message.split("\n")[0] : ""}`);
  }
  try {
    return read(data);
  } catch (error) {
    if (error instanceof DocumentError) throw new InputError(`${path}: ${error.message}`);
    throw error;
  }
}

async function clean(path: string, out: string, recipePath: string | undefined, contactsPath: string | undefined, others: readonly string[]): Promise<void> {
  const format = writer("clean", out);
  const { file, result, cast } = await cleaned(path, recipePath, others);
  await write(out, format, result, figureClip(result), file, cast ? undefined : result.time);
  if (contactsPath !== undefined) await writeFile(contactsPath, [`${JSON.stringify(checkReport(result, file.unitScale), null, 2)}\n`]);
}

/** A file through a recipe, or the usual one; what its patches could not do is told. */
async function cleaned(
  path: string,
  recipePath: string | undefined,
  others: readonly string[],
): Promise<{ readonly file: MotionFile; readonly result: Motion; readonly cast: boolean }> {
  const file = await readClip(path, reading);
  const recipe = recipePath === undefined ? DEFAULT_RECIPE : recipeFrom(recipePath, file.clip.fps);
  const refs = recipe.patches.flatMap((p) => patchKind(p.kind)?.inputs(p.settings) ?? []);
  const sources = new SuppliedSources(file);
  const files: MotionFile[] = [];
  // A recipe may draw on the clip itself as it came.
  for (const from of refs.length > 0 ? [...others, path] : others)
    for (const other of await supplied(from, refs)) {
      sources.add(other);
      files.push(other);
    }
  const { result, notes } = new Evaluator(sources).evaluate({ ...emptyWork(), patches: recipe.patches });
  for (const { patchId, field, message, stops } of notes) {
    const hint = stops ? "; supply it with --with FILE" : "";
    process.stderr.write(`${path}: ${recipe.patches.find((p) => p.id === patchId)?.name ?? patchId}: ${field}: ${message}${hint}\n`);
  }
  // What could be done is written; that something was left out is told by the exit code as well.
  if (notes.some((note) => note.stops)) process.exitCode = 1;
  // A recipe that casts has its result written as the body's own file.
  const onto = files.find(({ skeleton }) => skeleton === result.character.skeleton);
  return { file: onto ?? file, result, cast: onto !== undefined };
}

async function bake(path: string, onto: string, out: string, recipePath: string | undefined, others: readonly string[], notesPath?: string): Promise<void> {
  const format = writer("bake", out);
  const notes = notesPath === undefined ? null : document(notesPath, readCharacterNotes);
  const { result } = await cleaned(path, recipePath, others);
  const character = await readClip(onto);
  const { motion, without } = bakedOnto(result, characterIn(sourceOf(character, onto, notes)));
  if (without.length > 0)
    process.stderr.write(
      `${path}: ${without.map((ref) => ("joint" in ref ? `"${ref.joint}"` : partInWords(ref))).join(", ")}: moves, and has no partner on ${basename(onto)}\n`,
    );
  await write(out, format, motion, { ...figureClip(motion), name: clipNameOf(basename(path)) }, character);
}

/** What of a file a recipe may draw on, by the SHA-256 of its content: the animations that it names, or the first. */
async function supplied(path: string, refs: readonly SourceRef[]): Promise<(Supplied & MotionFile)[]> {
  const sha256 = createHash("sha256").update(readFile(path)).digest("hex");
  const takes = new Set(refs.flatMap((ref) => (ref.sha256 === sha256 ? [ref.take] : [])));
  const all: (Supplied & MotionFile)[] = [];
  for (const take of takes.size > 0 ? takes : [undefined]) {
    const file = await readClip(path, { take });
    const ref = { name: basename(path), sha256, ...(take !== undefined && { take }) };
    all.push({ ...file, ...sourceOf(file, path), ref, work: null });
  }
  return all;
}

async function convert(path: string, out: string): Promise<void> {
  const format = writer("convert", out);
  const file = await readClip(path, reading);
  // The body is read only where what is written needs to know its parts.
  const { names, points } = writing;
  const plain = names === "own" && !points && !out.toLowerCase().endsWith(".vrma");
  if (plain) await writeFile(out, format.write(file.skeleton, file.clip, file, { thin: writing.thin }));
  else await write(out, format, new Evaluator(oneSource(file.skeleton, file.clip)).unsearched(emptyWork()), file.clip, file);
}

async function writeFile(path: string, pieces: Iterable<string | Uint8Array>): Promise<void> {
  const stream = createWriteStream(path);
  const failed = new Promise<never>((_, reject) => {
    stream.on("error", (error: NodeJS.ErrnoException) => reject(new InputError(`${path}: cannot be written: ${error.code ?? error.message}`)));
  });
  const write = async () => {
    for (const piece of pieces) if (!stream.write(piece)) await once(stream, "drain");
    stream.end();
    await once(stream, "finish");
  };
  await Promise.race([write(), failed]);
}
