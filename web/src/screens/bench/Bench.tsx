import { clipRef } from "@stride/motion";
import { useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useDeferredValue, useEffect, useMemo, useState } from "react";
import { Group, Panel, Separator } from "react-resizable-panels";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { toast } from "sonner";
import { fetchClip } from "../../api/client.ts";
import { FloorPlan } from "../../floorplan/FloorPlan.tsx";
import { shownDoc, useBench } from "../../state/bench.ts";
import { compareWith } from "../../state/beside.ts";
import type { Latency } from "../../state/evaluations.ts";
import { Session } from "../../state/session.ts";
import { TimeDesk } from "../../timedesk/TimeDesk.tsx";
import { AfterPaint } from "../../ui/AfterPaint.tsx";
import { Mark } from "../../ui/Mark.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { BesideDialog } from "./BesideDialog.tsx";
import { BodyMapDialog } from "./BodyMapDialog.tsx";
import { ComputeBar } from "./ComputeBar.tsx";
import { ConflictDialog } from "./ConflictDialog.tsx";
import { CopyDialog } from "./CopyDialog.tsx";
import { benchCommands } from "./commands.ts";
import { ExportDialog } from "./ExportDialog.tsx";
import { FindingsPanel } from "./FindingsPanel.tsx";
import { HistoryDialog } from "./HistoryDialog.tsx";
import { KeepDialog } from "./KeepDialog.tsx";
import { Palette } from "./Palette.tsx";
import { SaveRangeDialog } from "./SaveRangeDialog.tsx";
import { ShortcutsDialog } from "./ShortcutsDialog.tsx";
import { SidePanel } from "./SidePanel.tsx";
import { type DialogName, TopBar } from "./TopBar.tsx";
import { DuplicateDialog, VersionDialog } from "./VersionDialog.tsx";

const View3D = lazy(() => import("../../view3d/View3D.tsx"));

declare global {
  interface Window {
    /** for speed measurements */
    strideLatencies?: readonly Latency[];
  }
}

const swap = () => useBench.setState((s) => ({ planLarge: !s.planLarge }));

