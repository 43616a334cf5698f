-- Source clips: the bytes as they came, how they are read, and what the library shows of them.
CREATE TABLE clip (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  file_name TEXT NOT NULL,
  sha256 TEXT NOT NULL,
  bytes BLOB NOT NULL,
  unit_scale REAL,
  up_axis TEXT CHECK (up_axis IN ('y', 'z')),
  tags TEXT NOT NULL DEFAULT '[]',
  summary TEXT NOT NULL,
  created_at TEXT NOT NULL
) STRICT;

-- One work a row; document is the newest revision.
CREATE TABLE work (
  id TEXT PRIMARY KEY,
  clip_id TEXT NOT NULL REFERENCES clip (id),
  name TEXT NOT NULL,
  revision INTEGER NOT NULL,
  document TEXT NOT NULL,
  created_at TEXT NOT NULL,
  saved_at TEXT NOT NULL
) STRICT;
CREATE INDEX work_clip ON work (clip_id);

-- Every save, whole, so that any of them can be restored.
CREATE TABLE history (
  work_id TEXT NOT NULL REFERENCES work (id) ON DELETE CASCADE,
  revision INTEGER NOT NULL,
  document TEXT NOT NULL,
  note TEXT NOT NULL,
  saved_at TEXT NOT NULL,
  PRIMARY KEY (work_id, revision)
) STRICT;

CREATE TABLE setting (
  key TEXT PRIMARY KEY,
  value TEXT NOT NULL
) STRICT;
