import { clipRef } from "@stride/motion";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { toast } from "sonner";
import { fetchHistory, restoreRevision } from "../../api/client.ts";
import { useBench } from "../../state/bench.ts";
import { askWorker, type Session } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { besideVersion } from "./BesideDialog.tsx";
import { versionWords } from "./versionWords.ts";

/** The kept saves of this work, versions among them; any can be compared with, or put back on top. `onReplaced`: it stands on another clip from then on. */
export function HistoryDialog({
  session,
  onVersion,
  onReplaced,
  onClose,
}: {
  session: Session;
  onVersion: () => void;
  onReplaced: () => void;
  onClose: () => void;
}) {
  const id = useBench((s) => s.row?.id);
  const clip = useBench((s) => s.clip);
  const scroller = useRef<HTMLDivElement>(null);
  const revision = useBench((s) => s.revision);
  const save = useBench((s) => s.save);
  const [only, setOnly] = useState<"all" | "versions">("all");
  const history = useQuery({ queryKey: ["history", id, revision], queryFn: () => fetchHistory(id ?? ""), enabled: id !== undefined });
  const shown = (history.data ?? []).filter((h) => only === "all" || h.version !== null);
  const told = (error: unknown) => toast.error(error instanceof Error ? error.message : String(error));
  const restore = async (to: number) => {
    if (!id) return;
    try {
      const row = await restoreRevision(id, to);
      if (row.clipId !== clip?.id) {
        onReplaced();
        return;
      }
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
      told(error);
    }
  };
  const compare = async (version: (typeof shown)[number]) => {
    if (!id || !clip) return;
    await besideVersion(session, id, clipRef(clip), version).then(onClose, told);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title="History"
      description="Every save of the last day is kept, then one an hour, then one a day; versions, and what was restored or exported, stay for ever. Restoring one puts it on top."
    >
      <div className="flex items-center justify-between pb-2">
        <Segmented
          small
          label="Saves shown"
          value={only}
          options={[
            { value: "all", label: "Every save" },
            { value: "versions", label: "Versions" },
          ]}
          onChange={setOnly}
        />
        <Button className="h-6.5! px-2.5!" onClick={onVersion}>
          Make a version…
        </Button>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard */}
      <div ref={scroller} className="relative max-h-[55vh] overflow-auto" tabIndex={0}>
        <VirtualList
          items={shown}
          scroller={scroller}
          rowHeight={33}
          keyOf={(h) => h.revision}
          rowClassName={() => "flex items-center gap-2.5 border-b border-line py-1 last:border-b-0"}
        >
          {(h) => (
            <>
              <span className="figure w-14 shrink-0 text-ink-soft">rev {h.revision}</span>
              <span className="min-w-0 flex-1 truncate" title={h.note}>
                {h.version !== null && <b>{versionWords(h)} · </b>}
                {h.note}
              </span>
              <time className="shrink-0 text-xs text-ink-soft" dateTime={h.savedAt}>
                {new Date(h.savedAt).toLocaleString([], { dateStyle: "short", timeStyle: "short", hour12: false })}
              </time>
              {h.revision !== revision && (
                <Button tone="quiet" className="h-6! px-2!" onClick={() => void compare(h)}>
                  Compare
                </Button>
              )}
              <Button className="h-6! px-2!" disabled={h.revision === revision || save !== "saved"} onClick={() => void restore(h.revision)}>
                {h.revision === revision ? "now" : "Restore"}
              </Button>
            </>
          )}
        </VirtualList>
        {shown.length === 0 && !history.isPending && <p className="text-ink-soft">No version yet.</p>}
      </div>
      {history.isPending && <p className="text-ink-soft">Reading…</p>}
    </Dialog>
  );
}
