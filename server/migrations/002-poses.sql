-- Named poses and hand shapes of the library; data is the versioned document.
CREATE TABLE pose (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  kind TEXT NOT NULL CHECK (kind IN ('pose', 'hand')),
  data TEXT NOT NULL,
  -- the silhouette that stands for it in lists: an SVG path in a box of 100 by 100
  picture TEXT NOT NULL,
  created_at TEXT NOT NULL
) STRICT;