/** The screen on which a work is edited. */
export default function Bench() {
  const { id = "" } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [error, setError] = useState<string | null>(null);
  const [dialog, setDialog] = useState<DialogName>(null);
  const [reading, setReading] = useState(0);
  const [session, setSession] = useState<Session | null>(null);
  const ready = useBench((s) => s.after !== null && s.row?.id === id);
  const planLarge = useBench((s) => s.planLarge);
  const compare = useBench((s) => s.compare);

  // biome-ignore lint/correctness/useExhaustiveDependencies: `reading` counts the times the source is to be read anew
  useEffect(() => {
    const next = new Session();
    setSession(next);
    setError(null);
    window.strideLatencies = next.latencies;
    next.open(id).catch((problem: unknown) => setError(problem instanceof Error ? problem.message : String(problem)));
    return () => {
      next.close();
      void queries.invalidateQueries({ queryKey: ["clips"] });
      void queries.invalidateQueries({ queryKey: ["works"] });
    };
  }, [id, queries, reading]);

  // Another clip that is to be seen beside it from the start.
  const [params] = useSearchParams();
  const beside = params.get("beside");
  useEffect(() => {
    if (!ready || !session || beside === null) return;
    fetchClip(beside)
      .then((row) => compareWith(session, row.name, clipRef(row), row, null))
      .catch((problem: unknown) => toast.error(problem instanceof Error ? problem.message : String(problem)));
  }, [ready, session, beside]);

  const commands = useMemo(() => benchCommands(setDialog, () => void navigate(`/work/${id}/checkup`)), [id, navigate]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.defaultPrevented || document.querySelector("[role=dialog]")) return;
      const target = event.target as HTMLElement;
      const typing = target.closest("input:not([type=checkbox]), select, textarea, [contenteditable]");
      const onControl =
        target.closest("button, a, [role=slider], [role=radio], [role=menuitem]") &&
        (event.key === " " || event.key === "Enter" || event.key.startsWith("Arrow") || event.key === "Home" || event.key === "End");
      if ((typing || onControl) && !(event.ctrlKey || event.metaKey)) return;
      const command = commands.find((c) => c.keys?.(event));
      if (!command) return;
      event.preventDefault();
      command.run();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [commands]);
  useEffect(() => {
    const leave = (event: BeforeUnloadEvent) => {
      if (useBench.getState().save !== "saved") event.preventDefault();
    };
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, []);

  if (error) {
    return (
      <main className="flex h-full flex-col items-center justify-center gap-3">
        <Mark />
        <h1 className="text-lg font-semibold">This work cannot be opened</h1>
        <p role="alert" className="max-w-xl text-center text-coral-ink">
          {error}
        </p>
      </main>
    );
  }
  if (!ready || !session) return <Waiting label="Reading the clip" />;
  const close = () => setDialog(null);
  return (
    <div className="flex h-full flex-col">
      <SettledMark />
      <TopBar onOpen={setDialog} />
      <main className="min-h-0 flex-1">
        <h1 className="sr-only">Bench</h1>
        <Group orientation="vertical">
          <Panel minSize="30%">
            <Group orientation="horizontal">
              <Panel defaultSize="236px" minSize="180px" maxSize="30%" className="bg-sheet">
                <AfterPaint pictures={1}>
                  <FindingsPanel />
                </AfterPaint>
              </Panel>
              <Separator className="w-px bg-line data-[state=hover]:bg-ink-soft" aria-label="Width of the findings" />
              <Panel minSize="30%">
                <div className="relative h-full">
                  {planLarge ? (
                    <div className="h-full bg-sheet">
                      <FloorPlan large onSwap={swap} />
                    </div>
                  ) : null}
                  <div className={planLarge ? "absolute top-9 right-3 h-44 w-64 overflow-hidden rounded-sm border border-line" : "h-full"}>
                    <Suspense fallback={<Waiting label="Setting up the view" />}>
                      <View3D bare={planLarge} />
                    </Suspense>
                  </div>
                  <ComputeBar />
                  {!planLarge && compare !== "side" && (
                    <div className="absolute top-3 right-3 h-38 w-60 rounded-sm border border-line bg-sheet">
                      <AfterPaint pictures={4}>
                        <FloorPlan large={false} onSwap={swap} />
                      </AfterPaint>
                    </div>
                  )}
                </div>
              </Panel>
              <Separator className="w-px bg-line data-[state=hover]:bg-ink-soft" aria-label="Width of the settings" />
              <Panel defaultSize="276px" minSize="230px" maxSize="35%" className="bg-sheet">
                <AfterPaint pictures={2}>
                  <SidePanel />
                </AfterPaint>
              </Panel>
            </Group>
          </Panel>
          <Separator className="h-px bg-line data-[state=hover]:bg-ink-soft" aria-label="Height of the time desk" />
          <Panel defaultSize="270px" minSize="150px" maxSize="60%">
            <AfterPaint pictures={3}>
              <TimeDesk />
            </AfterPaint>
          </Panel>
        </Group>
      </main>
      {dialog === "export" && <ExportDialog open onClose={close} session={session} />}
      {dialog === "body" && <BodyMapDialog open onClose={close} onReread={() => void session.save().then(() => setReading((n) => n + 1))} />}
      {dialog === "history" && (
        <HistoryDialog session={session} onVersion={() => setDialog("version")} onReplaced={() => setReading((n) => n + 1)} onClose={close} />
      )}
      {dialog === "shortcuts" && <ShortcutsDialog open onClose={close} commands={commands} />}
      {dialog === "palette" && <Palette open onClose={close} commands={commands} />}
      {dialog === "range" && <SaveRangeDialog onClose={close} />}
      {dialog === "copy" && <CopyDialog session={session} onClose={close} />}
      {dialog === "keep" && <KeepDialog onClose={close} />}
      {dialog === "beside" && <BesideDialog session={session} onClose={close} />}
      {dialog === "version" && <VersionDialog session={session} onClose={close} />}
      {dialog === "duplicate" && <DuplicateDialog session={session} onClose={close} />}
      <ConflictDialog session={session} />
    </div>
  );
}

/** Marks the page for whoever waits on it: are the figures those of the document as it is, and do the lists that come later show them? */
function SettledMark() {
  const measured = useBench((s) => s.computing === 0 && s.measuredDoc !== null && s.measuredDoc === shownDoc(s));
  // What is drawn later is asked for itself: a deferred flag that is true, false and true again between two deferred
  // renders has never changed for them.
  const after = useBench((s) => s.after);
  const figures = useBench((s) => s.figures);
  const settled = [useDeferredValue(after) === after, useDeferredValue(figures) === figures, measured].every(Boolean);
  return <span hidden data-bench={settled ? "settled" : "busy"} />;
}
