import type { Outcome } from "@stride/motion";
import { Check, LoaderCircle, TriangleAlert } from "lucide-react";
import { type ReactNode, useRef } from "react";
import { VirtualList } from "../ui/VirtualList.tsx";
import { outcomeWords } from "./outcomeWords.ts";
import type { Planned } from "./planQueue.ts";

interface PlanTableProps<P extends { readonly outcome: Outcome }> {
  /** works in their order */
  readonly works: readonly { readonly id: string; readonly name: string; readonly about: string }[];
  readonly rows: ReadonlyMap<string, Planned<P>>;
  readonly exceptions: ReadonlySet<string>;
  readonly onException: (id: string, on: boolean) => void;
  /** what was changed of this one, beside what that did */
  readonly detail: (plan: P) => ReactNode;
}

/** A row a work: what the change does to it, what it cannot do, and whether it is made there. */
export function PlanTable<P extends { readonly outcome: Outcome }>({ works, rows, exceptions, onException, detail }: PlanTableProps<P>) {
  const scroller = useRef<HTMLDivElement>(null);
  return (
    <section
      ref={scroller}
      className="relative max-h-[42vh] min-h-24 overflow-auto rounded-sm border border-line"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard
      tabIndex={0}
      aria-label="Works and what the change does to them"
    >
      <VirtualList items={works} scroller={scroller} rowHeight={46} keyOf={(work) => work.id} rowClassName={() => "border-b border-line last:border-b-0"}>
        {(work) => {
          const row = rows.get(work.id);
          return (
            <label className="flex items-start gap-2.5 px-3 py-1.5">
              <input
                type="checkbox"
                className="mt-0.5"
                checked={row?.state !== "impossible" && !exceptions.has(work.id)}
                disabled={row?.state === "impossible"}
                onChange={(event) => onException(work.id, !event.target.checked)}
                aria-label={`Change ${work.name}`}
              />
              <span className="w-56 shrink-0">
                <span className="block truncate font-semibold" title={work.name}>
                  {work.name}
                </span>
                <span className="block truncate text-xs text-ink-soft">{work.about}</span>
              </span>
              <span className="min-w-0 flex-1">
                <Result row={row} detail={detail} />
              </span>
            </label>
          );
        }}
      </VirtualList>
    </section>
  );
}

function Result<P extends { readonly outcome: Outcome }>({ row, detail }: { row: Planned<P> | undefined; detail: (plan: P) => ReactNode }) {
  if (!row || row.state === "waiting") return <span className="text-ink-soft">waits its turn</span>;
  if (row.state === "planning")
    return (
      <span className="inline-flex items-center gap-1.5 text-ink-soft">
        <LoaderCircle size={14} className="animate-spin motion-reduce:animate-none" aria-hidden="true" /> working it out…
      </span>
    );
  if (row.state === "impossible")
    return (
      <span className="inline-flex items-start gap-1.5 text-coral-ink">
        <TriangleAlert size={14} className="mt-0.5 shrink-0" aria-hidden="true" /> {row.why}
      </span>
    );
  const { plan } = row;
  const { outcome } = plan;
  return (
    <>
      <span className="flex items-start gap-1.5">
        <Check size={14} className="mt-0.5 shrink-0 text-moss-ink" aria-hidden="true" />
        <span className="figure">{outcomeWords(outcome)}</span>
      </span>
      <span className="block pl-5 text-xs text-ink-soft">{detail(plan)}</span>
      {[...new Set(outcome.notes)].map((note) => (
        <span key={note} className="block pl-5 text-xs text-coral-ink">
          {note}
        </span>
      ))}
    </>
  );
}
