import { tmpdir } from "node:os";
import { join } from "node:path";
import { type ClipKey, readingOf, sourceKeyOf, type Work } from "@stride/motion";
import type { Evaluable, SuppliedBytes } from "./export.ts";
import { missing } from "./http.ts";
import type { JobPool } from "./pool.ts";
import { Backups } from "./safety/backups.ts";
import { type ClipPages, clipPages } from "./store/clipPages.ts";
import { type ClipRow, type ClipStore, clipStore } from "./store/clips.ts";
import type { Db } from "./store/database.ts";
import { type DeletionStore, deletionStore } from "./store/deletions.ts";
import { type KeptPatchesStore, keptPatchesStore } from "./store/keptPatches.ts";
import { type PoseStore, poseStore } from "./store/poses.ts";
import { inputsOf, type SourceStore, sourceStore } from "./store/sources.ts";
import { type WorkRow, type WorkStore, workStore } from "./store/works.ts";

export interface LibraryOptions {
  /** where files lie while they are brought in */
  readonly uploads?: string;
  /** where copies of the library lie */
  readonly copies?: string;
}

/** Everything that the server keeps. */
export interface Library {
  readonly db: Db;
  readonly pool: JobPool;
  readonly clips: ClipStore;
  readonly works: WorkStore;
  readonly sources: SourceStore;
  readonly pages: ClipPages;
  readonly poses: PoseStore;
  readonly keptPatches: KeptPatchesStore;
  readonly deletions: DeletionStore;
  readonly backups: Backups;
  readonly uploads: string;
  clipOr404(id: string): ClipRow;
  workOr404(id: string): WorkRow;
  /** A version of a work on a clip. */
  workAt(clip: ClipKey, revision: number): Work | undefined;
  /** A document on a clip, with all that it takes to evaluate it elsewhere. */
  evaluable(clipId: string, document: Work): Evaluable;
}

/** The library of an open database. */
export function openLibrary(db: Db, pool: JobPool, options: LibraryOptions = {}): Library {
  const clips = clipStore(db);
  const works = workStore(db);
  const sources = sourceStore(db);
  const clipOr404 = (id: string): ClipRow => {
    const clip = clips.get(id);
    if (!clip) throw missing("clip");
    return clip;
  };
  const workOr404 = (id: string): WorkRow => {
    const work = works.get(id);
    if (!work) throw missing("work");
    return work;
  };
  const workAt = (clip: ClipKey, revision: number): Work | undefined => {
    const id = sources.workAt(clip, revision);
    return id === undefined ? undefined : works.version(id, revision);
  };
  const othersOf = (document: Work, known: Map<string, SuppliedBytes> = new Map()): SuppliedBytes[] => {
    for (const ref of inputsOf(document)) {
      const key = sourceKeyOf(ref);
      const [clip] = clips.known(ref);
      if (!clip || known.has(key)) continue;
      const work = ref.work === undefined ? null : workAt(ref, ref.work);
      // Its result is asked for, and there is none: it is told as missing where it is drawn on.
      if (work === undefined) continue;
      known.set(key, { ref, bytes: clips.bytes(clip.id) ?? new Uint8Array(), reading: readingOf(clip), work, notes: clip.notes });
      if (work) othersOf(work, known);
    }
    return [...known.values()];
  };
  const evaluable = (clipId: string, document: Work): Evaluable => {
    const clip = clipOr404(clipId);
    return { bytes: clips.bytes(clip.id) ?? new Uint8Array(), reading: readingOf(clip), document, others: othersOf(document) };
  };
  return {
    db,
    pool,
    clips,
    works,
    sources,
    pages: clipPages(db),
    poses: poseStore(db),
    keptPatches: keptPatchesStore(db),
    deletions: deletionStore(db),
    backups: new Backups(db, pool, options.copies ?? join(tmpdir(), "stride-copies")),
    uploads: options.uploads ?? join(tmpdir(), "stride-uploads"),
    clipOr404,
    workOr404,
    workAt,
    evaluable,
  };
}
