import { randomUUID } from "node:crypto";
import type { ClipSummary } from "../summary.ts";
import type { Db } from "./database.ts";

export interface ClipRow {
  readonly id: string;
  readonly name: string;
  readonly fileName: string;
  readonly sha256: string;
  readonly unitScale: number | null;
  readonly upAxis: "y" | "z" | null;
  readonly tags: readonly string[];
  readonly summary: ClipSummary;
  readonly createdAt: string;
}

interface RawClip {
  id: string;
  name: string;
  file_name: string;
  sha256: string;
  unit_scale: number | null;
  up_axis: "y" | "z" | null;
  tags: string;
  summary: string;
  created_at: string;
}

const COLUMNS = "id, name, file_name, sha256, unit_scale, up_axis, tags, summary, created_at";

/** Clips of the library: rows without their bytes, and the bytes on request. */
export function clipStore(db: Db) {
  const select = db.prepare<[string], RawClip>(`SELECT ${COLUMNS} FROM clip WHERE id = ?`);
  const all = db.prepare<[], RawClip>(`SELECT ${COLUMNS} FROM clip ORDER BY created_at, rowid`);
  const countAll = db.prepare<[], { count: number }>("SELECT count(*) AS count FROM clip");
  const bytesOf = db.prepare<[string], { bytes: Buffer }>("SELECT bytes FROM clip WHERE id = ?");
  const insert = db.prepare(
    "INSERT INTO clip (id, name, file_name, sha256, bytes, unit_scale, up_axis, tags, summary, created_at) VALUES (?, ?, ?, ?, ?, NULL, NULL, ?, ?, ?)",
  );
  const setReading = db.prepare("UPDATE clip SET unit_scale = ?, up_axis = ?, summary = ? WHERE id = ?");
  const rename = db.prepare("UPDATE clip SET name = ? WHERE id = ?");
  const worksOf = db.prepare<[string], { count: number }>("SELECT count(*) AS count FROM work WHERE clip_id = ?");
  const ofContent = db.prepare<[string], RawClip>(`SELECT ${COLUMNS} FROM clip WHERE sha256 = ? ORDER BY created_at, rowid`);
  const remove = db.prepare("DELETE FROM clip WHERE id = ?");
  return {
    count: (): number => countAll.get()?.count ?? 0,
    list: (): ClipRow[] => all.all().map(fromRaw),
    get: (id: string): ClipRow | undefined => {
      const raw = select.get(id);
      return raw && fromRaw(raw);
    },
    /** Clips with this content, the first one brought in first. */
    ofContent: (sha256: string): ClipRow[] => ofContent.all(sha256).map(fromRaw),
    bytes: (id: string): Buffer | undefined => bytesOf.get(id)?.bytes,
    add(clip: { name: string; fileName: string; bytes: Buffer; sha256: string; tags: readonly string[]; summary: ClipSummary }): ClipRow {
      const id = randomUUID();
      insert.run(id, clip.name, clip.fileName, clip.sha256, clip.bytes, JSON.stringify(clip.tags), JSON.stringify(clip.summary), new Date().toISOString());
      return fromRaw(select.get(id) as RawClip);
    },
    setReading(id: string, unitScale: number | null, upAxis: "y" | "z" | null, summary: ClipSummary): void {
      setReading.run(unitScale, upAxis, JSON.stringify(summary), id);
    },
    rename: (id: string, name: string): void => {
      rename.run(name, id);
    },
    /** False when works still stand on the clip. */
    remove(id: string): boolean {
      if ((worksOf.get(id)?.count ?? 0) > 0) return false;
      remove.run(id);
      return true;
    },
  };
}

export type ClipStore = ReturnType<typeof clipStore>;

function fromRaw(raw: RawClip): ClipRow {
  return {
    id: raw.id,
    name: raw.name,
    fileName: raw.file_name,
    sha256: raw.sha256,
    unitScale: raw.unit_scale,
    upAxis: raw.up_axis,
    tags: JSON.parse(raw.tags) as string[],
    summary: JSON.parse(raw.summary) as ClipSummary,
    createdAt: raw.created_at,
  };
}
