import type { FindingKind } from "@stride/motion";
import { z } from "zod";
import { CLIP_COLUMNS, type ClipRow, fromRaw, type RawClip } from "./clips.ts";
import type { Db } from "./database.ts";

/** What a list may be sorted by, and the column that it is. */
const ORDERS = {
  name: "name COLLATE NOCASE",
  newest: "created_at",
  character: "character COLLATE NOCASE",
  length: "seconds",
  rate: "fps",
  joints: "joints",
  slide: "slide",
  findings: "findings",
  folder: "folder COLLATE NOCASE",
} as const;
export type ClipOrder = keyof typeof ORDERS;

/** Rates closer than this are one, frames a second: files tell a frame's time with few digits. */
const SAME_RATE = 0.05;

/** Most rows of one page. */
const MOST_ROWS = 200;

/** What is asked of the library: words that are begun, a character, what needs work, an order, and where the page before ended. */
export const clipQuerySchema = z.object({
  search: z.string().max(200).optional(),
  character: z.string().max(200).optional(),
  needsWork: z.enum(["yes"]).optional(),
  /** a folder, with those inside it; empty: clips that lie in none */
  folder: z.string().max(200).optional(),
  /** a kind of finding */
  fault: z.string().max(40).optional(),
  fps: z.coerce.number().positive().optional(),
  shortest: z.coerce.number().min(0).optional(),
  longest: z.coerce.number().min(0).optional(),
  order: z.enum(Object.keys(ORDERS) as [ClipOrder, ...ClipOrder[]]).default("slide"),
  down: z.enum(["yes", "no"]).default("yes"),
  after: z.string().max(2000).optional(),
  limit: z.coerce.number().int().min(1).max(MOST_ROWS).default(60),
});
export type ClipQuery = z.infer<typeof clipQuerySchema>;

interface RawRow extends RawClip {
  readonly uses: string;
  readonly works: number;
  readonly at: string | number;
}

/** A clip as lists show it: with the names of the works that draw on it beside those that stand on it. */
export interface ListedClip extends ClipRow {
  readonly drawnOnBy: readonly string[];
  /** how many works stand on it */
  readonly works: number;
}

/** Some rows of the library, and how to ask for the next ones. */
export interface ClipPage {
  readonly clips: readonly ListedClip[];
  /** how many there are in all that match */
  readonly total: number;
  /** null behind the last */
  readonly next: string | null;
}

/** What the whole library holds, to choose from. */
export interface ClipFacets {
  readonly total: number;
  readonly needsWork: number;
  readonly characters: readonly Facet<string>[];
  readonly folders: readonly Facet<string>[];
  readonly rates: readonly Facet<number>[];
  /** kinds of findings, and in how many clips each is */
  readonly faults: readonly Facet<FindingKind>[];
}

/** One choice, and how many clips it leaves. */
export interface Facet<T> {
  readonly name: T;
  readonly count: number;
}

/** A place in a list that cannot be read. */
export class CursorError extends Error {
  override readonly name = "CursorError";
}

