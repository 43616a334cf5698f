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
  readonly patches: number;
  readonly problem: string | null;
}

export interface HistoryRow {
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
  /** of the clip, as it was measured: what moments of the document are counted against */
  fps: number;
  frames: number;
}

const SELECT = `SELECT work.id, clip_id, work.name, revision, document, saved_at,
  json_extract(clip.summary, '$.fps') AS fps, json_extract(clip.summary, '$.frames') AS frames FROM work JOIN clip ON clip.id = work.clip_id`;

/** What a save ended with: the new row, the newer row that stands in its way, or nothing of that id. */
export type SaveResult = { readonly saved: WorkRow } | { readonly conflict: WorkRow } | undefined;

/** Works with their history. Every write is one transaction. */
export function workStore(db: Db, now: () => Date = () => new Date()) {
  const select = db.prepare<[string], RawWork>(`${SELECT} WHERE work.id = ?`);
  const all = db.prepare<[], RawWork>(`${SELECT} ORDER BY saved_at DESC`);
  const insert = db.prepare("INSERT INTO work (id, clip_id, name, revision, document, created_at, saved_at) VALUES (?, ?, ?, 1, ?, ?, ?)");
  const update = db.prepare("UPDATE work SET name = ?, document = ?, revision = ?, saved_at = ? WHERE id = ?");
  const append = db.prepare("INSERT INTO history (work_id, revision, document, note, saved_at, milestone) VALUES (?, ?, ?, ?, ?, ?)");
  const historyOf = db.prepare<[string], { revision: number; note: string; saved_at: string; milestone: number }>(
    "SELECT revision, note, saved_at, milestone FROM history WHERE work_id = ? ORDER BY revision DESC",
  );
  const version = db.prepare<[string, number], { document: string }>("SELECT document FROM history WHERE work_id = ? AND revision = ?");
  const mark = db.prepare("UPDATE history SET milestone = 1 WHERE work_id = ? AND revision = ?");
  const remove = db.prepare("DELETE FROM work WHERE id = ?");
  const thin = historyThinner(db);
  const sources = sourceStore(db);
  const write = (row: RawWork, name: string, work: Work, note: string, milestone: boolean): WorkRow => {
    const document = JSON.stringify(work);
    const at = now();
    const saved = at.toISOString();
    update.run(name, document, row.revision + 1, saved, row.id);
    append.run(row.id, row.revision + 1, document, note, saved, milestone ? 1 : 0);
    sources.record(row.id, work);
    thin(row.id, row.revision + 1, at);
    return fromRaw(select.get(row.id) as RawWork);
  };
  const create = db.transaction((clipId: string, name: string, document: Work): WorkRow => {
    const id = randomUUID();
    const at = now().toISOString();
    const text = JSON.stringify(document);
    insert.run(id, clipId, name, text, at, at);
    append.run(id, 1, text, "Started", at, 1);
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
  const restore = db.transaction((id: string, revision: number): WorkRow | undefined => {
    const row = select.get(id);
    const old = version.get(id, revision);
    if (!row || !old) return undefined;
    const document = readWork(parse(old.document), row);
    mark.run(id, revision);
    sources.refuseCircle(id, document);
    return write(row, row.name, document, `Restored revision ${revision}`, true);
  });
  return {
    /** Throws DocumentError where the work's document cannot be read. */
    get: (id: string): WorkRow | undefined => {
      const raw = select.get(id);
      return raw && fromRaw(raw);
    },
    list: (): WorkListRow[] => all.all().map(listed),
    create: (clipId: string, name: string, document: Work): WorkRow => create(clipId, name, document),
    /**
     * Saves on top of `base`; when the work has moved on since, nothing is written and the newer version comes back. Throws DocumentError,
     * with the field, for a document that is wrong.
     */
    save: (id: string, base: number, name: string, document: unknown, note: string): SaveResult => save(id, base, name, document, note),
    history: (id: string): HistoryRow[] =>
      historyOf.all(id).map((h) => ({ revision: h.revision, note: h.note, savedAt: h.saved_at, milestone: h.milestone === 1 })),
    version: (id: string, revision: number): Work | undefined => {
      const row = select.get(id);
      const old = version.get(id, revision);
      return row && old && readWork(parse(old.document), row);
    },
    /** Puts an old revision on top as a new one. */
    restore: (id: string, revision: number): WorkRow | undefined => restore(id, revision),
    /** Keeps a revision for ever. */
    milestone: (id: string, revision: number): void => {
      mark.run(id, revision);
    },
    remove: (id: string): boolean => remove.run(id).changes > 0,
  };
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
  const row = { id: raw.id, clipId: raw.clip_id, name: raw.name, revision: raw.revision, savedAt: raw.saved_at };
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
