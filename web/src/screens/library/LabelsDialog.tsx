import type { ListedClip } from "@stride/server";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { fetchFacets } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { retagged, tagsIn } from "./renaming.ts";
import { useRelabel } from "./useRelabel.ts";

/** Where the picked clips lie, and what they are tagged with. */
export function LabelsDialog({ clips, onClose }: { clips: readonly ListedClip[]; onClose: () => void }) {
  const folders = [...new Set(clips.map((clip) => clip.folder))];
  const [folder, setFolder] = useState(folders.length === 1 ? folders[0] : "");
  const [moved, setMoved] = useState(false);
  const [add, setAdd] = useState("");
  const [off, setOff] = useState<readonly string[]>([]);
  const facets = useQuery({ queryKey: ["clips", "facets"], queryFn: fetchFacets });
  const relabel = useRelabel();
  const tags = [...new Set(clips.flatMap((clip) => clip.tags))].slice(0, 40);
  const field = "h-7.5 w-full rounded-sm border border-line bg-sheet px-2";
  const apply = async () => {
    const changes = clips.map((clip) => ({ id: clip.id, tags: retagged(clip.tags, tagsIn(add), off), ...(moved && { folder }) }));
    if (await relabel(changes, "Labelled")) onClose();
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Folder and tags of ${clips.length} ${clips.length === 1 ? "clip" : "clips"}`}
      description="The first tag is the character. Folders inside a folder are written with a slash: shift 3/takes."
    >
      <div className="grid grid-cols-[6rem_1fr] items-center gap-x-3 gap-y-2.5">
        <label htmlFor="labels-folder">Folder</label>
        <input
          id="labels-folder"
          list="labels-folders"
          className={field}
          value={folder}
          maxLength={200}
          placeholder={folders.length > 1 ? "several; left as they are" : "none"}
          onChange={(event) => {
            setMoved(true);
            setFolder(event.target.value);
          }}
        />
        <datalist id="labels-folders">
          {facets.data?.folders.map(({ name }) => (
            <option key={name} value={name} />
          ))}
        </datalist>
        <label htmlFor="labels-add">Add tags</label>
        <input id="labels-add" className={field} value={add} placeholder="night, quay" onChange={(event) => setAdd(event.target.value)} />
        <span className="self-start pt-1">Tags</span>
        <span className="flex flex-wrap gap-1.5">
          {tags.map((tag) => {
            const gone = off.includes(tag);
            return (
              <button
                key={tag}
                type="button"
                aria-pressed={!gone}
                title={gone ? "Keep this tag" : "Take this tag off"}
                onClick={() => setOff(gone ? off.filter((t) => t !== tag) : [...off, tag])}
                className={`h-6.5 rounded-full border px-2.5 ${gone ? "border-line text-ink-soft line-through" : "border-ink-soft bg-sheet"}`}
              >
                {tag}
              </button>
            );
          })}
        </span>
      </div>
      <div className="flex justify-end gap-2 pt-4">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="primary" disabled={!moved && tagsIn(add).length === 0 && off.length === 0} onClick={() => void apply()}>
          Apply
        </Button>
      </div>
    </Dialog>
  );
}
