import { randomUUID } from "node:crypto";
import { checkWork, type DocumentContext, DocumentError, patchKind, readWork, type Work } from "@stride/motion";
import type { Db } from "./database.ts";
import { historyThinner } from "./historyThinning.ts";
import { sourceStore } from "./sources.ts";

export interface WorkRow {
  readonly id: string;
  readonly clipId: string;
  readonly name: string;
  readonly revision: number;
  readonly document: Work;
  readonly savedAt: string;
}

/** A work as lists show it. A document that cannot be read hides no other: it says what is wrong with it. */
export interface WorkListRow extends Omit<WorkRow, "document"> {
  /** whose clip it stands on */
  readonly character: string;
  readonly patches: number;
  readonly problem: string | null;
}

export interface HistoryRow {
  /** the number of the version that a person made of it; null: a save like others */
  readonly version: number | null;
  readonly versionName: string | null;
  readonly revision: number;
  readonly note: string;
  readonly savedAt: string;
  readonly milestone: boolean;
}

interface RawWork {
  id: string;
  clip_id: string;
  name: string;
  revision: number;
  document: string;
  saved_at: string;
  character: string;
  /** of the clip, as it was measured: what moments of the document are counted against */
  fps: number;
  frames: number;
}

const SELECT = `SELECT work.id, work.clip_id, work.name, revision, document, saved_at, clip.character,
  json_extract(clip.summary, '$.fps') AS fps, json_extract(clip.summary, '$.frames') AS frames FROM work JOIN clip ON clip.id = work.clip_id WHERE work.deleted_at IS NULL`;

/** What a save ended with: the new row, the newer row that stands in its way, or nothing of that id. */
export type SaveResult = { readonly saved: WorkRow } | { readonly conflict: WorkRow } | undefined;

interface RawVersion {
  document: string;
  clip_id: string;
  fps: number;
  frames: number;
}

/** One work of several that are saved as one step; with `clipId` it stands on another clip from then on. */
export interface WorkChange {
  readonly id: string;
  readonly base: number;
  readonly document: unknown;
  readonly clipId?: string;
}

/** What saving several ended with: their new revisions, or those that have moved on, and nothing written. */
export type SavedMany = { readonly saved: readonly { readonly id: string; readonly revision: number }[] } | { readonly moved: readonly string[] };

/** Works that are as they were before a step, and those that were changed since it and stay. */
export interface TakenBack {
  readonly back: readonly string[];
  readonly kept: readonly { readonly id: string; readonly name: string }[];
}

