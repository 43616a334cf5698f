import type { PoseRow } from "@stride/server";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { deletePose, fetchPoses } from "../../api/client.ts";
import { IconButton } from "../../ui/Button.tsx";

type RowOf<K extends PoseRow["kind"]> = Extract<PoseRow, { kind: K }>;

/** Kept poses or hand shapes as pictures; pressing one uses it. */
export function KeptPoses<K extends PoseRow["kind"]>({ kind, label, verb, onUse }: { kind: K; label: string; verb: string; onUse: (row: RowOf<K>) => void }) {
  const queries = useQueryClient();
  const poses = useQuery({ queryKey: ["poses"], queryFn: fetchPoses });
  const rows = (poses.data ?? []).filter((row): row is RowOf<K> => row.kind === kind);
  return (
    <ul className="grid grid-cols-4 gap-1 pt-2" aria-label={label}>
      {rows.map((row) => (
        <li key={row.id} className="group relative">
          <button
            type="button"
            className="block w-full rounded-sm border border-line bg-paper p-0.5 hover:border-ink-soft"
            title={`${verb} ${row.name}`}
            aria-label={`${verb} ${row.name}`}
            onClick={() => onUse(row)}
          >
            <svg viewBox="0 0 100 100" className="block w-full" aria-hidden="true">
              <path d={row.picture} fill="none" stroke="var(--ink)" strokeWidth={4.5} strokeLinecap="round" />
            </svg>
            <span className="block truncate text-xs">{row.name}</span>
          </button>
          <IconButton
            label={`Delete ${row.name}`}
            className="absolute top-0 right-0 size-5! opacity-0 group-focus-within:opacity-100 group-hover:opacity-100"
            onClick={() => void deletePose(row.id).then(() => queries.invalidateQueries({ queryKey: ["poses"] }))}
          >
            <Trash2 size={11} />
          </IconButton>
        </li>
      ))}
    </ul>
  );
}
