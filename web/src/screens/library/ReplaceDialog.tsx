import type { SourceRef } from "@stride/motion";
import type { ListedClip, SwapResult } from "@stride/server";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { fetchSourceClip, fetchUses, planSwap } from "../../api/client.ts";
import { applyChanges } from "../../changes/applyPlans.ts";
import { PlanTable } from "../../changes/PlanTable.tsx";
import { open, type Planned, PlanQueue, taken } from "../../changes/planQueue.ts";
import { ClipChooser } from "../../timedesk/ClipChooser.tsx";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";

type Plan = SwapResult & { base: number; clipId: string | null };

/** Another clip in the place of one, in works that are chosen from a list which tells what that does to each. */
export function ReplaceDialog({ clip, onClose }: { clip: ListedClip; onClose: () => void }) {
  const queries = useQueryClient();
  const [to, setTo] = useState<SourceRef | null>(null);
  const [rows, setRows] = useState<ReadonlyMap<string, Planned<Plan>>>(new Map());
  const [exceptions, setExceptions] = useState<ReadonlySet<string>>(new Set());
  const [round, setRound] = useState(0);
  const [busy, setBusy] = useState(false);
  const uses = useQuery({ queryKey: ["clips", clip.id, "uses"], queryFn: () => fetchUses(clip.id) });
  const works = useMemo(() => {
    const { standing = [], drawing = [] } = uses.data ?? {};
    const standingIds = new Set(standing.map((w) => w.id));
    return [
      ...standing.map((w) => ({ ...w, about: drawing.some((d) => d.id === w.id) ? "stands on it and draws on it" : "stands on it" })),
      ...drawing.filter((w) => !standingIds.has(w.id)).map((w) => ({ ...w, about: "draws on it" })),
    ];
  }, [uses.data]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: `round` counts the times the works are worked out anew
  useEffect(() => {
    if (!to || works.length === 0) return;
    let queue: PlanQueue<Plan> | null = null;
    let closed = false;
    void fetchSourceClip(to).then((next) => {
      if (closed) return;
      queue = new PlanQueue<Plan>(
        works.map((w) => w.id),
        (id, signal) => planSwap(id, { from: clip.id, to: next.id }, signal),
        setRows,
      );
      void queue.run();
    });
    return () => {
      closed = true;
      queue?.stop();
    };
  }, [to, works, clip.id, round]);
  const chosen = taken(
    works.map((w) => w.id),
    rows,
    exceptions,
  );
  const left = to ? open(rows) : 0;
  const apply = async () => {
    setBusy(true);
    const changes = chosen.map(({ id, plan }) => ({ id, base: plan.base, document: plan.document, ...(plan.clipId && { clipId: plan.clipId }) }));
    if (await applyChanges(changes, `${clip.name} replaced`.slice(0, 200), () => void queries.invalidateQueries())) onClose();
    else setRound((n) => n + 1);
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Replace ${clip.name}`}
      description="Another clip takes its place in the works below; each can be undone by itself in its history."
      wide
    >
      <div className="w-96">
        <ClipChooser label="By this clip" value={to} onChoose={({ work: _, ...clipOnly }) => setTo(clipOnly)} />
      </div>
      {to === null ? (
        <p className="py-3 text-ink-soft">{`${works.length} ${works.length === 1 ? "work uses" : "works use"} it. Choose the clip that takes its place, and see what that does to each.`}</p>
      ) : (
        <div className="pt-2">
          <PlanTable
            works={works}
            rows={rows}
            exceptions={exceptions}
            onException={(id, on) => setExceptions((old) => withOrWithout(old, id, on))}
            detail={(plan) =>
              [
                plan.clipId && "stands on the new clip",
                plan.swapped > 0 && `${plan.swapped} ${plan.swapped === 1 ? "patch draws" : "patches draw"} on it`,
                ...plan.dropped,
              ]
                .filter(Boolean)
                .join(" · ")
            }
          />
        </div>
      )}
      <div className="flex items-center justify-end gap-2 pt-4">
        {left > 0 && <span className="mr-auto text-ink-soft" role="status">{`${left} still being worked out…`}</span>}
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="primary" disabled={busy || left > 0 || chosen.length === 0} onClick={() => void apply()}>
          {`Replace in ${chosen.length} ${chosen.length === 1 ? "work" : "works"}`}
        </Button>
      </div>
    </Dialog>
  );
}

export function withOrWithout(set: ReadonlySet<string>, id: string, on: boolean): ReadonlySet<string> {
  const next = new Set(set);
  if (on) next.add(id);
  else next.delete(id);
  return next;
}
