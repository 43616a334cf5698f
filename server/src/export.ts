import { cropClip, Evaluator, findingsOf, measure, readBvh, resampleClip, type Totals, totalsOf, type Work, writeBvh } from "@stride/motion";

export interface ExportRequest {
  readonly bytes: Uint8Array;
  readonly fileName: string;
  readonly unitScale?: number;
  readonly upAxis?: "y" | "z";
  readonly document: Work;
  /** in frames of the result, inclusive */
  readonly start: number;
  readonly end: number;
  readonly fps: number;
  readonly name: string;
}

/** What is written beside the file: what was measured before and after. */
export interface ResultNote {
  readonly format: "patch-stride.result/1";
  readonly clip: string;
  readonly source: { readonly file: string; readonly frames: number; readonly fps: number };
  readonly written: { readonly frames: number; readonly fps: number; readonly range: readonly [number, number] };
  readonly patches: readonly { readonly kind: string; readonly name: string; readonly muted: boolean }[];
  readonly before: Totals;
  readonly after: Totals;
  readonly findingsLeft: readonly string[];
}

export interface ExportResult {
  readonly text: string;
  readonly note: ResultNote;
}

/** Evaluates a work and writes its result. Throws RangeError for a range outside the result, PatchError for a patch that fails. */
export function exportWork(request: ExportRequest): ExportResult {
  const file = readBvh(request.bytes, { fileName: request.fileName, unitScale: request.unitScale, upAxis: request.upAxis });
  const { base, result } = new Evaluator(file.skeleton, file.clip).evaluate(request.document);
  const clip = resampleClip(cropClip(result.clip, request.start, request.end), request.fps);
  const after = measure(result);
  return {
    text: writeBvh(file.skeleton, clip, file.layout),
    note: {
      format: "patch-stride.result/1",
      clip: request.name,
      source: { file: request.fileName, frames: file.clip.frameCount, fps: file.clip.fps },
      written: { frames: clip.frameCount, fps: clip.fps, range: [request.start, request.end] },
      patches: request.document.patches.map(({ kind, name, muted }) => ({ kind, name, muted })),
      before: totalsOf(measure(base)),
      after: totalsOf(after),
      findingsLeft: findingsOf(result, after).map((f) => f.message),
    },
  };
}
