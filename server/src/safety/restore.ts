import { closeSync, copyFileSync, existsSync, fsyncSync, mkdirSync, openSync, renameSync, rmSync } from "node:fs";
import { join } from "node:path";
import Database from "better-sqlite3";
import { type CopyContents, CopyProblem, checkCopy } from "./checkCopy.ts";

/** What putting a copy back did. */
export interface Restored extends CopyContents {
  /** where the library that was there lies now; null: there was none */
  readonly aside: string | null;
}

/**
 * Puts a copy in the place of a library. The copy is checked from end to end first; the library that was there is set aside, whatever state it is in. Throws CopyProblem where the copy
 * is not whole, or a server still uses the library; nothing is changed then.
 */
export function restoreCopy(copy: string, dataFolder: string, now = new Date()): Restored {
  const path = join(dataFolder, "stride.db");
  refuseInUse(path);
  const part = `${path}.part`;
  mkdirSync(dataFolder, { recursive: true });
  const contents = checkedCopy(copy, part);
  const file = openSync(part, "r+");
  fsyncSync(file);
  closeSync(file);
  const aside = existsSync(path) ? join(dataFolder, `stride-before-${now.toISOString().replace(/[:.]/g, "-")}.db`) : null;
  if (aside) {
    // What is not yet in the file itself goes along with it.
    for (const end of ["-wal", "-shm"]) if (existsSync(path + end)) renameSync(path + end, aside + end);
    renameSync(path, aside);
  }
  for (const end of ["-wal", "-shm"]) rmSync(path + end, { force: true });
  renameSync(part, path);
  return { ...contents, aside };
}

/** A copy of the copy, which is read from end to end: the file itself stays as it is. Nothing is left where it is not whole. */
function checkedCopy(copy: string, part: string): CopyContents {
  try {
    copyFileSync(copy, part);
    return checkCopy(part);
  } catch (error) {
    for (const end of ["", "-wal", "-shm", "-journal"]) rmSync(part + end, { force: true });
    throw error;
  }
}

function refuseInUse(path: string): void {
  if (!existsSync(path)) return;
  let db: Database.Database | undefined;
  try {
    db = new Database(path, { timeout: 0 });
    db.pragma("locking_mode = EXCLUSIVE");
    db.exec("BEGIN EXCLUSIVE; ROLLBACK");
  } catch (error) {
    const code = typeof error === "object" && error !== null && "code" in error ? String(error.code) : "";
    if (code.startsWith("SQLITE_BUSY")) throw new CopyProblem(`${path} is in use; stop the server first`);
    // A damaged library is what copies are for.
  } finally {
    db?.close();
  }
}
