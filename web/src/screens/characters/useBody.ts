import { type CharacterNotes, type JointRange, readingOf } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useQuery } from "@tanstack/react-query";
import { type Remote, transfer, wrap } from "comlink";
import { fetchClips, fetchSource } from "../../api/client.ts";
import type { BodyFile, BodyWorker, ReadBody } from "../../worker/bodyWorker.ts";
import { takenView } from "../../worker/sentViews.ts";
import type { MotionView } from "../../worker/views.ts";

/** A character opened: its body as it is read, its rest pose, and its skin. */
export interface OpenedBody extends Omit<ReadBody, "view"> {
  readonly view: MotionView;
}

/** Reads a character's file in a thread of its own, which ends with it; again where what a person says of it changes what is read. */
export function useBody(row: ClipRow) {
  const { body, points } = row.notes ?? {};
  return useQuery({
    queryKey: ["body", row.sha256, row.unitScale, row.upAxis, row.take, JSON.stringify([body, points])],
    queryFn: () => inThread(async (worker) => readBody(await worker.read(...(await asked(row))))),
    staleTime: Number.POSITIVE_INFINITY,
    structuralSharing: false,
    // The body as it was stays until it has been read again.
    placeholderData: (before) => before,
  });
}

function readBody({ view, ...body }: ReadBody): OpenedBody {
  return { ...body, view: takenView(view, null) };
}

/** Clips of a character that its limits are measured off at most. */
const MOST_CLIPS = 60;

/** What a character's joints do in the library's clips of it: those that name it as theirs. */
export async function limitsOfClips(row: ClipRow): Promise<{ readonly limits: Record<string, JointRange>; readonly used: number }> {
  const { clips } = await fetchClips({ character: row.name, order: "name", down: false }, null);
  const files: BodyFile[] = [];
  for (const clip of clips.slice(0, MOST_CLIPS)) files.push(await fileOf(clip));
  if (files.length === 0) return { limits: {}, used: 0 };
  return inThread(async (worker) => worker.limits(...(await asked(row)), files));
}

async function asked(row: ClipRow): Promise<[BodyFile, CharacterNotes | null]> {
  const file = await fileOf(row);
  return [transfer(file, [file.bytes.buffer as ArrayBuffer]), row.notes];
}

async function fileOf(row: ClipRow): Promise<BodyFile> {
  return { bytes: await fetchSource(row.id), reading: readingOf(row) };
}

async function inThread<T>(work: (worker: Remote<BodyWorker>) => Promise<T>): Promise<T> {
  const thread = new Worker(new URL("../../worker/body.worker.ts", import.meta.url), { type: "module" });
  const failed = new Promise<never>((_, reject) => {
    thread.addEventListener("error", (event) => reject(new Error(`The body cannot be read (${event.message})`)));
  });
  try {
    return await Promise.race([work(wrap<BodyWorker>(thread)), failed]);
  } finally {
    thread.terminate();
  }
}
