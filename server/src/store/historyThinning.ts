import type { Db } from "./database.ts";

const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;
const WEEK_MS = 7 * DAY_MS;

/** Largest history of one work, bytes of documents, milestones not counted. */
export const LARGEST_HISTORY = 64 * 1024 * 1024;
/** The newest revisions, kept whatever their size. */
export const NEWEST_KEPT = 50;
/** Saves between two looks. */
const EVERY = 20;

/**
 * Keeps what matters of a work's history: every revision of the last day, then one an hour for a week, then one a day, milestones for ever; and no
 * more than LARGEST_HISTORY beside them and the newest, the oldest going first. Looks once in twenty saves.
 */
export function historyThinner(db: Db): (workId: string, revision: number, now: Date) => void {
  const rows = db.prepare<[string], { revision: number; saved_at: string; bytes: number }>(
    "SELECT revision, saved_at, length(document) AS bytes FROM history WHERE work_id = ? AND milestone = 0 ORDER BY revision DESC",
  );
  const drop = db.prepare("DELETE FROM history WHERE work_id = ? AND revision = ?");
  return (workId, revision, now) => {
    if (revision % EVERY !== 0) return;
    const kept = new Set<string>();
    let bytes = 0;
    rows.all(workId).forEach((row, i) => {
      const age = now.getTime() - Date.parse(row.saved_at);
      const bucket = age <= DAY_MS ? `${row.revision}` : row.saved_at.slice(0, age <= WEEK_MS ? "2026-01-01T00".length : "2026-01-01".length);
      bytes += row.bytes;
      const old = i >= NEWEST_KEPT;
      // Newest first: the last of its hour or day is met first, and stands for it.
      if (old && (kept.has(bucket) || bytes > LARGEST_HISTORY)) drop.run(workId, row.revision);
      kept.add(bucket);
    });
  };
}
