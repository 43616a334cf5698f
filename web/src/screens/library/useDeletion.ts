import type { Things } from "@stride/server";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { toast } from "sonner";
import { ApiError, bringBack, deleteThings } from "../../api/client.ts";

/** Long enough to notice. */
const UNDO_MS = 20_000;

/** Deletes things of the library, with an undo at hand; where works would do without, that is asked first. */
export function useDeletion(): (things: Partial<Things>, what: string) => Promise<void> {
  const queries = useQueryClient();
  return useCallback(
    async (things, what) => {
      const fresh = () => void queries.invalidateQueries();
      const remove = async (anyway: boolean) => {
        try {
          const gone = await deleteThings(things, anyway);
          fresh();
          const along = gone.works.length - (things.works?.length ?? 0);
          toast.success(`${what} deleted${along > 0 ? `, with ${along} ${along === 1 ? "work" : "works"}` : ""}`, {
            duration: UNDO_MS,
            action: {
              label: "Undo",
              onClick: () =>
                void bringBack(gone)
                  .then(fresh)
                  .catch((error: Error) => toast.error(error.message)),
            },
          });
        } catch (error) {
          if (error instanceof ApiError && error.status === 409)
            toast.error(error.message, { duration: UNDO_MS, action: { label: "Delete anyway", onClick: () => void remove(true) } });
          else toast.error(error instanceof Error ? error.message : String(error));
        }
      };
      await remove(false);
    },
    [queries],
  );
}
