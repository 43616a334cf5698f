import { patchKind, type RangePlacing } from "@stride/motion";
import type { CopyResult } from "@stride/server";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { fetchWorks, planCopy } from "../../api/client.ts";
import { applyChanges } from "../../changes/applyPlans.ts";
import { rangeWords } from "../../changes/outcomeWords.ts";
import { PlanTable } from "../../changes/PlanTable.tsx";
import { open, type Planned, PlanQueue, taken } from "../../changes/planQueue.ts";
import { useBench } from "../../state/bench.ts";
import type { Session } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { withOrWithout } from "../library/ReplaceDialog.tsx";
import { PatchChoice } from "./PatchChoice.tsx";

type Plan = CopyResult & { base: number };

const PLACINGS = [
  { value: "contacts", label: "On the same steps", hint: "Ranges are brought over by the contacts of both" },
  { value: "same", label: "On the same moments", hint: "Ranges keep their seconds" },
  { value: "whole", label: "Whole clip", hint: "Without ranges" },
] as const satisfies readonly { value: RangePlacing; label: string; hint: string }[];

/** Patches of this work copied to others as one step: chosen, worked out for each with what they do there, exceptions left out, and undone as one. */
export function CopyDialog({ session, onClose }: { session: Session; onClose: () => void }) {
  const queries = useQueryClient();
  const row = useBench((s) => s.row);
  const clip = useBench((s) => s.clip);
  const doc = useBench((s) => s.doc);
  const patchId = useBench((s) => s.patchId);
  const [patches, setPatches] = useState<ReadonlySet<string>>(new Set(patchId ? [patchId] : doc.patches.map((p) => p.id)));
  const [ranges, setRanges] = useState<RangePlacing>("contacts");
  const [search, setSearch] = useState("");
  const [others, setOthers] = useState(false);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const [rows, setRows] = useState<ReadonlyMap<string, Planned<Plan>>>(new Map());
  const [exceptions, setExceptions] = useState<ReadonlySet<string>>(new Set());
  const [planning, setPlanning] = useState<readonly string[] | null>(null);
  const [busy, setBusy] = useState(false);
  const scroller = useRef<HTMLElement>(null);
  const works = useQuery({ queryKey: ["works"], queryFn: fetchWorks });
  const character = clip?.tags[0];
  const offered = useMemo(
    () =>
      (works.data ?? []).filter(
        (w) => w.id !== row?.id && w.problem === null && (others || w.character === character) && w.name.toLowerCase().includes(search.trim().toLowerCase()),
      ),
    [works.data, row?.id, others, character, search],
  );
  const targets = useMemo(
    () =>
      (planning ?? []).flatMap((id) => (works.data ?? []).filter((w) => w.id === id).map((w) => ({ id, name: w.name, about: w.character || "no character" }))),
    [planning, works.data],
  );
  useEffect(() => {
    if (!planning || !row) return;
    let queue: PlanQueue<Plan> | null = null;
    let closed = false;
    // What is copied is what is saved.
    void session.save().then(() => {
      if (closed) return;
      const { revision } = useBench.getState();
      queue = new PlanQueue<Plan>(planning, (id, signal) => planCopy(id, { from: row.id, revision, patches: [...patches], ranges }, signal), setRows);
      void queue.run();
    });
    return () => {
      closed = true;
      queue?.stop();
    };
  }, [planning, row, session, patches, ranges]);
  const chosen = taken(planning ?? [], rows, exceptions);
  const left = planning ? open(rows) : 0;
  const names = doc.patches.filter((p) => patches.has(p.id)).map((p) => p.name);
  const apply = async () => {
    setBusy(true);
    const changes = chosen.map(({ id, plan }) => ({ id, base: plan.base, document: plan.document }));
    const note = `${names.join(", ").slice(0, 120)} copied from ${row?.name ?? "another work"}`.slice(0, 200);
    if (await applyChanges(changes, note, () => void queries.invalidateQueries())) onClose();
    else setPlanning([...(planning ?? [])]);
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title="Copy patches to other works"
      description="They are laid over what is there, all works in one step; nothing is saved before you have seen what they do."
      wide
    >
      {planning === null ? (
        <div className="grid grid-cols-[1fr_1fr] gap-6">
          <div>
            <h3 className="pb-1 font-semibold">Patches</h3>
            <PatchChoice picked={patches} onPick={setPatches} />
            <h3 className="pt-3 pb-1 font-semibold">Their ranges</h3>
            <Segmented label="Their ranges" value={ranges} options={PLACINGS} onChange={setRanges} />
            <p className="pt-1 text-xs text-ink-soft">{PLACINGS.find((p) => p.value === ranges)?.hint}.</p>
          </div>
          <div className="min-w-0">
            <h3 className="pb-1 font-semibold">To these works</h3>
            <div className="flex items-center gap-3">
              <input
                type="search"
                aria-label="Search works"
                placeholder="Which works?"
                value={search}
                onChange={(event) => setSearch(event.target.value)}
                className="h-7.5 min-w-0 flex-1 rounded-sm border border-line bg-sheet px-2 placeholder:text-ink-soft"
              />
              <label className="flex items-center gap-1.5 whitespace-nowrap">
                <input type="checkbox" checked={others} onChange={(event) => setOthers(event.target.checked)} className="accent-[var(--ink)]" /> other
                characters too
              </label>
            </div>
            {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard */}
            <section ref={scroller} aria-label="Works" tabIndex={0} className="relative mt-2 max-h-72 overflow-auto rounded-sm border border-line">
              <VirtualList
                items={offered}
                scroller={scroller}
                rowHeight={27}
                keyOf={(work) => work.id}
                rowClassName={() => "border-b border-line last:border-b-0"}
              >
                {(work) => (
                  <label className="flex items-center gap-2.5 px-2.5 py-1">
                    <input
                      type="checkbox"
                      checked={picked.has(work.id)}
                      onChange={(event) => setPicked(withOrWithout(picked, work.id, event.target.checked))}
                    />
                    <span className="min-w-0 flex-1 truncate">{work.name}</span>
                    <span className="text-xs text-ink-soft">
                      {work.patches === 0 ? "untouched" : `${work.patches} ${work.patches === 1 ? "patch" : "patches"}`}
                    </span>
                  </label>
                )}
              </VirtualList>
              {offered.length === 0 && (
                <p className="px-2.5 py-2 text-ink-soft">
                  {works.isPending
                    ? "Reading…"
                    : `No other work ${others ? "" : `of ${character ?? "this character"} `}here. Open a clip of the library to begin one.`}
                </p>
              )}
            </section>
            <div className="flex items-center gap-2 pt-1.5">
              <Button tone="quiet" className="h-6! px-2!" onClick={() => setPicked(new Set([...picked, ...offered.map((w) => w.id)]))}>
                All {offered.length}
              </Button>
              <Button tone="quiet" className="h-6! px-2!" onClick={() => setPicked(new Set())}>
                None
              </Button>
              <span className="text-ink-soft">{picked.size} picked</span>
            </div>
          </div>
        </div>
      ) : (
        <>
          <p className="pb-2">
            <b>{names.join(", ")}</b>{" "}
            <span className="text-ink-soft">
              from {row?.name}, {PLACINGS.find((p) => p.value === ranges)?.label.toLowerCase()}
            </span>
          </p>
          <PlanTable
            works={targets}
            rows={rows}
            exceptions={exceptions}
            onException={(id, on) => setExceptions((old) => withOrWithout(old, id, on))}
            detail={(plan) =>
              plan.patches
                .map(
                  ({ name, kind, range, said }) =>
                    `${name}${patchKind(kind)?.ranged === false ? "" : `: ${rangeWords(range, plan.outcome.before.fps)}`}${said ? ` (${said})` : ""}`,
                )
                .join(" · ")
            }
          />
        </>
      )}
      <div className="flex items-center justify-end gap-2 pt-4">
        {left > 0 && (
          <span className="mr-auto text-ink-soft" role="status">
            {left} still being worked out…
          </span>
        )}
        {planning === null ? (
          <>
            <Button onClick={onClose}>Cancel</Button>
            <Button
              tone="primary"
              disabled={patches.size === 0 || picked.size === 0}
              onClick={() => setPlanning((works.data ?? []).filter((w) => picked.has(w.id)).map((w) => w.id))}
            >
              See what they do
            </Button>
          </>
        ) : (
          <>
            <Button onClick={() => setPlanning(null)}>Back</Button>
            <Button tone="primary" disabled={busy || left > 0 || chosen.length === 0} onClick={() => void apply()}>
              {`Copy to ${chosen.length} ${chosen.length === 1 ? "work" : "works"}`}
            </Button>
          </>
        )}
      </div>
    </Dialog>
  );
}
