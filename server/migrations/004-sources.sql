-- Which other clips a work draws on, by content; with a revision, the result of a work that stood on that clip.
CREATE TABLE work_source (
  work_id TEXT NOT NULL REFERENCES work (id) ON DELETE CASCADE,
  sha256 TEXT NOT NULL,
  name TEXT NOT NULL,
  -- 0: the clip as it came
  revision INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (work_id, sha256, revision)
) STRICT;
CREATE INDEX work_source_content ON work_source (sha256);
CREATE INDEX clip_content ON clip (sha256);
