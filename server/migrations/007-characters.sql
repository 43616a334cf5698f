-- Bodies that clips are cast onto lie among the clips: files without a motion of their own. Lists show the one or the other.
ALTER TABLE clip ADD COLUMN is_character INTEGER NOT NULL DEFAULT 0;
CREATE INDEX clip_characters ON clip (created_at, id) WHERE is_character = 1;
