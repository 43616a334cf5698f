import { randomUUID } from "node:crypto";
import type { ChronoPicture, ClipReading, ClipSummary } from "../summary.ts";
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

/** A clip that is brought in. */
export interface NewClip {
  readonly name: string;
  readonly fileName: string;
  readonly bytes: Buffer;
  readonly sha256: string;
  readonly tags: readonly string[];
  readonly reading: ClipReading;
}

/** A row as the database has it. */
export interface RawClip {
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
  const bytesOf = db.prepare<[string], { bytes: Buffer }>("SELECT bytes FROM clip_bytes WHERE clip_id = ?");
  const pictureOf = db.prepare<[string], { picture: string }>("SELECT picture FROM clip_picture WHERE clip_id = ?");
  const insert = db.prepare(
    "INSERT INTO clip (id, name, file_name, sha256, unit_scale, up_axis, tags, summary, created_at) VALUES (?, ?, ?, ?, NULL, NULL, ?, ?, ?)",
  );
  const insertBytes = db.prepare("INSERT INTO clip_bytes (clip_id, bytes) VALUES (?, ?)");
  const putPicture = db.prepare("INSERT INTO clip_picture (clip_id, picture) VALUES (?, ?) ON CONFLICT (clip_id) DO UPDATE SET picture = excluded.picture");
  const setReading = db.prepare("UPDATE clip SET unit_scale = ?, up_axis = ?, summary = ? WHERE id = ?");
  const rename = db.prepare("UPDATE clip SET name = ? WHERE id = ?");
  const worksOf = db.prepare<[string], { count: number }>("SELECT count(*) AS count FROM work WHERE clip_id = ?");
  const ofContent = db.prepare<[string], RawClip>(`SELECT ${COLUMNS} FROM clip WHERE sha256 = ? ORDER BY created_at, rowid`);
  const remove = db.prepare("DELETE FROM clip WHERE id = ?");
  const add = db.transaction((clip: NewClip): ClipRow => {
    const id = randomUUID();
    const { summary, picture } = clip.reading;
    insert.run(id, clip.name, clip.fileName, clip.sha256, JSON.stringify(clip.tags), JSON.stringify(summary), new Date().toISOString());
    insertBytes.run(id, clip.bytes);
    putPicture.run(id, JSON.stringify(picture));
    return fromRaw(select.get(id) as RawClip);
  });
  const read = db.transaction((id: string, unitScale: number | null, upAxis: "y" | "z" | null, { summary, picture }: ClipReading) => {
    setReading.run(unitScale, upAxis, JSON.stringify(summary), id);
    putPicture.run(id, JSON.stringify(picture));
  });
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
    picture: (id: string): ChronoPicture | undefined => {
      const row = pictureOf.get(id);
      return row && (JSON.parse(row.picture) as ChronoPicture);
    },
    /** Bytes, row and picture in one transaction. */
    add: (clip: NewClip): ClipRow => add(clip),
    setReading: (id: string, unitScale: number | null, upAxis: "y" | "z" | null, reading: ClipReading): void => {
      read(id, unitScale, upAxis, reading);
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

export function fromRaw(raw: RawClip): ClipRow {
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
