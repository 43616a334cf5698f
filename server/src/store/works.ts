import { randomUUID } from "node:crypto";
import { readDocument, WORK_FORMAT, type Work, workSchema } from "@stride/motion";
import type { Db } from "./database.ts";

export interface WorkRow {
  readonly id: string;
  readonly clipId: string;
  readonly name: string;
  readonly revision: number;
  readonly document: Work;
  readonly savedAt: string;
}

export interface HistoryRow {
  readonly revision: number;
  readonly note: string;
  readonly savedAt: string;
}

interface RawWork {
  id: string;
  clip_id: string;
  name: string;
  revision: number;
  document: string;
  saved_at: string;
}

const COLUMNS = "id, clip_id, name, revision, document, saved_at";

/** What a save ended with: the new row, the newer row that stands in its way, or nothing of that id. */
export type SaveResult = { readonly saved: WorkRow } | { readonly conflict: WorkRow } | undefined;

/** Works with their history. Every write is one transaction. */
export function workStore(db: Db) {
  const select = db.prepare<[string], RawWork>(`SELECT ${COLUMNS} FROM work WHERE id = ?`);
  const all = db.prepare<[], RawWork>(`SELECT ${COLUMNS} FROM work ORDER BY saved_at DESC`);
  const insert = db.prepare("INSERT INTO work (id, clip_id, name, revision, document, created_at, saved_at) VALUES (?, ?, ?, 1, ?, ?, ?)");
  const update = db.prepare("UPDATE work SET name = ?, document = ?, revision = ?, saved_at = ? WHERE id = ?");
  const append = db.prepare("INSERT INTO history (work_id, revision, document, note, saved_at) VALUES (?, ?, ?, ?, ?)");
  const historyOf = db.prepare<[string], { revision: number; note: string; saved_at: string }>(
    "SELECT revision, note, saved_at FROM history WHERE work_id = ? ORDER BY revision DESC",
  );
  const version = db.prepare<[string, number], { document: string }>("SELECT document FROM history WHERE work_id = ? AND revision = ?");
  const remove = db.prepare("DELETE FROM work WHERE id = ?");
  const get = (id: string): WorkRow | undefined => {
    const raw = select.get(id);
    return raw && fromRaw(raw);
  };
  const write = (row: RawWork, name: string, document: string, note: string): WorkRow => {
    const now = new Date().toISOString();
    update.run(name, document, row.revision + 1, now, row.id);
    append.run(row.id, row.revision + 1, document, note, now);
    return get(row.id) as WorkRow;
  };
  const create = db.transaction((clipId: string, name: string, document: Work): WorkRow => {
    const id = randomUUID();
    const now = new Date().toISOString();
    const text = JSON.stringify(document);
    insert.run(id, clipId, name, text, now, now);
    append.run(id, 1, text, "Started", now);
    return get(id) as WorkRow;
  });
  const save = db.transaction((id: string, base: number, name: string, document: Work, note: string): SaveResult => {
    const row = select.get(id);
    if (!row) return undefined;
    if (row.revision !== base) return { conflict: fromRaw(row) };
    return { saved: write(row, name, JSON.stringify(document), note) };
  });
  const restore = db.transaction((id: string, revision: number): WorkRow | undefined => {
    const row = select.get(id);
    const old = version.get(id, revision);
    return row && old ? write(row, row.name, old.document, `Restored revision ${revision}`) : undefined;
  });
  return {
    get,
    list: (): WorkRow[] => all.all().map(fromRaw),
    create: (clipId: string, name: string, document: Work): WorkRow => create(clipId, name, document),
    /** Saves on top of `base`; when the work has moved on since, nothing is written and the newer version comes back. */
    save: (id: string, base: number, name: string, document: Work, note: string): SaveResult => save(id, base, name, document, note),
    history: (id: string): HistoryRow[] => historyOf.all(id).map((h) => ({ revision: h.revision, note: h.note, savedAt: h.saved_at })),
    version: (id: string, revision: number): Work | undefined => {
      const row = version.get(id, revision);
      return row && readDocument(workSchema, WORK_FORMAT, JSON.parse(row.document));
    },
    /** Puts an old revision on top as a new one. */
    restore: (id: string, revision: number): WorkRow | undefined => restore(id, revision),
    remove: (id: string): void => {
      remove.run(id);
    },
  };
}

export type WorkStore = ReturnType<typeof workStore>;

function fromRaw(raw: RawWork): WorkRow {
  return {
    id: raw.id,
    clipId: raw.clip_id,
    name: raw.name,
    revision: raw.revision,
    document: readDocument(workSchema, WORK_FORMAT, JSON.parse(raw.document)),
    savedAt: raw.saved_at,
  };
}
