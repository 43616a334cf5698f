import { randomUUID } from "node:crypto";
import { type CharacterNotes, readCharacterNotes } from "@stride/motion";
import type { ChronoPicture, ClipReading, ClipSummary } from "../summary.ts";
import type { Db } from "./database.ts";

export interface ClipRow {
  readonly id: string;
  readonly name: string;
  readonly fileName: string;
  readonly sha256: string;
  readonly unitScale: number | null;
  readonly upAxis: "y" | "z" | null;
  /** which of its file's animations; null: the first or only one, empty: the body at rest */
  readonly take: string | null;
  readonly tags: readonly string[];
  /** where it lies, such as "shift 3/takes"; empty: nowhere in particular */
  readonly folder: string;
  readonly summary: ClipSummary;
  /** what a person says of the body, where it is a character; null: nothing */
  readonly notes: CharacterNotes | null;
  readonly createdAt: string;
}

/** What a person calls a clip and where it lies. */
export interface ClipLabels {
  readonly name: string;
  readonly folder: string;
  readonly tags: readonly string[];
}

/** A clip that is brought in. */
export interface NewClip extends ClipLabels {
  readonly fileName: string;
  readonly bytes: Buffer;
  readonly sha256: string;
  readonly take?: string | null;
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
  take: string | null;
  tags: string;
  folder: string;
  summary: string;
  notes: string | null;
  created_at: string;
}

/** Columns of a clip's row. */
export const CLIP_COLUMNS = ["id", "name", "file_name", "sha256", "unit_scale", "up_axis", "take", "tags", "folder", "summary", "notes", "created_at"]
  .map((column) => `clip.${column}`)
  .join(", ");

