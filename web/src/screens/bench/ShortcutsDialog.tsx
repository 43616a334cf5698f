import { Dialog } from "../../ui/Dialog.tsx";
import type { Command } from "./commands.ts";

const CHART: readonly (readonly [string, string])[] = [
  ["Double-click a row", "Add a contact there"],
  ["Drag an end / a slope", "Change its span / its ramp"],
  ["Alt ← →", "Move the picked contact's start"],
  ["Shift ← →", "Move its end"],
  ["Delete", "Remove the contact or the patch"],
  ["F2", "Rename the patch"],
  ["Shift-drag the ruler", "Play a stretch only"],
  ["Ctrl-wheel / Shift-wheel", "Zoom time / move along it"],
  ["Escape", "Drop what is being dragged"],
];

export function ShortcutsDialog({ open, onClose, commands }: { open: boolean; onClose: () => void; commands: readonly Command[] }) {
  const rows = [...commands.flatMap((c) => (c.shortcut ? [[c.shortcut, c.label] as const] : []))];
  return (
    <Dialog open={open} onClose={onClose} wide title="Shortcuts" description="Everything here can also be reached by menu, button or palette.">
      <div className="grid grid-cols-2 gap-x-10">
        {[rows, CHART].map((list) => (
          <dl key={list[0]?.[0]} className="grid h-fit grid-cols-[11rem_1fr] gap-y-1">
            {list.map(([keys, label]) => (
              <div key={keys + label} className="contents">
                <dt className="figure">{keys}</dt>
                <dd>{label}</dd>
              </div>
            ))}
          </dl>
        ))}
      </div>
    </Dialog>
  );
}
