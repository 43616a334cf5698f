import { CopyError, type FileReading, MotionFormatError, PatchError, readyToRead } from "@stride/motion";
import { type CopyRequest, planCopy, planSwap, type SwapRequest } from "./changes.ts";
import { type ExportRequest, exportWork } from "./export.ts";
import { fileSource, withFile } from "./fileSource.ts";
import { CopyProblem, checkCopy } from "./safety/checkCopy.ts";
import { summarize } from "./summary.ts";

/** Where the bytes of a clip are: at hand, or in a file that was just brought in. */
export type ClipBytes = { readonly bytes: Uint8Array } | { readonly path: string };

export interface SummaryRequest extends FileReading {
  readonly source: ClipBytes;
}

/** Jobs that the pool sends here. */
export type Job =
  | ({ readonly kind: "summarize" } & SummaryRequest)
  | ({ readonly kind: "export" } & ExportRequest)
  | ({ readonly kind: "copy" } & CopyRequest)
  | ({ readonly kind: "swap" } & SwapRequest)
  | { readonly kind: "checkCopy"; readonly path: string };

/** What a job ended with; an expected error is the file's or the document's fault. */
export type JobAnswer = { readonly result: unknown } | { readonly error: string; readonly expected: boolean; readonly code?: string };

export default async function work(job: Job): Promise<JobAnswer> {
  try {
    await makeReady(job);
    if (job.kind === "export") return { result: exportWork(job) };
    if (job.kind === "copy") return { result: planCopy(job) };
    if (job.kind === "swap") return { result: planSwap(job) };
    if (job.kind === "checkCopy") return { result: checkCopy(job.path) };
    const { kind: _, source, ...reading } = job;
    return { result: "bytes" in source ? summarize(source.bytes, reading) : withFile(source.path, (file) => summarize(file, reading)) };
  } catch (error) {
    const expected = [MotionFormatError, PatchError, RangeError, CopyError, CopyProblem].some((known) => error instanceof known);
    const code = typeof error === "object" && error !== null && "code" in error ? String(error.code) : undefined;
    return { error: error instanceof Error ? error.message : String(error), expected, code };
  }
}

/** Loads what the files of a job need to be read. */
async function makeReady(job: Job): Promise<void> {
  if (job.kind === "checkCopy") return;
  if (job.kind === "summarize" && "path" in job.source) {
    const source = fileSource(job.source.path);
    try {
      await readyToRead(source, job.fileName);
    } finally {
      source.close();
    }
    return;
  }
  for (const { bytes, reading } of filesOf(job)) await readyToRead(bytes, reading.fileName);
}

function filesOf(job: Exclude<Job, { kind: "checkCopy" }>): readonly { readonly bytes: Uint8Array; readonly reading: FileReading }[] {
  switch (job.kind) {
    case "summarize":
      return "bytes" in job.source ? [{ bytes: job.source.bytes, reading: job }] : [];
    case "export":
      return [job, ...job.others];
    case "copy":
      return [job.source, job.target].flatMap((one) => [one, ...one.others]);
    case "swap":
      return [job.work, ...job.work.others, job.next];
  }
}
