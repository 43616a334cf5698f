import { z } from "zod";
import type { Db } from "./database.ts";

/** What can be deleted, and brought back: the tables it lies in. */
const TABLES = { clips: "clip", works: "work", poses: "pose", patches: "kept_patches" } as const;
type Sort = keyof typeof TABLES;
const SORTS = Object.keys(TABLES) as Sort[];

/** Deleted things lie aside so long, days; then they are swept away. */
export const KEPT_DAYS = 30;
const DAY_MS = 24 * 3_600_000;

const ids = z.array(z.string().max(100)).max(20_000).default([]);
/** Things by their ids. */
export const thingsSchema = z.strictObject({ clips: ids, works: ids, poses: ids, patches: ids });
export type Things = z.infer<typeof thingsSchema>;

/** Something that was deleted and can still be brought back. */
export interface DeletedRow {
  readonly sort: Sort;
  readonly id: string;
  readonly name: string;
  readonly deletedAt: string;
}

/** Deleting that can be undone: rows are marked, lists leave them out, and after a time they are swept away for good. */
export function deletionStore(db: Db, now: () => Date = () => new Date()) {
  const each = <T>(make: (table: string) => T) => Object.fromEntries(SORTS.map((sort) => [sort, make(TABLES[sort])])) as Record<Sort, T>;
  const mark = each((table) => db.prepare(`UPDATE ${table} SET deleted_at = ? WHERE id = ? AND deleted_at IS NULL`));
  const clear = each((table) => db.prepare(`UPDATE ${table} SET deleted_at = NULL WHERE id = ? AND deleted_at IS NOT NULL`));
  const standing = db.prepare<[string], { id: string; name: string }>("SELECT id, name FROM work WHERE clip_id = ? AND deleted_at IS NULL ORDER BY name");
  const clipOfWork = db.prepare<[string], { clip_id: string }>("SELECT clip_id FROM work WHERE id = ?");
  const listed = db.prepare<[], { sort: Sort; id: string; name: string; deleted_at: string }>(
    `${SORTS.map((sort) => `SELECT '${sort}' AS sort, id, name, deleted_at FROM ${TABLES[sort]} WHERE deleted_at IS NOT NULL`).join(" UNION ALL ")} ORDER BY deleted_at DESC, name LIMIT 1000`,
  );
  const sweep = db.transaction((before: string) => {
    // A clip that an old revision of a work stood on stays as long as the work does.
    for (const table of ["work", "pose", "kept_patches"]) db.prepare(`DELETE FROM ${table} WHERE deleted_at < ?`).run(before);
    db.prepare(
      "DELETE FROM clip WHERE deleted_at < ? AND id NOT IN (SELECT clip_id FROM work) AND id NOT IN (SELECT clip_id FROM history WHERE clip_id IS NOT NULL)",
    ).run(before);
  });
  const remove = db.transaction((things: Partial<Things>): Things => {
    const at = now().toISOString();
    const done: Things = { clips: [], works: [], poses: [], patches: [] };
    // Works before the clips that they stand on.
    for (const sort of ["works", "poses", "patches", "clips"] as const)
      for (const id of things[sort] ?? []) if (mark[sort].run(at, id).changes > 0) done[sort].push(id);
    return done;
  });
  const back = db.transaction((things: Partial<Things>): number => {
    let count = 0;
    for (const sort of SORTS) for (const id of things[sort] ?? []) count += clear[sort].run(id).changes;
    for (const id of things.works ?? []) {
      const clip = clipOfWork.get(id)?.clip_id;
      if (clip !== undefined) clear.clips.run(clip);
    }
    return count;
  });
  return {
    /** The works that stand on a clip. */
    standingOn: (clipId: string): { readonly id: string; readonly name: string }[] => standing.all(clipId),
    /** Puts things aside, all or none; those that were there come back, to be brought back by the same. */
    remove: (things: Partial<Things>): Things => remove(things),
    /** Brings things back as they were, a work with the clip that it stands on; how many there were. */
    back: (things: Partial<Things>): number => back(things),
    /** The newest first. */
    list: (): DeletedRow[] => listed.all().map(({ deleted_at, ...row }) => ({ ...row, deletedAt: deleted_at })),
    /** Sweeps away for good what has lain aside for longer than KEPT_DAYS. */
    sweep: (): void => sweep(new Date(now().getTime() - KEPT_DAYS * DAY_MS).toISOString()),
  };
}

export type DeletionStore = ReturnType<typeof deletionStore>;
