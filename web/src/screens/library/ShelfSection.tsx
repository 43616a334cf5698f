import { patchKind } from "@stride/motion";
import { useQuery } from "@tanstack/react-query";
import { Layers, Trash2 } from "lucide-react";
import type { ReactNode } from "react";
import { fetchKeptPatches, fetchPoses } from "../../api/client.ts";
import { IconButton } from "../../ui/Button.tsx";
import { useDeletion } from "./useDeletion.ts";

/** The shelf: kept poses, hand shapes and patches, to be looked through; they are applied on the bench. Nothing is shown while there are none. */
export function ShelfSection({ search }: { search: string }) {
  const remove = useDeletion();
  const poses = useQuery({ queryKey: ["poses"], queryFn: fetchPoses });
  const patches = useQuery({ queryKey: ["patches"], queryFn: fetchKeptPatches });
  const named = ({ name }: { name: string }) => name.toLowerCase().includes(search.trim().toLowerCase());
  const [shownPoses, shownPatches] = [(poses.data ?? []).filter(named), (patches.data ?? []).filter(named)];
  if (shownPoses.length + shownPatches.length === 0) return null;
  return (
    <section aria-label="Shelf" className="pt-5">
      <h2 className="pb-2 font-semibold">Poses, hand shapes and patches</h2>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(118px,1fr))] gap-2.5">
        {shownPoses.map((pose) => (
          <Kept
            key={pose.id}
            name={pose.name}
            about={
              pose.kind === "unreadable"
                ? `cannot be read: ${pose.problem}`
                : pose.kind === "hand"
                  ? "hand shape"
                  : `pose, ${Object.keys(pose.data.rotations).length} parts`
            }
            bad={pose.kind === "unreadable"}
            onDelete={() => void remove({ poses: [pose.id] }, pose.name)}
          >
            <svg viewBox="0 0 100 100" className="block h-24 w-full bg-paper" aria-hidden="true">
              {pose.kind !== "unreadable" && (
                <path d={pose.picture} fill="none" stroke="var(--ink)" strokeWidth={4} strokeLinecap="round" strokeLinejoin="round" />
              )}
            </svg>
          </Kept>
        ))}
        {shownPatches.map((kept) => (
          <Kept
            key={kept.id}
            name={kept.name}
            about={kept.recipe ? `${kept.recipe.patches.length} ${kept.recipe.patches.length === 1 ? "patch" : "patches"}` : `cannot be read: ${kept.problem}`}
            bad={kept.recipe === null}
            onDelete={() => void remove({ patches: [kept.id] }, kept.name)}
          >
            <span className="flex h-24 flex-col justify-end gap-1 bg-paper p-2 text-xs" aria-hidden="true">
              {(kept.recipe?.patches ?? []).slice(-3).map((patch) => (
                <span
                  key={patch.id}
                  className="truncate rounded-[2px] border border-ink-soft bg-[color-mix(in_srgb,var(--wood,#d9c9a5)_45%,transparent)] px-1.5"
                >
                  {patchKind(patch.kind)?.title ?? patch.kind}
                </span>
              ))}
              {kept.recipe === null && <Layers size={20} />}
            </span>
          </Kept>
        ))}
      </ul>
    </section>
  );
}

function Kept({ name, about, bad, onDelete, children }: { name: string; about: string; bad: boolean; onDelete: () => void; children: ReactNode }) {
  return (
    <li className="group relative rounded-sm border border-line bg-sheet p-1.5">
      {children}
      <span className="block truncate pt-1 font-semibold" title={name}>
        {name}
      </span>
      <span className={`block text-xs ${bad ? "text-coral-ink" : "text-ink-soft"}`}>{about}</span>
      <IconButton
        label={`Delete ${name}`}
        className="absolute top-1 right-1 size-6! opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"
        onClick={onDelete}
      >
        <Trash2 size={13} />
      </IconButton>
    </li>
  );
}
