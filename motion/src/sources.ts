import { z } from "zod";
import type { CharacterDetails } from "./character/character.ts";
import type { Clip } from "./clip/clip.ts";
import type { Motion } from "./motion.ts";
import type { Skeleton } from "./skeleton/skeleton.ts";

/** A clip that a document names: by content; the name is for people. With `work`, that work's result at a revision is meant. */
export const sourceRefSchema = z
  .strictObject({
    name: z.string().min(1).max(300),
    sha256: z.string().regex(/^[0-9a-f]{64}$/, "expected the clip's SHA-256, 64 hexadecimal digits"),
    // of a file with several animations which; the first where absent, the body at rest where empty
    take: z.string().max(300).optional(),
    work: z.number().int().min(1).optional(),
  })
  // What a settings panel draws a field of it as.
  .meta({ field: "clip" });
export type SourceRef = z.infer<typeof sourceRefSchema>;

/** What a clip is known by: the content of its file, and which of its animations. */
export type ClipKey = Pick<SourceRef, "sha256" | "take">;

/** The clip of a file that is kept, as documents name it. */
export function clipRef({ fileName, sha256, take }: { readonly fileName: string; readonly sha256: string; readonly take: string | null }): SourceRef {
  return { name: fileName.slice(0, 300), sha256, ...(take !== null && { take }) };
}

/** How a clip is told apart from others. */
export function clipKeyOf({ sha256, take }: ClipKey): string {
  return take === undefined ? sha256 : `${sha256}#${take}`;
}

/** How a reference is told apart from others: by its clip, and by the version of a work where its result is meant. */
export function sourceKeyOf(ref: ClipKey & Pick<SourceRef, "work">): string {
  return `${clipKeyOf(ref)}@${ref.work ?? ""}`;
}

/** A clip on the skeleton that it moves, and what is known of its body beside. */
export interface Source extends CharacterDetails {
  readonly skeleton: Skeleton;
  readonly clip: Clip;
}

/** Other clips by reference: each as a motion of its own body, with its contacts. */
export interface OtherClips {
  /** undefined where it is not here. Throws an Error, its message for people, where it is but cannot be used. */
  find(ref: SourceRef): Motion | undefined;
  /** The same, but a clip as it came without its contacts, which take long to find; always the same object for the same clip. */
  look(ref: SourceRef): Motion | undefined;
}

/** What an evaluation may draw on: the clip that the work stands on, and others by reference. */
export interface Sources extends OtherClips {
  readonly main: Source;
}

export const NO_OTHERS: OtherClips = { find: () => undefined, look: () => undefined };

/** A single clip, and nothing else. */
export function oneSource(skeleton: Skeleton, clip: Clip, details: CharacterDetails = {}): Sources {
  return { main: { skeleton, clip, ...details }, ...NO_OTHERS };
}
