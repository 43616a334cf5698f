import { RECIPE_FORMAT } from "@stride/motion";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { keepPatches } from "../../api/client.ts";
import { useBench } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { PatchChoice } from "./PatchChoice.tsx";

/** Patches with their settings kept on the shelf under a name, to be laid on any work. */
export function KeepDialog({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const doc = useBench((s) => s.doc);
  const patchId = useBench((s) => s.patchId);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set(patchId ? [patchId] : []));
  const chosen = doc.patches.filter((p) => picked.has(p.id));
  const [name, setName] = useState("");
  const called =
    name.trim() ||
    chosen
      .map((p) => p.name)
      .join(", ")
      .slice(0, 120);
  const keep = async () => {
    try {
      await keepPatches(called, { format: RECIPE_FORMAT, name: called, patches: chosen.map((p) => ({ ...p, solo: false })) });
      await queries.invalidateQueries({ queryKey: ["patches"] });
      toast.success(`${called} is on the shelf`);
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title="Keep patches on the shelf"
      description="With their settings and ranges. They are found again under + Patch and in the library."
    >
      <PatchChoice picked={picked} onPick={setPicked} />
      <div className="flex items-center gap-3 pt-3">
        <label htmlFor="kept-name">Name</label>
        <input
          id="kept-name"
          value={name}
          placeholder={called}
          maxLength={120}
          onChange={(event) => setName(event.target.value)}
          className="h-7.5 min-w-0 flex-1 rounded-sm border border-line bg-sheet px-2 placeholder:text-ink-soft"
        />
      </div>
      <div className="flex justify-end gap-2 pt-4">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="primary" disabled={chosen.length === 0} onClick={() => void keep()}>
          Keep
        </Button>
      </div>
    </Dialog>
  );
}
