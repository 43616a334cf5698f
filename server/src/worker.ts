import { CopyError, MotionFormatError, PatchError, readyToRead } from "@stride/motion";
import { type CopyRequest, planCopy, planSwap, type SwapRequest } from "./changes.ts";
import { type ExportRequest, exportWork } from "./export.ts";
import { fileSource, withFile } from "./fileSource.ts";
import { CopyProblem, checkCopy } from "./safety/checkCopy.ts";
import { summarize } from "./summary.ts";

/** Where the bytes of a clip are: at hand, or in a file that was just brought in. */
export type ClipBytes = { readonly bytes: Uint8Array } | { readonly path: string };

export interface SummaryRequest {
  readonly source: ClipBytes;
  readonly fileName: string;
  readonly unitScale?: number;
  readonly upAxis?: "y" | "z";
}

/** Jobs that the pool sends here. */
export type Job =
  | ({ readonly kind: "summarize" } & SummaryRequest)
  | ({ readonly kind: "export" } & ExportRequest)
  | ({ readonly kind: "copy" } & CopyRequest)
  | ({ readonly kind: "swap" } & SwapRequest)
  | { readonly kind: "checkCopy"; readonly path: string };

/** What a job ended with; an expected error is the file's or the document's fault. */
export type JobAnswer = { readonly result: unknown } | { readonly error: string; readonly expected: boolean };

export default async function work(job: Job): Promise<JobAnswer> {
  try {
    await makeReady(job);
    if (job.kind === "export") return { result: exportWork(job) };
    if (job.kind === "copy") return { result: planCopy(job) };
    if (job.kind === "swap") return { result: planSwap(job) };
    if (job.kind === "checkCopy") return { result: checkCopy(job.path) };
    const { source, fileName, unitScale, upAxis } = job;
    const options = { fileName, unitScale, upAxis };
    return { result: "bytes" in source ? summarize(source.bytes, options) : withFile(source.path, (file) => summarize(file, options)) };
  } catch (error) {
    const expected = [MotionFormatError, PatchError, RangeError, CopyError, CopyProblem].some((known) => error instanceof known);
    return { error: error instanceof Error ? error.message : String(error), expected };
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
  for (const { bytes, fileName } of filesOf(job)) await readyToRead(bytes, fileName);
}

function filesOf(job: Exclude<Job, { kind: "checkCopy" }>): readonly { readonly bytes: Uint8Array; readonly fileName: string }[] {
  switch (job.kind) {
    case "summarize":
      return "bytes" in job.source ? [{ bytes: job.source.bytes, fileName: job.fileName }] : [];
    case "export":
      return [job, ...job.others];
    case "copy":
      return [job.source, job.target].flatMap((one) => [one, ...one.others]);
    case "swap":
      return [job.work, ...job.work.others, job.next];
  }
}
