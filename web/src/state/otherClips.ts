import { type ClipKey, clipKeyOf, clipRef, patchKind, type SourceRef, sourceKeyOf, type Work } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { create } from "zustand";

interface OtherClips {
  /** clips that works draw on, by clipKeyOf */
  readonly rows: ReadonlyMap<string, ClipRow>;
  /** references that were asked for and are not in the library */
  readonly missing: ReadonlySet<string>;
}

export const useOtherClips = create<OtherClips>(() => ({ rows: new Map(), missing: new Set() }));

/** Takes down a clip that is there, so that its length and picture are known. */
export function knowClip(row: ClipRow): void {
  useOtherClips.setState((s) => ({ rows: new Map(s.rows).set(clipKeyOf(clipRef(row)), row) }));
}

export function knowMissing(ref: SourceRef): void {
  useOtherClips.setState((s) => ({ missing: new Set(s.missing).add(sourceKeyOf(ref)) }));
}

/** How long another clip is as it came, seconds; undefined where it is not known. */
export function lengthOfOther(ref: SourceRef): number | undefined {
  const row = useOtherClips.getState().rows.get(clipKeyOf(ref));
  return row && (row.summary.frames - 1) / row.summary.fps;
}

/** The other clips that a work draws on, each once. */
export function inputsOf(work: Work): SourceRef[] {
  const found = new Map<string, SourceRef>();
  for (const patch of work.patches) for (const ref of patchKind(patch.kind)?.inputs(patch.settings) ?? []) found.set(sourceKeyOf(ref), ref);
  return [...found.values()];
}

/** What tells of clips and brings them where they are needed. */
export interface SupplyLine {
  /** the clip that is meant; rejects where there is none */
  clip(of: ClipKey): Promise<ClipRow>;
  /** a version of a work on it */
  work(of: ClipKey, revision: number): Promise<Work>;
  /** hands a clip over, with the work that was done on it */
  deliver(ref: SourceRef, row: ClipRow, work: Work | null): Promise<void>;
}

/** Brings the clips that works draw on to where they are evaluated, each once, those that they draw on themselves included. */
export class Supplies {
  /** what was asked for, until it is there or known to be missing */
  private readonly asked = new Map<string, Promise<void>>();
  private readonly done = new Set<string>();

  constructor(private readonly line: SupplyLine) {}

  /** Is everything that a work draws on there, as far as it is in the library? */
  complete(work: Work): boolean {
    return inputsOf(work).every((ref) => this.done.has(sourceKeyOf(ref)));
  }

  /** Brings what is missing. What is not in the library is taken down as missing, and not asked for again. */
  async bring(work: Work): Promise<void> {
    await Promise.all(
      inputsOf(work).map((ref) => {
        const key = sourceKeyOf(ref);
        const promise = this.asked.get(key) ?? this.bringOne(ref).then(() => void this.done.add(key));
        this.asked.set(key, promise);
        return promise;
      }),
    );
  }

  /** A fresh thread knows nothing: everything is to be brought again. */
  forget(): void {
    this.asked.clear();
    this.done.clear();
  }

  private async bringOne(ref: SourceRef): Promise<void> {
    try {
      const row = await this.line.clip(ref);
      const work = ref.work === undefined ? null : await this.line.work(ref, ref.work);
      knowClip(row);
      if (work) await this.bring(work);
      await this.line.deliver(ref, row, work);
    } catch {
      knowMissing(ref);
    }
  }
}
