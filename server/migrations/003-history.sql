-- Revisions that are kept for ever: the first, and those that a person marked by what they did (restored, exported).
ALTER TABLE history ADD COLUMN milestone INTEGER NOT NULL DEFAULT 0 CHECK (milestone IN (0, 1));
UPDATE history SET milestone = 1 WHERE revision = 1 OR note LIKE 'Restored revision %';
