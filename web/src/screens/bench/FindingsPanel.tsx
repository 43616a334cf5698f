import { type Finding, type FindingKind, patchKind } from "@stride/motion";
import clsx from "clsx";
import {
  Activity,
  ArrowDownToLine,
  ArrowUpFromLine,
  Check,
  ChevronsUp,
  Gauge,
  MoveHorizontal,
  Repeat,
  RotateCw,
  Ruler,
  Spline,
  TriangleRight,
  Zap,
} from "lucide-react";
import { useRef } from "react";
import { shownDoc, useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { addPatch } from "../../timedesk/patchActions.ts";
import { showFigure } from "../../ui/figures.ts";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { CarriedBy } from "./CarriedBy.tsx";

const ICONS: Record<FindingKind, typeof Activity> = {
  slide: MoveHorizontal,
  float: ArrowUpFromLine,
  sink: ArrowDownToLine,
  travel: Gauge,
  floor: Ruler,
  tilt: TriangleRight,
  pop: Zap,
  jump: ChevronsUp,
  flip: RotateCw,
  jitter: Activity,
  stretch: Spline,
  gap: Repeat,
};

/** Frames of lead-in that a person wants to see before a finding. */
const LEAD = 12;

/** Takes playhead, camera and selection to a finding. */
export function goToFinding(finding: Finding): void {
  const contact =
    finding.kind === "slide" || finding.kind === "float" || finding.kind === "sink"
      ? { point: finding.part, start: finding.startFrame, end: finding.endFrame }
      : null;
  useBench.setState({ findingId: finding.id, contact, parts: finding.joint >= 0 ? [finding.joint] : [] });
  const whole = finding.startFrame === 0 && finding.endFrame === playhead.last;
  if (!whole) {
    playhead.seek(contact ? Math.round((finding.startFrame + finding.endFrame) / 2) : finding.startFrame);
    if (playhead.playing) playhead.setRange([Math.max(0, finding.startFrame - LEAD), Math.min(playhead.last, finding.endFrame + LEAD)]);
  }
}

/** What is wrong, worst first, each with its figure and treatment; below it what the stack has put right. */
export function FindingsPanel() {
  const figures = useBench((s) => s.figures);
  const selected = useBench((s) => s.findingId);
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const patches = useBench((s) => shownDoc(s).patches);
  const support = useBench((s) => s.after?.support);
  const scroller = useRef<HTMLElement>(null);
  const searching = useBench((s) => s.searching);
  if (!figures) return <p className="p-3.5 text-ink-soft">{searching ? "Looking for contacts…" : "Measuring…"}</p>;
  const open = figures.after.findings;
  const { treated } = figures;
  const frames = (f: Finding) =>
    f.startFrame === 0 && f.endFrame === last ? "whole clip" : f.startFrame === f.endFrame ? `f ${f.startFrame}` : `f ${f.startFrame}–${f.endFrame}`;
  return (
    <div className="flex h-full flex-col">
      <header className="flex items-baseline justify-between px-3.5 pt-3 pb-1.5">
        <h2 className="font-semibold">Findings</h2>
        <span className="text-xs text-ink-soft">
          {open.length} open, {treated.length} treated
        </span>
      </header>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long list must scroll by keyboard */}
      <section ref={scroller} className="min-h-0 flex-1 overflow-y-auto" tabIndex={0} aria-label="List of findings">
        {support && (!support.byFeet || support.said) && <CarriedBy />}
        {open.length === 0 && <p className="px-3.5 py-3 text-moss-ink">Nothing out of tolerance.</p>}
        <VirtualList
          items={open}
          scroller={scroller}
          rowHeight={42}
          beyond={40}
          keyOf={(f) => f.id}
          rowClassName={(f) => clsx("border-b border-line/70", f.id === selected && "bg-cobalt-wash shadow-[inset_3px_0_0_var(--cobalt)]")}
        >
          {(finding) => {
            const Icon = ICONS[finding.kind];
            const isSelected = finding.id === selected;
            const done =
              finding.treat && patchKind(finding.treat.kind)?.once && patches.some((p) => p.kind === finding.treat?.kind && !p.muted && p.range === null);
            return (
              <>
                <button
                  type="button"
                  aria-pressed={isSelected}
                  className="flex w-full items-start gap-2 px-3.5 pt-1.5 pb-1 text-left"
                  onClick={() => goToFinding(finding)}
                  title={finding.message}
                >
                  <Icon size={14} className="mt-0.5 shrink-0 text-coral" aria-hidden="true" />
                  <span className="min-w-0 flex-1">
                    <span className="line-clamp-2 font-semibold">{finding.title}</span>
                    <span className="block truncate text-xs text-ink-soft">{frames(finding)}</span>
                  </span>
                  <span className="figure shrink-0 font-semibold text-coral-ink">{showFigure(finding.value, finding.unit)}</span>
                </button>
                {isSelected && finding.treat && !done && (
                  <button
                    type="button"
                    className="mb-1.5 ml-9 rounded-sm border border-line bg-sheet px-2 py-0.5 hover:border-ink-soft"
                    onClick={() => finding.treat && addPatch(finding.treat.kind, finding.treat)}
                  >
                    Treat: add {finding.treat.name}
                  </button>
                )}
              </>
            );
          }}
        </VirtualList>
        {treated.length > 0 && (
          <>
            <h3 className="px-3.5 pt-3 pb-1 font-semibold">Treated</h3>
            <VirtualList
              items={treated}
              scroller={scroller}
              rowHeight={46}
              keyOf={(f) => f.id}
              rowClassName={() => "flex items-start gap-2 border-b border-line/70 px-3.5 py-1.5"}
            >
              {(finding) => (
                <>
                  <Check size={14} className="mt-0.5 shrink-0 text-moss-ink" aria-hidden="true" />
                  <span className="min-w-0 flex-1">
                    <span className="line-clamp-2">{finding.title}</span>
                    <span className="block text-xs text-ink-soft">{frames(finding)}</span>
                  </span>
                  <span className="text-xs text-ink-soft">was {showFigure(finding.value, finding.unit)}</span>
                </>
              )}
            </VirtualList>
          </>
        )}
        {support?.byFeet && !support.said && <CarriedBy />}
      </section>
    </div>
  );
}