/** The library in pages by cursor: rows behind the last one that was seen, however many come or go before it. */
export function clipPages(db: Db) {
  const facets = {
    total: db.prepare<[], { count: number }>("SELECT count(*) AS count FROM clip WHERE deleted_at IS NULL AND is_character = 0"),
    needsWork: db.prepare<[], { count: number }>("SELECT count(*) AS count FROM clip WHERE findings > 0 AND deleted_at IS NULL AND is_character = 0"),
    characters: db.prepare<[], { name: string; count: number }>(
      "SELECT character AS name, count(*) AS count FROM clip WHERE character <> '' AND deleted_at IS NULL AND is_character = 0 GROUP BY character COLLATE NOCASE ORDER BY min(created_at), min(rowid)",
    ),
    folders: db.prepare<[], Facet<string>>(
      "SELECT folder AS name, count(*) AS count FROM clip WHERE folder <> '' AND deleted_at IS NULL AND is_character = 0 GROUP BY folder COLLATE NOCASE ORDER BY folder COLLATE NOCASE",
    ),
    rates: db.prepare<[], Facet<number>>(
      "SELECT fps AS name, count(*) AS count FROM clip WHERE deleted_at IS NULL AND is_character = 0 GROUP BY fps ORDER BY fps",
    ),
    faults: db.prepare<[], Facet<FindingKind>>(
      "SELECT kind AS name, count(*) AS count FROM clip_fault JOIN clip ON clip.id = clip_id WHERE deleted_at IS NULL AND is_character = 0 GROUP BY kind ORDER BY 2 DESC",
    ),
  };
  return {
    facets: (): ClipFacets => ({
      total: facets.total.get()?.count ?? 0,
      needsWork: facets.needsWork.get()?.count ?? 0,
      characters: facets.characters.all(),
      folders: facets.folders.all(),
      rates: facets.rates.all(),
      faults: facets.faults.all(),
    }),
    /** Throws CursorError for a place that none of these lists gave. */
    page({ search, character, needsWork, folder, fault, fps, shortest, longest, order, down, after, limit }: ClipQuery): ClipPage {
      const conditions = ["clip.deleted_at IS NULL", "is_character = 0"];
      const values: (string | number)[] = [];
      const words = wordsOf(search ?? "");
      if (words) {
        conditions.push("clip.rowid IN (SELECT rowid FROM clip_text WHERE clip_text MATCH ?)");
        values.push(words);
      }
      if (character !== undefined) {
        conditions.push("character = ? COLLATE NOCASE");
        values.push(character);
      }
      if (needsWork) conditions.push("findings > 0");
      const also = (condition: string, ...given: (string | number)[]) => {
        conditions.push(condition);
        values.push(...given);
      };
      if (folder === "") also("folder = ''");
      else if (folder !== undefined) also("(folder = ? COLLATE NOCASE OR substr(folder, 1, ?) = ? COLLATE NOCASE)", folder, folder.length + 1, `${folder}/`);
      if (fault !== undefined) also("clip.id IN (SELECT clip_id FROM clip_fault WHERE kind = ?)", fault);
      if (fps !== undefined) also("abs(fps - ?) < ?", fps, SAME_RATE);
      if (shortest !== undefined) also("seconds >= ?", shortest);
      if (longest !== undefined) also("seconds <= ?", longest);
      const where = (list: readonly string[]) => `WHERE ${list.join(" AND ")}`;
      const total = db.prepare<(string | number)[], { count: number }>(`SELECT count(*) AS count FROM clip ${where(conditions)}`).get(...values)?.count ?? 0;
      const column = ORDERS[order];
      const [direction, sign] = down === "yes" ? (["DESC", "<"] as const) : (["ASC", ">"] as const);
      if (after !== undefined) {
        const [at, id] = placeOf(after);
        conditions.push(`(${column}, clip.id) ${sign} (?, ?)`);
        values.push(at, id);
      }
      const rows = db
        .prepare<(string | number)[], RawRow>(
          `SELECT ${CLIP_COLUMNS}, ${column} AS at,
             (SELECT count(*) FROM work WHERE work.clip_id = clip.id AND work.deleted_at IS NULL) AS works,
             (SELECT json_group_array(work.name) FROM (SELECT DISTINCT work_id FROM work_source WHERE work_source.sha256 = clip.sha256 AND work_source.take IS clip.take) JOIN work ON work.id = work_id WHERE work.deleted_at IS NULL) AS uses
           FROM clip ${where(conditions)} ORDER BY ${column} ${direction}, clip.id ${direction} LIMIT ?`,
        )
        .all(...values, limit + 1);
      const shown = rows.slice(0, limit);
      const last = shown.at(-1);
      return {
        clips: shown.map((raw) => ({ ...fromRaw(raw), drawnOnBy: JSON.parse(raw.uses) as string[], works: raw.works })),
        total,
        next: rows.length > limit && last ? Buffer.from(JSON.stringify([last.at, last.id])).toString("base64url") : null,
      };
    },
  };
}

export type ClipPages = ReturnType<typeof clipPages>;

/** Words as FTS5 asks for them: each begun, all of them there; null where there is none. Quotes keep its own syntax out. */
export function wordsOf(search: string): string | null {
  const words = search.match(/[\p{L}\p{N}]+/gu) ?? [];
  return words.length > 0 ? words.map((word) => `"${word}"*`).join(" ") : null;
}

const placeSchema = z.tuple([z.union([z.string(), z.number()]), z.string()]);

function placeOf(cursor: string): [string | number, string] {
  try {
    return placeSchema.parse(JSON.parse(Buffer.from(cursor, "base64url").toString("utf8")));
  } catch {
    throw new CursorError("this place in the list is not known; read it from its start");
  }
}
