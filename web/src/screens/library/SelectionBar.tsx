import type { ListedClip } from "@stride/server";
import { Columns2, Copy, FolderPen, PencilLine, Trash2, X } from "lucide-react";
import { useState } from "react";
import { Button, IconButton } from "../../ui/Button.tsx";
import { LabelsDialog } from "./LabelsDialog.tsx";
import { RenameDialog } from "./RenameDialog.tsx";

interface SelectionBarProps {
  /** those that are picked, in the order in which they are shown */
  readonly clips: readonly ListedClip[];
  readonly shown: number;
  readonly onAll: () => void;
  readonly onNone: () => void;
  /** the first beside the second, on the bench */
  readonly onCompare: () => void;
  readonly onDuplicate: () => void;
  readonly onDelete: () => void;
}

/** What can be done with the clips that are picked. */
export function SelectionBar({ clips, shown, onAll, onNone, onCompare, onDuplicate, onDelete }: SelectionBarProps) {
  const [dialog, setDialog] = useState<"rename" | "labels" | null>(null);
  return (
    <section aria-label="Picked clips" className="mx-4.5 mt-2 flex items-center gap-2 rounded-sm border border-cobalt bg-cobalt-wash px-3 py-1">
      <span role="status" className="font-semibold">{`${clips.length} ${clips.length === 1 ? "clip" : "clips"} picked`}</span>
      {clips.length < shown && (
        <Button tone="quiet" onClick={onAll}>
          Pick all {shown} shown
        </Button>
      )}
      <span className="flex-1" />
      {clips.length === 2 && (
        <Button onClick={onCompare}>
          <Columns2 size={14} /> Side by side
        </Button>
      )}
      <Button onClick={() => setDialog("rename")}>
        <PencilLine size={14} /> Rename…
      </Button>
      <Button onClick={() => setDialog("labels")}>
        <FolderPen size={14} /> Folder and tags…
      </Button>
      <Button onClick={onDuplicate}>
        <Copy size={14} /> Duplicate
      </Button>
      <Button onClick={onDelete}>
        <Trash2 size={14} /> Delete
      </Button>
      <IconButton label="Pick none" shortcut="Esc" onClick={onNone}>
        <X size={15} />
      </IconButton>
      {dialog === "rename" && <RenameDialog clips={clips} onClose={() => setDialog(null)} />}
      {dialog === "labels" && <LabelsDialog clips={clips} onClose={() => setDialog(null)} />}
    </section>
  );
}