/** Works with their history. Every write is one transaction. */
export function workStore(db: Db, now: () => Date = () => new Date()) {
  const select = db.prepare<[string], RawWork>(`${SELECT} AND work.id = ?`);
  const all = db.prepare<[], RawWork>(`${SELECT} ORDER BY saved_at DESC`);
  const insert = db.prepare("INSERT INTO work (id, clip_id, name, revision, document, created_at, saved_at) VALUES (?, ?, ?, 1, ?, ?, ?)");
  const update = db.prepare("UPDATE work SET clip_id = ?, name = ?, document = ?, revision = ?, saved_at = ? WHERE id = ?");
  const append = db.prepare("INSERT INTO history (work_id, clip_id, revision, document, note, saved_at, milestone) VALUES (?, ?, ?, ?, ?, ?, ?)");
  const historyOf = db.prepare<
    [string],
    { revision: number; note: string; saved_at: string; milestone: number; version: number | null; version_name: string | null }
  >("SELECT revision, note, saved_at, milestone, version, version_name FROM history WHERE work_id = ? ORDER BY revision DESC");
  const version = db.prepare<[string, number], RawVersion>(
    `SELECT history.document, history.clip_id, json_extract(clip.summary, '$.fps') AS fps, json_extract(clip.summary, '$.frames') AS frames
     FROM history JOIN work ON work.id = work_id JOIN clip ON clip.id = coalesce(history.clip_id, work.clip_id) WHERE work_id = ? AND history.revision = ?`,
  );
  const clipOf = db.prepare<[string], { id: string; fps: number; frames: number }>(
    "SELECT id, json_extract(summary, '$.fps') AS fps, json_extract(summary, '$.frames') AS frames FROM clip WHERE id = ? AND deleted_at IS NULL",
  );
  const bringBack = db.prepare("UPDATE clip SET deleted_at = NULL WHERE id = ?");
  const lastVersion = db.prepare<[string], { version: number | null }>("SELECT max(version) AS version FROM history WHERE work_id = ?");
  const nameVersion = db.prepare("UPDATE history SET version = coalesce(version, ?), version_name = ?, milestone = 1 WHERE work_id = ? AND revision = ?");
  const mark = db.prepare("UPDATE history SET milestone = 1 WHERE work_id = ? AND revision = ?");
  const thin = historyThinner(db);
  const sources = sourceStore(db);
  const write = (row: RawWork, name: string, work: Work, note: string, milestone: boolean, clipId = row.clip_id): WorkRow => {
    const document = JSON.stringify(work);
    const at = now();
    const saved = at.toISOString();
    update.run(clipId, name, document, row.revision + 1, saved, row.id);
    append.run(row.id, clipId, row.revision + 1, document, note, saved, milestone ? 1 : 0);
    sources.record(row.id, work);
    thin(row.id, row.revision + 1, at);
    return fromRaw(select.get(row.id) as RawWork);
  };
  const newestOn = db.prepare<[string], { id: string }>(
    "SELECT id FROM work WHERE clip_id = ? AND deleted_at IS NULL ORDER BY saved_at DESC, rowid DESC LIMIT 1",
  );
  // What a revision of a work says of itself never changes: each is read once, however often lists are asked for.
  const told = new Map<string, { readonly revision: number; readonly clipId: string; readonly row: WorkListRow }>();
  const listedOnce = (raw: RawWork): WorkListRow => {
    const known = told.get(raw.id);
    if (known && known.revision === raw.revision && known.clipId === raw.clip_id && known.row.name === raw.name) return known.row;
    const row = listed(raw);
    told.set(raw.id, { revision: raw.revision, clipId: raw.clip_id, row });
    return row;
  };
  const create = db.transaction((clipId: string, name: string, document: Work, note = "Started"): WorkRow => {
    const id = randomUUID();
    const at = now().toISOString();
    const text = JSON.stringify(document);
    insert.run(id, clipId, name, text, at, at);
    append.run(id, clipId, 1, text, note, at, 1);
    sources.record(id, document);
    return fromRaw(select.get(id) as RawWork);
  });
  const save = db.transaction((id: string, base: number, name: string, data: unknown, note: string): SaveResult => {
    const row = select.get(id);
    if (!row) return undefined;
    const document = checkOnClip(checkWork(data), row);
    if (row.revision !== base) return { conflict: fromRaw(row) };
    sources.refuseCircle(id, document);
    return { saved: write(row, name, document, note, false) };
  });
  const restoreAs = (id: string, revision: number, note: string): WorkRow | undefined => {
    const row = select.get(id);
    const old = version.get(id, revision);
    if (!row || !old) return undefined;
    const document = readWork(parse(old.document), old);
    mark.run(id, revision);
    sources.refuseCircle(id, document);
    const clipId = old.clip_id ?? row.clip_id;
    bringBack.run(clipId);
    return write(row, row.name, document, note, true, clipId);
  };
  const restore = db.transaction((id: string, revision: number) => restoreAs(id, revision, `Restored revision ${revision}`));
  const saveMany = db.transaction((changes: readonly WorkChange[], note: string): SavedMany => {
    const rows = changes.map((change) => ({ change, row: select.get(change.id) }));
    const moved = rows.flatMap(({ change, row }) => (row?.revision === change.base ? [] : [change.id]));
    if (moved.length > 0) return { moved };
    return {
      saved: rows.map(({ change, row }) => {
        if (!row) throw new DocumentError("", `there is no work ${change.id}`);
        const clip = clipOf.get(change.clipId ?? row.clip_id);
        if (!clip) throw new DocumentError("clipId", `there is no clip ${change.clipId}`);
        const document = inWork(row.name, () => checkOnClip(checkWork(change.document), clip));
        sources.refuseCircle(row.id, document);
        mark.run(row.id, row.revision);
        const { id, revision } = write(row, row.name, document, note, true, clip.id);
        return { id, revision };
      }),
    };
  });
  const takeBack = db.transaction((list: readonly { readonly id: string; readonly revision: number }[], note: string): TakenBack => {
    const back: string[] = [];
    const kept: { id: string; name: string }[] = [];
    for (const { id, revision } of list) {
      const row = select.get(id);
      if (!row) continue;
      // What was worked on since stays as it is.
      if (row.revision !== revision || !restoreAs(id, revision - 1, note)) kept.push({ id, name: row.name });
      else back.push(id);
    }
    return { back, kept };
  });
  const makeVersion = db.transaction((id: string, name: string | null): number | undefined => {
    const row = select.get(id);
    if (!row) return undefined;
    nameVersion.run((lastVersion.get(id)?.version ?? 0) + 1, name, id, row.revision);
    return historyOf.all(id).find((h) => h.revision === row.revision)?.version ?? undefined;
  });
  const duplicate = db.transaction((id: string, name: string): WorkRow | undefined => {
    const row = select.get(id);
    return row && create(row.clip_id, name, fromRaw(row).document, `Copy of ${row.name}, revision ${row.revision}`);
  });
  return {
    /** Throws DocumentError where the work's document cannot be read. */
    get: (id: string): WorkRow | undefined => {
      const raw = select.get(id);
      return raw && fromRaw(raw);
    },
    list: (): WorkListRow[] => all.all().map(listedOnce),
    /** The work on a clip that was saved last. */
    newestOn: (clipId: string): string | undefined => newestOn.get(clipId)?.id,
    create: (clipId: string, name: string, document: Work): WorkRow => create(clipId, name, document),
    /**
     * Saves on top of `base`; when the work has moved on since, nothing is written and the newer version comes back. Throws DocumentError,
     * with the field, for a document that is wrong.
     */
    save: (id: string, base: number, name: string, document: unknown, note: string): SaveResult => save(id, base, name, document, note),
    history: (id: string): HistoryRow[] =>
      historyOf.all(id).map((h) => ({
        revision: h.revision,
        note: h.note,
        savedAt: h.saved_at,
        milestone: h.milestone === 1,
        version: h.version,
        versionName: h.version_name,
      })),
    version: (id: string, revision: number): Work | undefined => {
      const old = version.get(id, revision);
      return old && readWork(parse(old.document), old);
    },
    /** The document and the clip that a work had at a revision. */
    revision: (id: string, revision: number): { readonly document: Work; readonly clipId: string } | undefined => {
      const old = version.get(id, revision);
      return old && { document: readWork(parse(old.document), old), clipId: old.clip_id };
    },
    /** Makes a numbered version of a work as it is, kept for ever, or names the one that it is already; its number. */
    makeVersion: (id: string, name: string | null): number | undefined => makeVersion(id, name),
    /** The same work once more, with a history of its own. */
    duplicate: (id: string, name: string): WorkRow | undefined => duplicate(id, name),
    /** Saves several works as one step: all of them, or none where one has moved on. Throws DocumentError naming the work. */
    saveMany: (changes: readonly WorkChange[], note: string): SavedMany => saveMany(changes, note),
    /** Takes such a step back, for every work that has not been changed since. */
    takeBack: (list: readonly { readonly id: string; readonly revision: number }[], note: string): TakenBack => takeBack(list, note),
    /** Puts an old revision on top as a new one. */
    restore: (id: string, revision: number): WorkRow | undefined => restore(id, revision),
    /** Keeps a revision for ever. */
    milestone: (id: string, revision: number): void => {
      mark.run(id, revision);
    },
  };
}

