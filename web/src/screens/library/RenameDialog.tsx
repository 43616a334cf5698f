import type { ListedClip } from "@stride/server";
import { useState } from "react";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { renamed, renamingProblem } from "./renaming.ts";
import { useRelabel } from "./useRelabel.ts";

/** Examples that are shown. */
const SHOWN = 6;

/** New names for the clips that are picked, by a template. */
export function RenameDialog({ clips, onClose }: { clips: readonly ListedClip[]; onClose: () => void }) {
  const [prefix, setPrefix] = useState("");
  const [template, setTemplate] = useState(clips.length === 1 ? clips[0].name : "{name}");
  const [suffix, setSuffix] = useState("");
  const [from, setFrom] = useState(1);
  const [busy, setBusy] = useState(false);
  const relabel = useRelabel();
  const names = renamed(clips, { prefix, template, suffix, from });
  const problem = renamingProblem(names);
  const field = "h-7.5 w-full rounded-sm border border-line bg-sheet px-2";
  const rename = async () => {
    setBusy(true);
    if (await relabel(names, "Renamed")) onClose();
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Rename ${clips.length} ${clips.length === 1 ? "clip" : "clips"}`}
      description="Files keep the names that they came with; one undo takes it all back."
    >
      <div className="grid grid-cols-[6rem_1fr] items-center gap-x-3 gap-y-2.5">
        <label htmlFor="rename-prefix">Prefix</label>
        <input id="rename-prefix" className={field} value={prefix} maxLength={60} onChange={(event) => setPrefix(event.target.value)} />
        <label htmlFor="rename-template">Name</label>
        <div>
          <input id="rename-template" className={field} value={template} maxLength={200} onChange={(event) => setTemplate(event.target.value)} />
          <p className="mt-0.5 text-xs text-ink-soft">May hold {"{name} {n} {character} {folder} {fps}"}</p>
        </div>
        <label htmlFor="rename-suffix">Suffix</label>
        <input id="rename-suffix" className={field} value={suffix} maxLength={60} onChange={(event) => setSuffix(event.target.value)} />
        <span aria-hidden="true">Numbers</span>
        <span className="w-24">
          <NumberBox label="count from" value={from} min={0} max={100_000} onCommit={setFrom} />
        </span>
      </div>
      <ul aria-label="New names" className="mt-3 rounded-sm border border-line bg-paper px-3 py-1.5">
        {names.slice(0, SHOWN).map(({ id, name }, i) => (
          <li key={id} className="flex gap-2 py-0.5">
            <span className="w-44 shrink-0 truncate text-ink-soft">{clips[i].name}</span>
            <span aria-hidden="true">→</span>
            <span className="min-w-0 truncate font-semibold">{name}</span>
          </li>
        ))}
        {names.length > SHOWN && (
          <li className="text-ink-soft">
            and {names.length - SHOWN} more, the last one “{names[names.length - 1].name}”
          </li>
        )}
      </ul>
      {problem && (
        <p role="alert" className="pt-2 text-coral-ink">
          {problem}
        </p>
      )}
      <div className="flex justify-end gap-2 pt-4">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="primary" disabled={busy || problem !== null} onClick={() => void rename()}>
          Rename
        </Button>
      </div>
    </Dialog>
  );
}
