import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { ROOT } from "../places.ts";

export type Db = Database.Database;

const MIGRATIONS = join(ROOT, "server/migrations");
const STEPS = readdirSync(MIGRATIONS)
  .filter((name) => name.endsWith(".sql"))
  .sort();
/** The schema that this version writes. */
export const LATEST_SCHEMA = STEPS.length;

/**
 * Opens (or makes) the database file and brings it up to date. WAL with full synchronisation: a write that was answered is on disk,
 * whatever happens to the process next.
 */
export function openDatabase(path: string): Db {
  const db = new Database(path);
  db.pragma("journal_mode = WAL");
  db.pragma("synchronous = FULL");
  db.pragma("foreign_keys = ON");
  db.pragma("busy_timeout = 5000");
  migrate(db);
  return db;
}

function migrate(db: Db): void {
  const done = db.pragma("user_version", { simple: true }) as number;
  if (done > LATEST_SCHEMA) throw new Error(`the database was written by a newer version (schema ${done}, this one knows ${LATEST_SCHEMA})`);
  STEPS.slice(done).forEach((name, i) => {
    db.transaction(() => {
      db.exec(readFileSync(join(MIGRATIONS, name), "utf8"));
      db.pragma(`user_version = ${done + i + 1}`);
    })();
  });
}
