import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { uploadClip } from "../../api/client.ts";
import { ImportQueue, type ImportState } from "../../state/importQueue.ts";

/** Files on their way into the library. */
export function useImports(): { readonly queue: ImportQueue<File>; readonly state: ImportState } {
  const queries = useQueryClient();
  const [state, setState] = useState<ImportState>({ rows: [], paused: false });
  const queue = useMemo(
    () =>
      new ImportQueue<File>({
        nameOf: (file) => file.name,
        send: (file, onProgress, signal) => uploadClip(file, { onProgress, signal }),
        onState: setState,
        onBrought: () => void queries.invalidateQueries({ queryKey: ["clips"] }),
      }),
    [queries],
  );
  return { queue, state };
}
