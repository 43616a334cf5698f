import { useQuery } from "@tanstack/react-query";
import { toast } from "sonner";
import { fetchHistory, restoreRevision } from "../../api/client.ts";
import { useBench } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";

/** Every save of this work; any of them can be put back on top. */
export function HistoryDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  const id = useBench((s) => s.row?.id);
  const revision = useBench((s) => s.revision);
  const save = useBench((s) => s.save);
  const history = useQuery({ queryKey: ["history", id, revision], queryFn: () => fetchHistory(id ?? ""), enabled: open && id !== undefined });
  const restore = async (to: number) => {
    if (!id) return;
    try {
      const row = await restoreRevision(id, to);
      useBench.setState((s) => ({
        doc: row.document,
        draft: null,
        past: [...s.past, { label: `Restore revision ${to}`, doc: s.doc }],
        future: [],
        revision: row.revision,
        savedAt: row.savedAt,
        save: "saved",
        patchId: row.document.patches.at(-1)?.id ?? null,
      }));
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Dialog open={open} onClose={onClose} title="History" description="Every save is kept. Restoring one puts it on top; nothing is lost.">
      <ol className="divide-y divide-line">
        {history.data?.map((h) => (
          <li key={h.revision} className="flex items-center gap-3 py-1">
            <span className="figure w-14 text-ink-soft">rev {h.revision}</span>
            <span className="min-w-0 flex-1 truncate">{h.note}</span>
            <time className="text-xs text-ink-soft" dateTime={h.savedAt}>
              {new Date(h.savedAt).toLocaleString([], { dateStyle: "short", timeStyle: "short", hour12: false })}
            </time>
            <Button className="h-6! px-2!" disabled={h.revision === revision || save !== "saved"} onClick={() => void restore(h.revision)}>
              {h.revision === revision ? "now" : "Restore"}
            </Button>
          </li>
        ))}
      </ol>
      {history.isPending && <p className="text-ink-soft">Reading…</p>}
    </Dialog>
  );
}
