import { readFile } from "node:fs/promises";
import { clipNameOf } from "@stride/motion";
import { JobError, type JobPool } from "./pool.ts";
import type { ClipRow, ClipStore, NewClip } from "./store/clips.ts";
import type { ClipReading } from "./summary.ts";
import { type Upload, UploadError } from "./upload.ts";

/** Most animations of one file that are brought in. */
const MOST_TAKES = 500;

/** What became of a file that was brought in. */
export interface BroughtIn {
  /** its clips, one of each of its animations, those that were here before included */
  readonly clips: readonly ClipRow[];
  /** how many of them are new */
  readonly added: number;
  /** animations that cannot be read, and why */
  readonly unread: readonly { readonly take: string; readonly problem: string }[];
}

/**
 * Brings a file into the library: a clip of each of its animations, or one of what it holds. What is here already is recognised by its content and not made again, unless `again`.
 * An animation that cannot be read is told and stops no other; a file of which nothing can be read is refused with what is wrong with it.
 */
export async function bringIn(
  upload: Upload,
  labels: { readonly name?: string; readonly folder: string; readonly tags: readonly string[] },
  { clips, pool }: { readonly clips: ClipStore; readonly pool: JobPool },
  again: boolean,
  stopped: () => boolean,
): Promise<BroughtIn> {
  const { fileName, sha256, path } = upload;
  const here = clips.ofContent(sha256).filter((row) => row.take !== "");
  const takesOf = (reading: Pick<ClipReading, "summary">) => reading.summary.takes ?? [];
  if (here.length > 0 && !again && takesOf(here[0]).every((take, i) => here.some((row) => row.take === keptTake(take, i))))
    return { clips: here, added: 0, unread: [] };
  const read = (take?: string) => pool.run<ClipReading>({ kind: "summarize", source: { path }, fileName, take });
  const unread: { take: string; problem: string }[] = [];
  const readings = new Map<string | null, ClipReading>();
  const first = await read().catch(async (error: unknown) => {
    // Where its first animation is what is wrong with it, the others may be well.
    const rest = isOfFile(error) ? await read("").catch(() => null) : null;
    const [name, ...more] = rest ? takesOf(rest) : [];
    if (!rest || more.length === 0) throw error;
    unread.push({ take: name, problem: (error as Error).message });
    return rest;
  });
  const takes = takesOf(first);
  if (takes.length > MOST_TAKES)
    throw new UploadError(`${fileName}: it holds ${takes.length} animations; up to ${MOST_TAKES} of one file are brought in. Divide it into several`, 400);
  if (unread.length === 0) readings.set(null, first);
  for (const take of takes.slice(1)) {
    if (stopped()) break;
    try {
      readings.set(take, await read(take));
    } catch (error) {
      if (!isOfFile(error)) throw error;
      unread.push({ take, problem: error.message });
    }
  }
  // Who broke off meanwhile does not want it any more.
  if (stopped()) throw new UploadError("file: the upload was broken off; nothing was kept", 400);
  if (readings.size === 0) throw new UploadError(`${fileName}: none of its animations can be read: ${unread[0].problem}`, 400);
  const bytes = await readFile(path);
  const tags = labels.tags.length > 0 ? labels.tags : ["brought in"];
  const base = labels.name ?? (clipNameOf(fileName).slice(0, 200) || "clip");
  const made = [...readings].flatMap(([take, reading]) => {
    if (!again && here.some((row) => row.take === take)) return [];
    const name = takes.length > 1 ? takeName(base, take ?? takes[0]) : base;
    return [{ name, fileName: fileName.slice(-255), bytes, sha256, take, folder: labels.folder, tags, reading } satisfies NewClip];
  });
  return { clips: [...here, ...clips.addAll(made)], added: made.length, unread };
}

/** Is an error the file's own fault? What the server does wrong is no animation that cannot be read. */
function isOfFile(error: unknown): error is JobError {
  return error instanceof JobError && error.expected;
}

/** How a row names an animation: the first is what the file is read as when nothing is said. */
function keptTake(take: string, i: number): string | null {
  return i === 0 ? null : take;
}

/** What the clip of one of several animations is called. */
function takeName(file: string, take: string): string {
  return `${file.slice(0, 120)} · ${take}`.slice(0, 200);
}
