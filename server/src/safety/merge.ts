import { randomUUID } from "node:crypto";
import { type Db, openDatabase } from "../store/database.ts";

/** What merging another library brought: what is new here, what was here already, and works that stand beside a changed one of the same origin. */
export interface Merged {
  readonly clips: { readonly added: number; readonly known: number };
  readonly works: { readonly added: number; readonly known: number; readonly beside: number };
  readonly poses: { readonly added: number; readonly known: number };
  readonly patches: { readonly added: number; readonly known: number };
}

/**
 * Takes another library's things into this one, by content: a clip that is here already (same file, read the same way) is not brought in twice, a work that is here unchanged neither;
 * one that was changed here or there is put beside. Nothing of this library is changed. `path` is a checked copy of its own, which is brought up to this version. One transaction.
 */
export function mergeLibrary(db: Db, path: string): Merged {
  openDatabase(path).close();
  db.prepare("ATTACH DATABASE ? AS other").run(path);
  try {
    return db.transaction(() => merged(db))();
  } finally {
    db.exec("DETACH DATABASE other");
  }
}

const CLIP = "name, file_name, sha256, unit_scale, up_axis, take, tags, folder, summary, created_at, is_character, notes";

function merged(db: Db): Merged {
  const clipOf = new Map<string, string>();
  const clips = { added: 0, known: 0 };
  const twin = db.prepare<[string, number | null, string | null, string | null], { id: string }>(
    "SELECT id FROM main.clip WHERE sha256 = ? AND unit_scale IS ? AND up_axis IS ? AND take IS ? AND deleted_at IS NULL ORDER BY created_at LIMIT 1",
  );
  const clipById = db.prepare<[string], { id: string }>("SELECT id FROM main.clip WHERE id = ?");
  const addClip = db.prepare(`INSERT INTO main.clip (id, ${CLIP}) SELECT ?, ${CLIP} FROM other.clip WHERE id = ?`);
  const addBytes = db.prepare("INSERT INTO main.content (sha256, bytes) SELECT sha256, bytes FROM other.content WHERE sha256 = ? ON CONFLICT DO NOTHING");
  const addPicture = db.prepare("INSERT INTO main.clip_picture (clip_id, picture) SELECT ?, picture FROM other.clip_picture WHERE clip_id = ?");
  // A clip that only the past of a work stands on comes along with it.
  for (const row of db
    .prepare<[], { id: string; sha256: string; unit_scale: number | null; up_axis: string | null; take: string | null; deleted_at: string | null }>(
      `SELECT id, sha256, unit_scale, up_axis, take, deleted_at FROM other.clip WHERE deleted_at IS NULL
         OR id IN (SELECT history.clip_id FROM other.history JOIN other.work ON work.id = work_id WHERE work.deleted_at IS NULL)`,
    )
    .all()) {
    const here = twin.get(row.sha256, row.unit_scale, row.up_axis, row.take);
    if (here) {
      clipOf.set(row.id, here.id);
      clips.known++;
      continue;
    }
    const id = clipById.get(row.id) ? randomUUID() : row.id;
    addClip.run(id, row.id);
    addBytes.run(row.sha256);
    addPicture.run(id, row.id);
    if (row.deleted_at) db.prepare("UPDATE main.clip SET deleted_at = ? WHERE id = ?").run(row.deleted_at, id);
    clipOf.set(row.id, id);
    clips.added++;
  }
  return {
    clips,
    works: mergedWorks(db, clipOf),
    poses: mergedRows(db, "pose", "name, kind, data, picture, created_at"),
    patches: mergedRows(db, "kept_patches", "name, data, created_at"),
  };
}

function mergedWorks(db: Db, clipOf: ReadonlyMap<string, string>): Merged["works"] {
  const works = { added: 0, known: 0, beside: 0 };
  const here = db.prepare<[string], { document: string; name: string; deleted_at: string | null }>(
    "SELECT document, name, deleted_at FROM main.work WHERE id = ?",
  );
  const same = db.prepare<[string, string, string], { id: string }>(
    "SELECT id FROM main.work WHERE clip_id = ? AND document = ? AND name = ? AND deleted_at IS NULL",
  );
  const add = db.prepare("INSERT INTO main.work (id, clip_id, name, revision, document, created_at, saved_at) VALUES (?, ?, ?, ?, ?, ?, ?)");
  const pastOf = db.prepare<[string], { clip_id: string | null; revision: number }>("SELECT clip_id, revision FROM other.history WHERE work_id = ?");
  const addPast = db.prepare(
    `INSERT INTO main.history (work_id, clip_id, revision, document, note, saved_at, milestone, version, version_name)
     SELECT ?, ?, revision, document, note, saved_at, milestone, version, version_name FROM other.history WHERE work_id = ? AND revision = ?`,
  );
  const addSources = db.prepare(
    "INSERT INTO main.work_source (work_id, sha256, take, name, revision) SELECT ?, sha256, take, name, revision FROM other.work_source WHERE work_id = ?",
  );
  for (const row of db
    .prepare<[], { id: string; clip_id: string; name: string; revision: number; document: string; created_at: string; saved_at: string }>(
      "SELECT id, clip_id, name, revision, document, created_at, saved_at FROM other.work WHERE deleted_at IS NULL",
    )
    .all()) {
    const clip = clipOf.get(row.clip_id);
    if (clip === undefined) continue;
    const own = here.get(row.id);
    if ((own && own.document === row.document && own.deleted_at === null) || same.get(clip, row.document, row.name)) {
      works.known++;
      continue;
    }
    const id = own ? randomUUID() : row.id;
    add.run(id, clip, own ? `${row.name} (from the copy)`.slice(0, 200) : row.name, row.revision, row.document, row.created_at, row.saved_at);
    for (const past of pastOf.all(row.id)) addPast.run(id, clipOf.get(past.clip_id ?? row.clip_id) ?? clip, row.id, past.revision);
    addSources.run(id, row.id);
    if (own) works.beside++;
    else works.added++;
  }
  return works;
}

/** Rows of a table that are here already when all but their id is the same. */
function mergedRows(db: Db, table: "pose" | "kept_patches", columns: string): { added: number; known: number } {
  const total = db.prepare<[], { n: number }>(`SELECT count(*) AS n FROM other.${table} WHERE deleted_at IS NULL`).get()?.n ?? 0;
  const alike = columns
    .split(", ")
    .filter((column) => column !== "created_at")
    .map((column) => `mine.${column} = theirs.${column}`)
    .join(" AND ");
  const { changes } = db
    .prepare(
      `INSERT INTO main.${table} (id, ${columns}) SELECT lower(hex(randomblob(16))), ${columns} FROM other.${table} AS theirs
       WHERE deleted_at IS NULL AND NOT EXISTS (SELECT 1 FROM main.${table} AS mine WHERE ${alike} AND mine.deleted_at IS NULL)`,
    )
    .run();
  return { added: changes, known: total - changes };
}
