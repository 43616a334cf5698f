import { parentPort } from "node:worker_threads";
import { MotionFormatError, PatchError } from "@stride/motion";
import { type ExportRequest, exportWork } from "./export.ts";
import { summarize } from "./summary.ts";

/** Jobs that the pool sends here; each is answered by one message with the same id. */
export type Job =
  | { readonly kind: "summarize"; readonly bytes: Uint8Array; readonly fileName: string; readonly unitScale?: number; readonly upAxis?: "y" | "z" }
  | ({ readonly kind: "export" } & ExportRequest);

parentPort?.on("message", ({ id, job }: { id: number; job: Job }) => {
  try {
    const result = job.kind === "summarize" ? summarize(job.bytes, { fileName: job.fileName, unitScale: job.unitScale, upAxis: job.upAxis }) : exportWork(job);
    parentPort?.postMessage({ id, result });
  } catch (error) {
    const expected = error instanceof MotionFormatError || error instanceof PatchError || error instanceof RangeError;
    parentPort?.postMessage({ id, error: { message: error instanceof Error ? error.message : String(error), expected } });
  }
});
