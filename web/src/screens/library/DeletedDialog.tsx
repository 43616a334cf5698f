import type { DeletedRow } from "@stride/server";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { toast } from "sonner";
import { bringBack, fetchDeleted } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { VirtualList } from "../../ui/VirtualList.tsx";

const SORTS: Readonly<Record<DeletedRow["sort"], string>> = { clips: "clip", works: "work", poses: "pose", patches: "kept patches" };

/** What was deleted and can be brought back. */
export function DeletedDialog({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const deleted = useQuery({ queryKey: ["deleted"], queryFn: fetchDeleted });
  const scroller = useRef<HTMLDivElement>(null);
  const back = async ({ sort, id }: DeletedRow) => {
    try {
      await bringBack({ [sort]: [id] });
      await queries.invalidateQueries();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Dialog open onClose={onClose} title="Deleted" description="What was deleted in the last 30 days. A work comes back with the clip that it stands on.">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard */}
      <div ref={scroller} className="relative max-h-[55vh] overflow-auto" tabIndex={0}>
        <VirtualList
          items={deleted.data ?? []}
          scroller={scroller}
          rowHeight={35}
          keyOf={(row) => row.id}
          rowClassName={() => "flex items-center gap-3 border-b border-line py-1 last:border-b-0"}
        >
          {(row) => (
            <>
              <span className="w-24 text-ink-soft">{SORTS[row.sort]}</span>
              <span className="min-w-0 flex-1 truncate font-semibold">{row.name}</span>
              <time className="text-xs text-ink-soft" dateTime={row.deletedAt}>
                {new Date(row.deletedAt).toLocaleString([], { dateStyle: "short", timeStyle: "short", hour12: false })}
              </time>
              <Button className="h-6! px-2!" aria-label={`Bring back ${row.name}`} onClick={() => void back(row)}>
                Bring back
              </Button>
            </>
          )}
        </VirtualList>
      </div>
      {deleted.data?.length === 0 && <p className="text-ink-soft">Nothing.</p>}
    </Dialog>
  );
}