/** Clips of the library: rows without their bytes, and the bytes on request. */
export function clipStore(db: Db) {
  const select = db.prepare<[string], RawClip>(`SELECT ${CLIP_COLUMNS} FROM clip WHERE id = ? AND deleted_at IS NULL`);
  const all = db.prepare<[], RawClip>(`SELECT ${CLIP_COLUMNS} FROM clip WHERE deleted_at IS NULL AND is_character = 0 ORDER BY created_at, rowid`);
  const bodies = db.prepare<[], RawClip>(`SELECT ${CLIP_COLUMNS} FROM clip WHERE is_character = 1 AND deleted_at IS NULL ORDER BY created_at, rowid`);
  const countAll = db.prepare<[], { count: number }>("SELECT count(*) AS count FROM clip WHERE deleted_at IS NULL AND is_character = 0");
  const bytesOf = db.prepare<[string], { bytes: Buffer }>("SELECT bytes FROM content JOIN clip ON clip.sha256 = content.sha256 WHERE clip.id = ?");
  const pictureOf = db.prepare<[string], { picture: string }>("SELECT picture FROM clip_picture WHERE clip_id = ?");
  const insert = db.prepare(
    "INSERT INTO clip (id, name, file_name, sha256, unit_scale, up_axis, take, tags, folder, summary, created_at, is_character) VALUES (?, ?, ?, ?, NULL, NULL, ?, ?, ?, ?, ?, ?)",
  );
  const insertBytes = db.prepare("INSERT INTO content (sha256, bytes) VALUES (?, ?) ON CONFLICT DO NOTHING");
  const putPicture = db.prepare("INSERT INTO clip_picture (clip_id, picture) VALUES (?, ?) ON CONFLICT (clip_id) DO UPDATE SET picture = excluded.picture");
  const setReading = db.prepare("UPDATE clip SET unit_scale = ?, up_axis = ?, summary = ? WHERE id = ?");
  const label = db.prepare("UPDATE clip SET name = ?, folder = ?, tags = ? WHERE id = ?");
  const ofContent = db.prepare<[string], RawClip>(`SELECT ${CLIP_COLUMNS} FROM clip WHERE sha256 = ? AND deleted_at IS NULL ORDER BY created_at, rowid`);
  const copyReading = db.prepare("UPDATE clip SET unit_scale = ?, up_axis = ?, notes = (SELECT notes FROM clip WHERE id = ?) WHERE id = ?");
  const setNotes = db.prepare("UPDATE clip SET notes = ? WHERE id = ?");
  const add = db.transaction((clip: NewClip): ClipRow => {
    const id = randomUUID();
    const { summary, picture } = clip.reading;
    insert.run(
      id,
      clip.name,
      clip.fileName,
      clip.sha256,
      clip.take ?? null,
      JSON.stringify(clip.tags),
      clip.folder,
      JSON.stringify(summary),
      new Date().toISOString(),
      summary.character ? 1 : 0,
    );
    insertBytes.run(clip.sha256, clip.bytes);
    putPicture.run(id, JSON.stringify(picture));
    return fromRaw(select.get(id) as RawClip);
  });
  const addAll = db.transaction((all: readonly NewClip[]): ClipRow[] => all.map((clip) => add(clip)));
  const read = db.transaction((id: string, unitScale: number | null, upAxis: "y" | "z" | null, { summary, picture }: ClipReading) => {
    setReading.run(unitScale, upAxis, JSON.stringify(summary), id);
    putPicture.run(id, JSON.stringify(picture));
  });
  const relabel = db.transaction((changes: readonly LabelChange[]): LabelChange[] =>
    changes.map((change) => {
      const raw = select.get(change.id);
      if (!raw) throw new MissingClip(change.id);
      const { name, folder, tags } = fromRaw(raw);
      label.run(change.name ?? name, change.folder ?? folder, JSON.stringify(change.tags ?? tags), change.id);
      return { id: change.id, name, folder, tags };
    }),
  );
  const duplicate = db.transaction((id: string, name: string): ClipRow | undefined => {
    const raw = select.get(id);
    const bytes = bytesOf.get(id)?.bytes;
    const picture = pictureOf.get(id);
    if (!raw || !bytes || !picture) return undefined;
    const { fileName, sha256, take, tags, folder, summary, unitScale, upAxis, notes } = fromRaw(raw);
    const copy = add({ name, fileName, bytes, sha256, take, tags, folder, reading: { summary, picture: JSON.parse(picture.picture) as ChronoPicture } });
    copyReading.run(unitScale, upAxis, id, copy.id);
    return { ...copy, unitScale, upAxis, notes };
  });
  return {
    count: (): number => countAll.get()?.count ?? 0,
    list: (): ClipRow[] => all.all().map(fromRaw),
    /** Bodies without a motion of their own, in the order in which they came. */
    characters: (): ClipRow[] => bodies.all().map(fromRaw),
    get: (id: string): ClipRow | undefined => {
      const raw = select.get(id);
      return raw && fromRaw(raw);
    },
    /** Clips of a file with this content, the first one brought in first. */
    ofContent: (sha256: string): ClipRow[] => ofContent.all(sha256).map(fromRaw),
    /** Those of them that are of one of its animations. */
    known: ({ sha256, take }: { readonly sha256: string; readonly take?: string | null }): ClipRow[] =>
      ofContent
        .all(sha256)
        .map(fromRaw)
        .filter((row) => row.take === (take ?? null)),
    bytes: (id: string): Buffer | undefined => bytesOf.get(id)?.bytes,
    picture: (id: string): ChronoPicture | undefined => {
      const row = pictureOf.get(id);
      return row && (JSON.parse(row.picture) as ChronoPicture);
    },
    /** Bytes, row and picture in one transaction. */
    add: (clip: NewClip): ClipRow => add(clip),
    /** Several, all or none. */
    addAll: (all: readonly NewClip[]): ClipRow[] => addAll(all),
    setReading: (id: string, unitScale: number | null, upAxis: "y" | "z" | null, reading: ClipReading): void => {
      read(id, unitScale, upAxis, reading);
    },
    /** What a person says of a body; null: nothing (any more). */
    setNotes: (id: string, notes: CharacterNotes | null): void => {
      setNotes.run(notes && JSON.stringify(notes), id);
    },
    /** Names, folders and tags of several clips, all or none; what they were before comes back, to be put back by the same. Throws MissingClip. */
    relabel: (changes: readonly LabelChange[]): LabelChange[] => relabel(changes),
    /** The same clip once more, under a name of its own. */
    duplicate: (id: string, name: string): ClipRow | undefined => duplicate(id, name),
  };
}

/** What of a clip's labels is changed; what is left out stays. */
export interface LabelChange extends Partial<ClipLabels> {
  readonly id: string;
}

/** A clip of a change that is not there (any more). */
export class MissingClip extends Error {
  constructor(id: string) {
    super(`there is no clip ${id}; nothing was changed`);
  }
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
    take: raw.take,
    tags: JSON.parse(raw.tags) as string[],
    folder: raw.folder,
    summary: JSON.parse(raw.summary) as ClipSummary,
    notes: raw.notes === null ? null : readCharacterNotes(JSON.parse(raw.notes)),
    createdAt: raw.created_at,
  };
}
