-- A clip's bytes and its picture lie in tables of their own: lists and counts never pass them.
CREATE TABLE clip_bytes (
  clip_id TEXT PRIMARY KEY REFERENCES clip (id) ON DELETE CASCADE,
  bytes BLOB NOT NULL
) STRICT;
INSERT INTO clip_bytes SELECT id, bytes FROM clip;
ALTER TABLE clip DROP COLUMN bytes;

CREATE TABLE clip_picture (
  clip_id TEXT PRIMARY KEY REFERENCES clip (id) ON DELETE CASCADE,
  picture TEXT NOT NULL
) STRICT;
INSERT INTO clip_picture SELECT id, json_extract(summary, '$.picture') FROM clip WHERE json_extract(summary, '$.picture') IS NOT NULL;
UPDATE clip SET summary = json_remove(summary, '$.picture');

-- What lists are sorted and counted by.
ALTER TABLE clip ADD COLUMN character TEXT NOT NULL GENERATED ALWAYS AS (coalesce(json_extract(tags, '$[0]'), '')) VIRTUAL;
ALTER TABLE clip ADD COLUMN seconds REAL NOT NULL GENERATED ALWAYS AS (json_extract(summary, '$.frames') * 1.0 / json_extract(summary, '$.fps')) VIRTUAL;
ALTER TABLE clip ADD COLUMN fps REAL NOT NULL GENERATED ALWAYS AS (json_extract(summary, '$.fps') * 1.0) VIRTUAL;
ALTER TABLE clip ADD COLUMN joints INTEGER NOT NULL GENERATED ALWAYS AS (json_extract(summary, '$.joints')) VIRTUAL;
ALTER TABLE clip ADD COLUMN slide REAL NOT NULL GENERATED ALWAYS AS (json_extract(summary, '$.slideWorstCm') * 1.0) VIRTUAL;
ALTER TABLE clip ADD COLUMN findings INTEGER NOT NULL GENERATED ALWAYS AS (json_extract(summary, '$.findings')) VIRTUAL;
CREATE INDEX clip_by_name ON clip (name COLLATE NOCASE, id);
CREATE INDEX clip_by_created ON clip (created_at, id);
CREATE INDEX clip_by_character ON clip (character COLLATE NOCASE, id);
CREATE INDEX clip_by_seconds ON clip (seconds, id);
CREATE INDEX clip_by_fps ON clip (fps, id);
CREATE INDEX clip_by_joints ON clip (joints, id);
CREATE INDEX clip_by_slide ON clip (slide, id);
CREATE INDEX clip_by_findings ON clip (findings, id);

-- Words that a clip is found by: its name, file, tags, and what is wrong with it. Words may be begun only.
CREATE VIRTUAL TABLE clip_text USING fts5 (clip_id UNINDEXED, name, file_name, tags, worst, tokenize = "unicode61 remove_diacritics 2", prefix = '2 3');
INSERT INTO clip_text (rowid, clip_id, name, file_name, tags, worst)
  SELECT rowid, id, name, file_name, tags, coalesce(json_extract(summary, '$.worst.title'), '') FROM clip;
CREATE TRIGGER clip_text_in AFTER INSERT ON clip BEGIN
  INSERT INTO clip_text (rowid, clip_id, name, file_name, tags, worst)
    VALUES (new.rowid, new.id, new.name, new.file_name, new.tags, coalesce(json_extract(new.summary, '$.worst.title'), ''));
END;
CREATE TRIGGER clip_text_out AFTER DELETE ON clip BEGIN
  DELETE FROM clip_text WHERE rowid = old.rowid;
END;
CREATE TRIGGER clip_text_on AFTER UPDATE OF name, tags, summary ON clip BEGIN
  DELETE FROM clip_text WHERE rowid = old.rowid;
  INSERT INTO clip_text (rowid, clip_id, name, file_name, tags, worst)
    VALUES (new.rowid, new.id, new.name, new.file_name, new.tags, coalesce(json_extract(new.summary, '$.worst.title'), ''));
END;
