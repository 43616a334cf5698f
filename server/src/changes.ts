import { randomUUID } from "node:crypto";
import {
  type ClipKey,
  type CopiedPatch,
  copyPatches,
  Evaluator,
  fittedToLength,
  type Outcome,
  outcomeOf,
  type RangePlacing,
  readMotion,
  type SourceRef,
  SuppliedSources,
  type Work,
  withClipSwapped,
} from "@stride/motion";
import { type Evaluable, suppliedFrom } from "./export.ts";

export interface CopyRequest {
  readonly source: Evaluable;
  readonly target: Evaluable;
  /** patches of the source's document, by their ids */
  readonly patches: readonly string[];
  readonly ranges: RangePlacing;
}

/** What copying would make of a work: the document to be saved, each patch as it was laid on, and what it does. */
export interface CopyResult {
  readonly document: Work;
  readonly patches: readonly (Omit<CopiedPatch, "patch"> & { readonly id: string; readonly name: string; readonly kind: string })[];
  readonly outcome: Outcome;
}

/** Lays patches of one work on another and measures what they do there. Throws CopyError, PatchError, MotionFormatError. */
export function planCopy({ source, target, patches, ranges }: CopyRequest): CopyResult {
  const from = evaluatorOf(source).evaluate(source.document);
  // What the copied patches draw on is drawn on there too.
  const evaluator = evaluatorOf(target, source.others);
  const before = evaluator.evaluate(target.document);
  const copied = copyPatches(from, patches, { evaluator, work: target.document }, ranges, randomUUID);
  const outcome = outcomeOf(before, evaluator.evaluate(copied.document));
  return {
    document: copied.document,
    patches: copied.patches.map(({ patch: { id, name, kind }, ...rest }) => ({ id, name, kind, ...rest })),
    outcome,
  };
}

export interface SwapRequest {
  readonly work: Evaluable;
  /** the clip that goes */
  readonly from: ClipKey;
  readonly to: SourceRef;
  /** the clip that comes */
  readonly next: Evaluable;
  /** does the work stand on the clip that goes? */
  readonly stands: boolean;
}

/** What swapping a clip would make of a work. */
export interface SwapResult {
  readonly document: Work;
  /** how many patches drew on it */
  readonly swapped: number;
  /** what has no place on the new clip, for people */
  readonly dropped: readonly string[];
  readonly outcome: Outcome;
}

/** Swaps a clip that a work stands on or draws on, and measures what that does. Throws PatchError, MotionFormatError. */
export function planSwap({ work, from, to, next, stands }: SwapRequest): SwapResult {
  const before = evaluatorOf(work).evaluate(work.document);
  const { work: drawn, swapped } = withClipSwapped(work.document, from, to);
  const others = [...work.others, { ...next, ref: to, work: null, notes: null }];
  const main = stands ? next : work;
  const evaluator = evaluatorOf(main, others);
  const { clip } = evaluator.sources.main;
  const { work: document, dropped } = stands ? fittedToLength(drawn, (clip.frameCount - 1) / clip.fps) : { work: drawn, dropped: [] };
  return { document, swapped, dropped, outcome: outcomeOf(before, evaluator.evaluate(document)) };
}

function evaluatorOf({ bytes, reading, others }: Evaluable, more: Evaluable["others"] = []): Evaluator {
  const file = readMotion(bytes, reading);
  const all = [...others, ...more].map(suppliedFrom);
  return new Evaluator(new SuppliedSources(file, all));
}
