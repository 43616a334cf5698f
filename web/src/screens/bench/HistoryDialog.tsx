import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { toast } from "sonner";
import { fetchHistory, restoreRevision } from "../../api/client.ts";
import { useBench } from "../../state/bench.ts";
import { askWorker } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { VirtualList } from "../../ui/VirtualList.tsx";

/** The kept saves of this work; any of them can be put back on top. */
export function HistoryDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const id = useBench((s) => s.row?.id);
  const scroller = useRef<HTMLDivElement>(null);
  const revision = useBench((s) => s.revision);
  const save = useBench((s) => s.save);
  const history = useQuery({ queryKey: ["history", id, revision], queryFn: () => fetchHistory(id ?? ""), enabled: open && id !== undefined });
  const restore = async (to: number) => {
    if (!id) return;
    try {
      const row = await restoreRevision(id, to);
      const doc = await askWorker((w) => w.named(row.document));
      useBench.setState((s) => ({
        doc,
        draft: null,
        past: [...s.past, { label: `Restore revision ${to}`, doc: s.doc }],
        future: [],
        revision: row.revision,
        savedAt: row.savedAt,
        save: "saved",
        patchId: doc.patches.at(-1)?.id ?? null,
      }));
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title="History"
      description="Every save of the last day is kept, then one an hour, then one a day; what was restored or exported stays for ever. Restoring one puts it on top."
    >
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard */}
      <div ref={scroller} className="max-h-[60vh] overflow-auto" tabIndex={0}>
        <VirtualList
          items={history.data ?? []}
          scroller={scroller}
          rowHeight={33}
          keyOf={(h) => h.revision}
          rowClassName={() => "flex items-center gap-3 border-b border-line py-1 last:border-b-0"}
        >
          {(h) => (
            <>
              <span className="figure w-14 text-ink-soft">rev {h.revision}</span>
              <span className="min-w-0 flex-1 truncate">{h.note}</span>
              <time className="text-xs text-ink-soft" dateTime={h.savedAt}>
                {new Date(h.savedAt).toLocaleString([], { dateStyle: "short", timeStyle: "short", hour12: false })}
              </time>
              <Button className="h-6! px-2!" disabled={h.revision === revision || save !== "saved"} onClick={() => void restore(h.revision)}>
                {h.revision === revision ? "now" : "Restore"}
              </Button>
            </>
          )}
        </VirtualList>
      </div>
      {history.isPending && <p className="text-ink-soft">Reading…</p>}
    </Dialog>
  );
}
