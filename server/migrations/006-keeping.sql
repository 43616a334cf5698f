-- Clips lie in folders. What is deleted lies aside until it is swept away, so that deleting can be undone.
ALTER TABLE clip ADD COLUMN folder TEXT NOT NULL DEFAULT '';
ALTER TABLE clip ADD COLUMN deleted_at TEXT;
ALTER TABLE work ADD COLUMN deleted_at TEXT;
ALTER TABLE pose ADD COLUMN deleted_at TEXT;
CREATE INDEX clip_by_folder ON clip (folder COLLATE NOCASE, id);

-- Revisions that a person calls a version: numbered within the work, with a name where one was given. A revision stands on the clip that the work stood on then.
ALTER TABLE history ADD COLUMN version INTEGER;
ALTER TABLE history ADD COLUMN version_name TEXT;
ALTER TABLE history ADD COLUMN clip_id TEXT REFERENCES clip (id);
UPDATE history SET clip_id = (SELECT clip_id FROM work WHERE work.id = work_id);
CREATE UNIQUE INDEX history_version ON history (work_id, version) WHERE version IS NOT NULL;
CREATE INDEX history_clip ON history (clip_id);

-- Patches with their settings, kept under a name: data is a recipe document.
CREATE TABLE kept_patches (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  data TEXT NOT NULL,
  created_at TEXT NOT NULL,
  deleted_at TEXT
) STRICT;

-- What is wrong with a clip, kind by kind, out of its summary; a summary from before kinds were counted tells of its worst finding alone.
UPDATE clip SET summary = json_set(summary, '$.wrong', CASE WHEN json_extract(summary, '$.worst.kind') IS NULL THEN json('[]')
  ELSE json_array(json_object('kind', json_extract(summary, '$.worst.kind'), 'title', json_extract(summary, '$.worst.title'), 'count', 1)) END);
CREATE TABLE clip_fault (
  clip_id TEXT NOT NULL REFERENCES clip (id) ON DELETE CASCADE,
  kind TEXT NOT NULL,
  count INTEGER NOT NULL,
  PRIMARY KEY (clip_id, kind)
) STRICT, WITHOUT ROWID;
CREATE INDEX clip_fault_kind ON clip_fault (kind, clip_id);
INSERT INTO clip_fault SELECT clip.id, json_extract(value, '$.kind'), sum(json_extract(value, '$.count')) FROM clip, json_each(summary, '$.wrong') GROUP BY 1, 2;
CREATE TRIGGER clip_fault_in AFTER INSERT ON clip BEGIN
  INSERT INTO clip_fault SELECT new.id, json_extract(value, '$.kind'), sum(json_extract(value, '$.count')) FROM json_each(new.summary, '$.wrong') GROUP BY 2;
END;
CREATE TRIGGER clip_fault_on AFTER UPDATE OF summary ON clip BEGIN
  DELETE FROM clip_fault WHERE clip_id = old.id;
  INSERT INTO clip_fault SELECT new.id, json_extract(value, '$.kind'), sum(json_extract(value, '$.count')) FROM json_each(new.summary, '$.wrong') GROUP BY 2;
END;

-- Found by the words of its folder and of everything that is wrong with it too.
DROP TRIGGER clip_text_in;
DROP TRIGGER clip_text_out;
DROP TRIGGER clip_text_on;
DROP TABLE clip_text;
CREATE VIRTUAL TABLE clip_text USING fts5 (clip_id UNINDEXED, name, file_name, tags, folder, wrong, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
INSERT INTO clip_text (rowid, clip_id, name, file_name, tags, folder, wrong)
  SELECT rowid, id, name, file_name, tags, folder, (SELECT group_concat(json_extract(value, '$.title'), ' ') FROM json_each(summary, '$.wrong')) FROM clip;
CREATE TRIGGER clip_text_in AFTER INSERT ON clip BEGIN
  INSERT INTO clip_text (rowid, clip_id, name, file_name, tags, folder, wrong) VALUES (new.rowid, new.id, new.name, new.file_name, new.tags, new.folder,
    (SELECT group_concat(json_extract(value, '$.title'), ' ') FROM json_each(new.summary, '$.wrong')));
END;
CREATE TRIGGER clip_text_out AFTER DELETE ON clip BEGIN
  DELETE FROM clip_text WHERE rowid = old.rowid;
END;
CREATE TRIGGER clip_text_on AFTER UPDATE OF name, tags, folder, summary ON clip BEGIN
  DELETE FROM clip_text WHERE rowid = old.rowid;
  INSERT INTO clip_text (rowid, clip_id, name, file_name, tags, folder, wrong) VALUES (new.rowid, new.id, new.name, new.file_name, new.tags, new.folder,
    (SELECT group_concat(json_extract(value, '$.title'), ' ') FROM json_each(new.summary, '$.wrong')));
END;