export type WorkStore = ReturnType<typeof workStore>;

/** A problem of one work among several is told with its name. */
function inWork<T>(name: string, run: () => T): T {
  try {
    return run();
  } catch (error) {
    if (!(error instanceof DocumentError)) throw error;
    throw new DocumentError(error.field, `in "${name}": ${error.message}`);
  }
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new DocumentError("", "the saved document is damaged: it is no JSON");
  }
}

function fromRaw(raw: RawWork): WorkRow {
  const document = readWork(parse(raw.document), raw);
  return { id: raw.id, clipId: raw.clip_id, name: raw.name, revision: raw.revision, savedAt: raw.saved_at, document };
}

function listed(raw: RawWork): WorkListRow {
  const row = { id: raw.id, clipId: raw.clip_id, name: raw.name, revision: raw.revision, savedAt: raw.saved_at, character: raw.character };
  try {
    return { ...row, patches: readWork(parse(raw.document), raw).patches.length, problem: null };
  } catch (error) {
    return { ...row, patches: 0, problem: error instanceof Error ? error.message : String(error) };
  }
}

/** What a moment may lie behind the end of its motion, frames: ends are inclusive, and rates are rounded. */
const SLACK_FRAMES = 1;

/**
 * A document whose ranges and contacts lie on its clip; over a patch that changes time a range may lie outside what is shown, and is kept. Throws
 * DocumentError naming the first that does not.
 */
function checkOnClip(work: Work, { fps, frames }: DocumentContext & { readonly frames: number }): Work {
  const own = (frames - 1) / fps;
  const slack = SLACK_FRAMES / fps;
  const timed = work.patches.some((p) => patchKind(p.kind)?.warps);
  work.patches.forEach(({ range }, i) => {
    if (!range || timed) return;
    if (range.end < 0) throw new DocumentError(`patches.${i}.range.end`, `${range.end} s lies before the motion's start`);
    for (const end of ["start", "end"] as const) {
      if (range[end] > own + slack) throw new DocumentError(`patches.${i}.range.${end}`, `${range[end]} s lies behind the motion's end at ${own.toFixed(3)} s`);
    }
  });
  work.contacts.forEach((contact, i) => {
    for (const end of ["start", "end"] as const) {
      if (contact[end] > own + slack) throw new DocumentError(`contacts.${i}.${end}`, `${contact[end]} s lies behind the clip's end at ${own.toFixed(3)} s`);
    }
  });
  return work;
}
