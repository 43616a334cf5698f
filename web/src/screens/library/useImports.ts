import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";
import { uploadClip } from "../../api/client.ts";

export interface ImportRow {
  readonly id: number;
  readonly fileName: string;
  readonly state: "waiting" | "sending" | "checking" | "done" | "failed";
  readonly share: number;
  readonly error?: string;
}

let nextId = 1;
/** Clips that came in are shown no more often than this, milliseconds. */
const SHOWN_EVERY_MS = 2000;

/** Files on their way into the library: one row each, two at a time; one that fails says why and stops no other. */
export function useImports() {
  const [rows, setRows] = useState<readonly ImportRow[]>([]);
  const queries = useQueryClient();
  const bringIn = useCallback(
    async (files: readonly File[]) => {
      const fresh = files.map((file) => ({ file, row: { id: nextId++, fileName: file.name, state: "waiting", share: 0 } as ImportRow }));
      setRows((old) => [...old.filter((r) => r.state !== "done"), ...fresh.map((f) => f.row)]);
      const change = (id: number, part: Partial<ImportRow>) => setRows((old) => old.map((r) => (r.id === id ? { ...r, ...part } : r)));
      const queue = [...fresh];
      // What came in is shown now and then: of many files each one would have everything read anew.
      let last = 0;
      const shown = (now = performance.now()) => {
        if (now - last < SHOWN_EVERY_MS) return;
        last = now;
        void queries.invalidateQueries({ queryKey: ["clips"] });
      };
      const work = async () => {
        for (let next = queue.shift(); next; next = queue.shift()) {
          const { id } = next.row;
          change(id, { state: "sending" });
          try {
            await uploadClip(next.file, (share) => change(id, { share, state: share >= 1 ? "checking" : "sending" }));
            change(id, { state: "done", share: 1 });
            shown();
          } catch (error) {
            change(id, { state: "failed", error: error instanceof Error ? error.message : String(error) });
          }
        }
      };
      await Promise.all([work(), work()]);
      await queries.invalidateQueries({ queryKey: ["clips"] });
    },
    [queries],
  );
  const dismiss = useCallback((id: number) => setRows((old) => old.filter((r) => r.id !== id)), []);
  return { rows, bringIn, dismiss };
}
