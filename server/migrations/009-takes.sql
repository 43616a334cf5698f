-- Of a file with several animations each is a clip of its own; take says which (null: the first or only one, empty: the body at rest).
ALTER TABLE clip ADD COLUMN take TEXT;

-- The bytes of a file lie in the library once, however many clips are made of it.
CREATE TABLE content (
  sha256 TEXT PRIMARY KEY,
  bytes BLOB NOT NULL
) STRICT;
INSERT INTO content SELECT clip.sha256, bytes FROM clip_bytes JOIN clip ON clip.id = clip_id GROUP BY clip.sha256;
DROP TABLE clip_bytes;
CREATE TRIGGER content_out AFTER DELETE ON clip WHEN NOT EXISTS (SELECT 1 FROM clip WHERE sha256 = old.sha256) BEGIN
  DELETE FROM content WHERE sha256 = old.sha256;
END;

-- What a work draws on is a file and one of its animations.
CREATE TABLE drawn (
  work_id TEXT NOT NULL REFERENCES work (id) ON DELETE CASCADE,
  sha256 TEXT NOT NULL,
  take TEXT,
  name TEXT NOT NULL,
  -- 0: the clip as it came
  revision INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO drawn (work_id, sha256, name, revision) SELECT work_id, sha256, name, revision FROM work_source;
DROP TABLE work_source;
ALTER TABLE drawn RENAME TO work_source;
CREATE INDEX work_source_work ON work_source (work_id);
CREATE INDEX work_source_content ON work_source (sha256);
