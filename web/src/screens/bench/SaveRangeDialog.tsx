import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { uploadClip } from "../../api/client.ts";
import { fillTemplate } from "../../naming/nameTemplate.ts";
import { useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { askWorker } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { tagsIn } from "../library/renaming.ts";

/** The result, or a range of it, as a new clip beside the old one: with a name, a folder and tags. */
export function SaveRangeDialog({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const clip = useBench((s) => s.clip);
  const work = useBench((s) => s.name);
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const fps = useBench((s) => s.after?.fps ?? 30);
  const marked = playhead.range;
  const [start, setStart] = useState(marked?.[0] ?? 0);
  const [end, setEnd] = useState(marked?.[1] ?? last);
  const [template, setTemplate] = useState(marked ? "{work} {first}-{last}" : "{work}");
  const [folder, setFolder] = useState(clip?.folder ?? "");
  const [tags, setTags] = useState((clip?.tags ?? []).join(", "));
  const [busy, setBusy] = useState(false);
  const name = fillTemplate(template, { work, clip: clip?.name ?? "", first: String(start), last: String(end) });
  const valid = start < end && end <= last && name.length <= 200;
  const field = "h-7.5 w-full rounded-sm border border-line bg-sheet px-2";
  const save = async () => {
    setBusy(true);
    try {
      const text = await askWorker((w) => w.fileOf(start, end, name));
      const row = await uploadClip(new File([text], `${name}.bvh`), { labels: { name, folder, tags: tagsIn(tags) }, again: true });
      await queries.invalidateQueries({ queryKey: ["clips"] });
      toast.success(`${row.name} is in the library: ${row.summary.frames} frames`);
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title="Save as a clip"
      description="The result becomes a new clip of the library; the source and this work stay as they are."
    >
      <div className="grid grid-cols-[6rem_1fr] items-center gap-x-3 gap-y-2.5">
        <span>Frames</span>
        <span className="flex items-end gap-2">
          <span className="w-24">
            <NumberBox label="first" value={start} min={0} max={last} onCommit={setStart} />
          </span>
          <span className="w-24">
            <NumberBox label="last" value={end} min={0} max={last} onCommit={setEnd} />
          </span>
          <Button
            tone="quiet"
            onClick={() => {
              setStart(0);
              setEnd(last);
            }}
          >
            all of it
          </Button>
        </span>
        <label htmlFor="range-name">Name</label>
        <div>
          <input id="range-name" className={field} value={template} maxLength={200} onChange={(event) => setTemplate(event.target.value)} />
          <p className="mt-0.5 text-xs text-ink-soft">May hold {"{work} {clip} {first} {last}"}</p>
        </div>
        <label htmlFor="range-folder">Folder</label>
        <input id="range-folder" className={field} value={folder} maxLength={200} placeholder="none" onChange={(event) => setFolder(event.target.value)} />
        <label htmlFor="range-tags">Tags</label>
        <input id="range-tags" className={field} value={tags} onChange={(event) => setTags(event.target.value)} />
        <span>Becomes</span>
        <output className="truncate" title={name}>
          <b>{name}</b>
          <span className="figure text-ink-soft">
            {valid ? `, ${end - start + 1} frames, ${((end - start) / fps).toFixed(2)} s` : ", which holds no two frames"}
          </span>
        </output>
      </div>
      <div className="flex justify-end gap-2 pt-4">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="primary" disabled={busy || !valid} onClick={() => void save()}>
          {busy ? "Saving…" : "Save clip"}
        </Button>
      </div>
    </Dialog>
  );
}
