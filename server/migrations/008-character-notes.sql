-- What a person says of a character: corrections of its map and rest, points on its skin, what its joints may do. JSON, null where nothing is said.
ALTER TABLE clip ADD COLUMN notes TEXT;
