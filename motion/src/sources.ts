import type { Clip } from "./clip/clip.ts";
import type { Skeleton } from "./skeleton/skeleton.ts";

/** A clip that a document names: by content; the name is for people. With `work`, that work's result at a revision is meant. */
export interface SourceRef {
  readonly name: string;
  readonly sha256: string;
  readonly work?: number;
}

/** A clip on the skeleton that it moves. */
export interface Source {
  readonly skeleton: Skeleton;
  readonly clip: Clip;
}

/** What an evaluation may draw on: the clip that the work stands on, and others by reference, each on a skeleton of its own. */
export interface Sources {
  readonly main: Source;
  find(ref: SourceRef): Source | undefined;
}

/** A single clip, and nothing else. */
export function oneSource(skeleton: Skeleton, clip: Clip): Sources {
  return { main: { skeleton, clip }, find: () => undefined };
}
