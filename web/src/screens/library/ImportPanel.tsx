import { Check, CircleSlash, CopyCheck, Pause, Play, TriangleAlert, X } from "lucide-react";
import { useRef, useState } from "react";
import type { ImportCounts, ImportRow } from "../../state/importQueue.ts";
import { Button, IconButton } from "../../ui/Button.tsx";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { type Imports, useImportState } from "./useImports.ts";

const WORDS: Readonly<Record<ImportRow["state"], string>> = {
  waiting: "waiting",
  sending: "being sent",
  checking: "being read and checked",
  done: "is in the library",
  known: "was in the library already, by its content",
  failed: "could not be read",
  cancelled: "left out",
};

/** Over so many files the list is folded; what failed is always in sight. */
const FEW = 8;

/** Files being brought in: how far they are, what failed and why; paused, gone on with or cancelled. */
export function ImportPanel({ imports }: { imports: Imports }) {
  const { queue } = imports;
  const state = useImportState(imports);
  const [all, setAll] = useState(false);
  const scroller = useRef<HTMLDivElement>(null);
  if (state.rows.length === 0) return null;
  const counts = queue.counts();
  const many = counts.total > FEW;
  const rows = many && !all ? state.rows.filter((row) => row.state === "failed" || row.state === "sending" || row.state === "checking") : state.rows;
  return (
    <section aria-label="Files being brought in" className="mx-4.5 mt-2 rounded-sm border border-line bg-sheet">
      <header className="flex items-center gap-3 px-3 py-1.5">
        <progress max={counts.total} value={counts.total - counts.left} className="h-1.5 w-28" aria-label="Files brought in" />
        <span role="status" className="min-w-0 flex-1">
          <Summary counts={counts} paused={state.paused} />
        </span>
        {many && (
          <Button tone="quiet" aria-expanded={all} onClick={() => setAll(!all)}>
            {all ? "Fold the list" : "Show all files"}
          </Button>
        )}
        {counts.left > 0 ? (
          <>
            <Button onClick={() => (state.paused ? queue.resume() : queue.pause())}>
              {state.paused ? <Play size={14} /> : <Pause size={14} />} {state.paused ? "Go on" : "Pause"}
            </Button>
            <Button onClick={() => queue.cancel()}>
              <CircleSlash size={14} /> Cancel
            </Button>
          </>
        ) : (
          <IconButton label="Dismiss the list" onClick={() => queue.dismiss(state.rows.map((row) => row.id))}>
            <X size={14} />
          </IconButton>
        )}
      </header>
      {rows.length > 0 && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard
        <section ref={scroller} className="relative max-h-44 overflow-auto border-t border-line" tabIndex={0} aria-label="Files">
          <VirtualList items={rows} scroller={scroller} rowHeight={29} keyOf={(row) => row.id} rowClassName={() => "border-b border-line last:border-b-0"}>
            {(row) => <FileRow row={row} />}
          </VirtualList>
        </section>
      )}
    </section>
  );
}

function Summary({ counts, paused }: { counts: ImportCounts; paused: boolean }) {
  const { total, done, known, failed, cancelled, left, secondsLeft } = counts;
  const parts = [
    `${done} of ${total} brought in`,
    known > 0 && `${known} known already`,
    failed > 0 && `${failed} could not be read`,
    cancelled > 0 && `${cancelled} left out`,
    left > 0 && (paused ? `paused, ${left} to go` : secondsLeft === null ? `${left} to go` : `${left} to go, about ${timeWords(secondsLeft)}`),
  ].filter((part) => part !== false);
  return <span className={failed > 0 && left === 0 ? "text-coral-ink" : ""}>{parts.join(" · ")}</span>;
}

/** What became of a file; of one with several animations, how many. */
function rowWords({ state, added = 1 }: ImportRow): string {
  return state === "done" && added > 1 ? `is in the library as ${added} clips, one of each of its animations` : WORDS[state];
}

function timeWords(seconds: number): string {
  return seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`;
}

function FileRow({ row }: { row: ImportRow }) {
  const ended =
    row.state === "done" ? Check : row.state === "known" ? CopyCheck : row.state === "failed" ? TriangleAlert : row.state === "cancelled" ? CircleSlash : null;
  const Icon = ended;
  return (
    <div className="relative flex items-center gap-3 px-3 py-1">
      {Icon ? (
        <Icon
          size={15}
          className={row.state === "failed" ? "shrink-0 text-coral-ink" : row.state === "cancelled" ? "shrink-0 text-ink-soft" : "shrink-0 text-moss-ink"}
          aria-hidden="true"
        />
      ) : (
        <progress max={1} value={row.share} className="h-1.5 w-16 shrink-0" aria-label={row.fileName} />
      )}
      <span className="max-w-96 truncate font-semibold">{row.fileName}</span>
      <span className={`min-w-0 flex-1 ${row.state === "failed" ? "text-coral-ink" : "text-ink-soft"}`}>
        {row.error ?? rowWords(row)}
        {row.unread?.map(({ take, problem }) => (
          <span key={take} className="text-coral-ink">{`; "${take}" could not be read: ${problem}`}</span>
        ))}
      </span>
    </div>
  );
}
