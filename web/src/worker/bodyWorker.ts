import {
  type CharacterNotes,
  characterIn,
  type FileReading,
  type JointRange,
  type MotionFile,
  measuredLimits,
  readMotion,
  readyToRead,
  restSurface,
  type Skeleton,
  solesOnSkin,
  sourceOf,
} from "@stride/motion";
import { transfer } from "comlink";
import { characterView } from "./characterView.ts";
import { buffersOf, sentView } from "./sentViews.ts";
import type { CharacterView, SentView, SkinView } from "./views.ts";

/** A file to read: its bytes, and how. */
export interface BodyFile {
  readonly bytes: Uint8Array;
  readonly reading: FileReading;
}

/** A character as it was read, with what a person says of it. */
export interface ReadBody {
  readonly skeleton: Skeleton;
  readonly character: CharacterView;
  readonly view: SentView;
  readonly skin: SkinView | null;
  /** its bearing points as the mesh has them, by id, in their joints' frames */
  readonly soles: Readonly<Record<string, [number, number, number]>>;
  readonly warnings: readonly string[];
}

/** What the characters screen asks of a thread of its own. */
export class BodyWorker {
  /** Reads a character's file. Throws MotionFormatError. */
  async read(file: BodyFile, notes: CharacterNotes | null): Promise<ReadBody> {
    const read = await opened(file);
    const source = sourceOf(read, file.reading.fileName, notes);
    const body = characterIn(source);
    const { skin } = source;
    const { rig, height } = body.character;
    const view = sentView(body, null);
    const soles = skin ? solesOnSkin(body.points, restSurface(read.skeleton, skin), rig, height) : {};
    return transfer({ skeleton: read.skeleton, character: characterView(body), view, skin: skin ?? null, soles, warnings: read.warnings }, buffersOf(view));
  }

  /** What a character's joints do in clips of it, by their names; and how many of the clips have joints of those names. */
  async limits(
    file: BodyFile,
    notes: CharacterNotes | null,
    clips: readonly BodyFile[],
  ): Promise<{ readonly limits: Record<string, JointRange>; readonly used: number }> {
    const { character } = characterIn(sourceOf(await opened(file), file.reading.fileName, notes));
    const { names } = character.skeleton;
    const all: MotionFile[] = [];
    for (const clip of clips) {
      const read = await opened(clip);
      const own = new Set(read.skeleton.names);
      if (names.filter((name) => own.has(name)).length > names.length / 2) all.push(read);
    }
    const limits = measuredLimits(character, all).map(({ joint, bend, side, twist }) => [names[joint], { bend, side, twist }] as const);
    return { limits: Object.fromEntries(limits), used: all.length };
  }
}

async function opened({ bytes, reading }: BodyFile): Promise<MotionFile> {
  await readyToRead(bytes, reading.fileName);
  return readMotion(bytes, reading);
}
