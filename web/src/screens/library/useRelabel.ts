import type { LabelChange } from "@stride/server";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { toast } from "sonner";
import { changeLabels } from "../../api/client.ts";

/** Long enough to see what it did. */
const UNDO_MS = 20_000;

/** Changes names, folders and tags as one step that can be undone; false where nothing was changed, which is told. */
export function useRelabel(): (changes: LabelChange[], what: string) => Promise<boolean> {
  const queries = useQueryClient();
  return useCallback(
    async (changes, what) => {
      const send = async (list: LabelChange[]) => {
        const { before } = await changeLabels(list);
        await queries.invalidateQueries({ queryKey: ["clips"] });
        return before;
      };
      try {
        const before = await send(changes);
        toast.success(`${what}: ${changes.length} ${changes.length === 1 ? "clip" : "clips"}`, {
          duration: UNDO_MS,
          action: { label: "Undo", onClick: () => void send(before).catch((error: Error) => toast.error(error.message)) },
        });
        return true;
      } catch (error) {
        toast.error(error instanceof Error ? error.message : String(error));
        return false;
      }
    },
    [queries],
  );
}
