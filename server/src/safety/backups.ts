import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from "node:fs";
import { join } from "node:path";
import type { JobPool } from "../pool.ts";
import type { Db } from "../store/database.ts";
import type { CopyContents } from "./checkCopy.ts";

/** Where copies lie in the folder of the library. */
export const COPIES_FOLDER = "copies";
/** Copies that are kept; the oldest goes when there is one more. */
export const COPIES_KEPT = 7;
const DAY_MS = 24 * 3_600_000;
/** How often it is looked whether a day has passed. */
const LOOK_MS = 10 * 60_000;
/** Database pages that are copied between two turns of the event loop. */
const PAGES_AT_ONCE = 400;
const NAME = /^stride-\d{8}-\d{6}-\d{3}\.db$/;

/** A copy of the whole library as one file. */
export interface LibraryCopy {
  readonly name: string;
  readonly bytes: number;
  readonly madeAt: string;
}

/** The path of the newest copy in a folder, or undefined. */
export function newestCopy(folder: string): string | undefined {
  const [newest] = copiesIn(folder);
  return newest && join(folder, newest.name);
}

/** Copies in a folder, the newest first. */
function copiesIn(folder: string): LibraryCopy[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .filter((name) => NAME.test(name))
    .sort()
    .reverse()
    .map((name) => {
      const { size, mtime } = statSync(join(folder, name));
      return { name, bytes: size, madeAt: mtime.toISOString() };
    });
}

/** What there is to say of copies. */
export interface CopiesState {
  readonly folder: string;
  readonly kept: number;
  readonly copies: readonly LibraryCopy[];
  /** why the last copy that was to be made by itself was not; null: none failed */
  readonly problem: string | null;
}

/** Copies of the library, made while it is in use, checked from end to end before they count, and thinned to the newest ones. */
export class Backups {
  private problem: string | null = null;
  private timer: NodeJS.Timeout | undefined;
  private making: Promise<LibraryCopy & CopyContents> | null = null;

  constructor(
    private readonly db: Db,
    private readonly pool: JobPool,
    private readonly folder: string,
    private readonly now: () => Date = () => new Date(),
  ) {}

  /** Makes one when a day has passed since the last, now and from then on. */
  keepDaily(): void {
    const look = () => {
      const [newest] = copiesIn(this.folder);
      if (newest && this.now().getTime() - Date.parse(newest.madeAt) < DAY_MS) return;
      this.make().catch((error: unknown) =>
        console.error(`The daily copy of the library was not made: ${error instanceof Error ? error.message : String(error)}`),
      );
    };
    look();
    this.timer = setInterval(look, LOOK_MS);
    this.timer.unref();
  }

  stop(): void {
    clearInterval(this.timer);
  }

  state(): CopiesState {
    return { folder: this.folder, kept: COPIES_KEPT, copies: copiesIn(this.folder), problem: this.problem };
  }

  /** A copy by its name. No path is built from anything that is not one of ours. */
  file(name: string): (LibraryCopy & { readonly path: string }) | undefined {
    const found = copiesIn(this.folder).find((copy) => copy.name === name);
    return found && { ...found, path: join(this.folder, found.name) };
  }

  /** Makes a copy now. Throws where the disk will not have it, or what was written is not whole; nothing of it is left then. */
  make(): Promise<LibraryCopy & CopyContents> {
    this.making ??= this.copy().finally(() => {
      this.making = null;
    });
    return this.making;
  }

  private async copy(): Promise<LibraryCopy & CopyContents> {
    const name = `stride-${this.now().toISOString().replace(/[-:]/g, "").replace("T", "-").replace(".", "-").slice(0, 19)}.db`;
    const part = join(this.folder, `${name}.part`);
    try {
      mkdirSync(this.folder, { recursive: true });
      this.sweepParts();
      await this.db.backup(part, { progress: () => PAGES_AT_ONCE });
      const contents = await this.pool.run<CopyContents>({ kind: "checkCopy", path: part });
      const path = join(this.folder, name);
      renameSync(part, path);
      for (const { name: old } of copiesIn(this.folder).slice(COPIES_KEPT)) rmSync(join(this.folder, old), { force: true });
      this.problem = null;
      return { name, bytes: statSync(path).size, madeAt: this.now().toISOString(), ...contents };
    } catch (error) {
      this.problem = error instanceof Error ? error.message : String(error);
      for (const end of ["", "-journal", "-wal", "-shm"]) rmSync(`${part}${end}`, { force: true });
      throw error;
    }
  }

  /** What a server that was killed left half done. */
  private sweepParts(): void {
    for (const name of readdirSync(this.folder)) if (/\.db\.part/.test(name)) rmSync(join(this.folder, name), { force: true });
  }
}
