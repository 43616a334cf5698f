import { emptyWork } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useQuery } from "@tanstack/react-query";
import { type Remote, transfer, wrap } from "comlink";
import { fetchSource } from "../../api/client.ts";
import type { BenchWorker } from "../../worker/benchWorker.ts";
import { takenView } from "../../worker/sentViews.ts";
import type { BodyView, MotionView, SkinView } from "../../worker/views.ts";

/** A character opened: its body as it is read, its rest pose, and its skin. */
export interface OpenedBody extends BodyView {
  readonly view: MotionView;
  readonly skin: SkinView | null;
  readonly warnings: readonly string[];
}

/** Reads a character's file in a thread of its own, which ends with it. */
export function useBody(row: ClipRow | undefined) {
  return useQuery({
    queryKey: ["body", row?.sha256, row?.unitScale, row?.upAxis],
    queryFn: () => readBody(row as ClipRow),
    enabled: row !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
    structuralSharing: false,
  });
}

async function readBody({ id, fileName, unitScale, upAxis, sha256 }: ClipRow): Promise<OpenedBody> {
  const bytes = await fetchSource(id);
  const again = bytes.slice();
  const thread = new Worker(new URL("../../worker/bench.worker.ts", import.meta.url), { type: "module" });
  const failed = new Promise<never>((_, reject) => {
    thread.addEventListener("error", (event) => reject(new Error(`The body cannot be read (${event.message})`)));
  });
  const read = async (worker: Remote<BenchWorker>): Promise<OpenedBody> => {
    const { skeleton, warnings } = await worker.open(transfer(bytes, [bytes.buffer as ArrayBuffer]), fileName, unitScale, upAxis, null, sha256);
    const { view, character } = await worker.look(emptyWork());
    const skin = await worker.skin(transfer(again, [again.buffer as ArrayBuffer]), fileName, unitScale, upAxis, "source");
    return { skeleton, character, view: takenView(view, null), skin, warnings };
  };
  try {
    return await Promise.race([read(wrap<BenchWorker>(thread)), failed]);
  } finally {
    thread.terminate();
  }
}
