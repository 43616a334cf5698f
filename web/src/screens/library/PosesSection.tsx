import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { deletePose, fetchPoses } from "../../api/client.ts";
import { IconButton } from "../../ui/Button.tsx";

/** Kept poses and hand shapes, to be looked through; they are applied on the bench. Nothing is shown while there are none. */
export function PosesSection({ search }: { search: string }) {
  const queries = useQueryClient();
  const poses = useQuery({ queryKey: ["poses"], queryFn: fetchPoses });
  const shown = (poses.data ?? []).filter((pose) => pose.name.toLowerCase().includes(search.trim().toLowerCase()));
  if (shown.length === 0) return null;
  return (
    <section aria-label="Poses and hand shapes" className="pt-5">
      <h2 className="pb-2 font-semibold">Poses and hand shapes</h2>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(118px,1fr))] gap-2.5">
        {shown.map((pose) => (
          <li key={pose.id} className="group relative rounded-sm border border-line bg-sheet p-1.5">
            <svg viewBox="0 0 100 100" className="block h-24 w-full bg-paper" aria-hidden="true">
              {pose.kind !== "unreadable" && (
                <path d={pose.picture} fill="none" stroke="var(--ink)" strokeWidth={4} strokeLinecap="round" strokeLinejoin="round" />
              )}
            </svg>
            <span className="block truncate pt-1 font-semibold" title={pose.name}>
              {pose.name}
            </span>
            <span className={`block text-xs ${pose.kind === "unreadable" ? "text-coral-ink" : "text-ink-soft"}`}>
              {pose.kind === "unreadable"
                ? `cannot be read: ${pose.problem}`
                : pose.kind === "hand"
                  ? "hand shape"
                  : `pose, ${Object.keys(pose.data.rotations).length} parts`}
            </span>
            <IconButton
              label={`Delete ${pose.name}`}
              className="absolute top-1 right-1 size-6! opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"
              onClick={() => void deletePose(pose.id).then(() => queries.invalidateQueries({ queryKey: ["poses"] }))}
            >
              <Trash2 size={13} />
            </IconButton>
          </li>
        ))}
      </ul>
    </section>
  );
}
