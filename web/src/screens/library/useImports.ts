import type { ClipPage } from "@stride/server";
import { type InfiniteData, useQueryClient } from "@tanstack/react-query";
import { useMemo, useSyncExternalStore } from "react";
import { uploadClip } from "../../api/client.ts";
import { ImportQueue, type ImportState } from "../../state/importQueue.ts";

/** Files on their way into the library, and what is to be known of them; who draws them reads it, so that nothing else is drawn anew for it. */
export interface Imports {
  readonly queue: ImportQueue<File>;
  readonly read: () => ImportState;
  readonly subscribe: (listener: () => void) => () => void;
}

/** Pages that are read anew while files come in; who has scrolled on keeps what is there until it is asked for again. */
const PAGES_SHOWN = 2;

export function useImports(scrolled: () => boolean): Imports {
  const queries = useQueryClient();
  return useMemo(() => {
    let state: ImportState = { rows: [], paused: false };
    let due = false;
    const listeners = new Set<() => void>();
    const queue = new ImportQueue<File>({
      nameOf: (file) => file.name,
      send: (file, onProgress, signal) => uploadClip(file, { onProgress, signal }),
      onState: (next) => {
        state = next;
        // Once a picture, however often files tell how far they are.
        if (due) return;
        due = true;
        requestAnimationFrame(() => {
          due = false;
          for (const listener of listeners) listener();
        });
      },
      onBrought: () => {
        void queries.invalidateQueries({ queryKey: ["clips", "facets"] });
        if (scrolled()) {
          void queries.invalidateQueries({ queryKey: ["clips", "pages"], refetchType: "none" });
          return;
        }
        queries.setQueriesData<InfiniteData<ClipPage>>({ queryKey: ["clips", "pages"] }, (data) =>
          data && data.pages.length > PAGES_SHOWN ? { pages: data.pages.slice(0, PAGES_SHOWN), pageParams: data.pageParams.slice(0, PAGES_SHOWN) } : data,
        );
        void queries.invalidateQueries({ queryKey: ["clips", "pages"] });
      },
    });
    let shown = state;
    return {
      queue,
      read: () => shown,
      subscribe: (listener) => {
        const told = () => {
          shown = state;
          listener();
        };
        listeners.add(told);
        return () => listeners.delete(told);
      },
    };
  }, [queries, scrolled]);
}

export function useImportState({ read, subscribe }: Imports): ImportState {
  return useSyncExternalStore(subscribe, read);
}
