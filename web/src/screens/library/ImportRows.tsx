import { Check, TriangleAlert, X } from "lucide-react";
import { IconButton } from "../../ui/Button.tsx";
import type { ImportRow } from "./useImports.ts";

const WORDS = { waiting: "waits", sending: "is sent", checking: "is read and checked", done: "is in the library", failed: "could not be read" } as const;

/** Progress and errors of files being brought in. */
export function ImportRows({ rows, onDismiss }: { rows: readonly ImportRow[]; onDismiss: (id: number) => void }) {
  if (rows.length === 0) return null;
  return (
    <ul aria-label="Files being brought in" aria-live="polite" className="mx-4.5 mt-2 divide-y divide-line rounded-sm border border-line bg-sheet">
      {rows.map((row) => (
        <li key={row.id} className="relative flex items-center gap-3 px-3 py-1.5">
          {row.state === "done" ? (
            <Check size={15} className="text-moss-ink" />
          ) : row.state === "failed" ? (
            <TriangleAlert size={15} className="text-coral-ink" />
          ) : (
            <progress max={1} value={row.share} className="h-1.5 w-16" aria-label={row.fileName} />
          )}
          <span className="max-w-96 truncate font-semibold">{row.fileName}</span>
          <span className={`min-w-0 flex-1 ${row.state === "failed" ? "text-coral-ink" : "text-ink-soft"}`}>{row.error ?? WORDS[row.state]}</span>
          {(row.state === "done" || row.state === "failed") && (
            <IconButton label={`Dismiss ${row.fileName}`} onClick={() => onDismiss(row.id)}>
              <X size={14} />
            </IconButton>
          )}
        </li>
      ))}
    </ul>
  );
}
