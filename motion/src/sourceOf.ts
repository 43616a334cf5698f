import type { CharacterNotes } from "./documents/characterNotes.ts";
import { MotionFormatError } from "./formats/errors.ts";
import type { MotionFile } from "./formats/format.ts";
import { skinOfFile } from "./formats/index.ts";
import type { Source } from "./sources.ts";

/**
 * A file as a source: a body without a motion with its surface, so that its volumes and points fit it (one that cannot be read is told where the file is brought in, and the body does without), and what
 * a person says of it.
 */
export function sourceOf(file: MotionFile, fileName: string, notes: CharacterNotes | null = null): Source {
  const { skeleton, clip } = file;
  return { skeleton, clip, skin: file.still ? skinIn(file, fileName) : null, notes };
}

function skinIn(file: MotionFile, fileName: string): Source["skin"] {
  try {
    return skinOfFile(file, fileName);
  } catch (error) {
    if (error instanceof MotionFormatError) return null;
    throw error;
  }
}
