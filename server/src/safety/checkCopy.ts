import Database from "better-sqlite3";
import { LATEST_SCHEMA } from "../store/database.ts";
import { diskProblem } from "./disk.ts";

/** A file that is no whole copy of a library. */
export class CopyProblem extends Error {
  override readonly name = "CopyProblem";
}

/** What a copy of a library holds. */
export interface CopyContents {
  readonly clips: number;
  readonly works: number;
}

/**
 * Reads a copy of a library from end to end, and makes it one file that needs no others beside it. Throws CopyProblem for what is no library, damaged, or of a
 * newer version.
 */
export function checkCopy(path: string): CopyContents {
  const told = (error: unknown) => (error instanceof Error ? error.message : String(error));
  let db: Database.Database;
  try {
    db = new Database(path, { fileMustExist: true });
  } catch (error) {
    throw new CopyProblem(`the file cannot be opened: ${told(error)}`);
  }
  try {
    const schema = db.pragma("user_version", { simple: true }) as number;
    if (schema > LATEST_SCHEMA) throw new CopyProblem(`it was written by a newer version (schema ${schema}, this one knows ${LATEST_SCHEMA})`);
    const tables = db.prepare<[], { name: string }>("SELECT name FROM sqlite_master WHERE type = 'table' AND name IN ('clip', 'work', 'history')").all();
    if (schema === 0 || tables.length < 3) throw new CopyProblem("it is no library of this application");
    const check = db.pragma("integrity_check(1)", { simple: true });
    if (check !== "ok") throw new CopyProblem(`it is damaged: ${String(check).slice(0, 200)}`);
    db.pragma("journal_mode = DELETE");
    const count = (table: string) => db.prepare<[], { n: number }>(`SELECT count(*) AS n FROM ${table}`).get()?.n ?? 0;
    return { clips: count("clip"), works: count("work") };
  } catch (error) {
    // What the disk would not do says nothing of the file.
    if (error instanceof CopyProblem || diskProblem(error)?.status === 507) throw error;
    throw new CopyProblem(`it is no library of this application, or damaged: ${told(error)}`);
  } finally {
    db.close();
  }
}
