import { type Finding, type FindingKind, patchKind, type Support } from "@stride/motion";
import clsx from "clsx";
import {
  Activity,
  ArrowDownToLine,
  ArrowUpFromLine,
  Check,
  ChevronDown,
  ChevronsUp,
  DraftingCompass,
  Gauge,
  MoveHorizontal,
  Repeat,
  RotateCw,
  Ruler,
  Spline,
  TriangleRight,
  Zap,
} from "lucide-react";
import { useDeferredValue, useRef, useState } from "react";
import { shownDoc, useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { addPatch, addPatches } from "../../timedesk/patchActions.ts";
import { showFigure } from "../../ui/figures.ts";
import { VirtualList } from "../../ui/VirtualList.tsx";
import { CarriedBy } from "./CarriedBy.tsx";
import { countInWords, type FindingGroup, findingLines, treatments } from "./findingGroups.ts";

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
  limit: DraftingCompass,
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
  // A long list: what was pressed answers first. The first figures are shown at once, before the bars of the footfall that come with them.
  const now = useBench((s) => s.figures);
  const figures = useDeferredValue(now) ?? now;
  const selected = useBench((s) => s.findingId);
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const support = useBench((s) => s.after?.support);
  const scroller = useRef<HTMLElement>(null);
  const searching = useBench((s) => s.searching);
  if (!figures) return <p className="p-3.5 text-ink-soft">{searching ? "Looking for contacts…" : "Measuring…"}</p>;
  const open = figures.after.findings;
  const lines = findingLines(open, opened);
  const toggle = (id: string) => setOpened((now) => new Set(now.has(id) ? [...now].filter((o) => o !== id) : [...now, id]));
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
        {support && unusual(support) && <CarriedBy />}
        {open.length === 0 && <p className="px-3.5 py-3 text-moss-ink">Nothing out of tolerance.</p>}
        <VirtualList
          items={lines}
          scroller={scroller}
          rowHeight={42}
          beyond={40}
          keyOf={(line) => (line.is === "group" ? line.group.id : line.finding.id)}
          rowClassName={(line) =>
            clsx("border-b border-line/70", line.is === "finding" && line.finding.id === selected && "bg-cobalt-wash shadow-[inset_3px_0_0_var(--cobalt)]")
          }
        >
          {(line) =>
            line.is === "group" ? (
              <GroupLine group={line.group} open={line.open} onToggle={() => toggle(line.group.id)} />
            ) : (
              <FindingLine finding={line.finding} inside={line.within !== null} selected={line.finding.id === selected} frames={frames(line.finding)} />
            )
          }
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
        {support && !unusual(support) && <CarriedBy />}
      </section>
    </div>
  );
}

/** Is a clip taken for something that a person should know of before its findings? */
function unusual({ byFeet, said, passing }: Support): boolean {
  return !byFeet || said || passing > 0;
}

function FindingLine({ finding, inside, selected, frames }: { finding: Finding; inside: boolean; selected: boolean; frames: string }) {
  const patches = useBench((s) => shownDoc(s).patches);
  const Icon = ICONS[finding.kind];
  const { treat } = finding;
  const done = treat && patchKind(treat.kind)?.once && patches.some((p) => p.kind === treat.kind && !p.muted && p.range === null);
  return (
    <>
      <button
        type="button"
        aria-pressed={selected}
        className={clsx("flex w-full items-start gap-2 pt-1.5 pr-3.5 pb-1 text-left", inside ? "pl-9" : "pl-3.5")}
        onClick={() => goToFinding(finding)}
        title={finding.message}
      >
        {!inside && <Icon size={14} className="mt-0.5 shrink-0 text-coral" aria-hidden="true" />}
        <span className="min-w-0 flex-1">
          {inside ? <span className="block truncate">{frames}</span> : <span className="line-clamp-2 font-semibold">{finding.title}</span>}
          {!inside && <span className="block truncate text-xs text-ink-soft">{frames}</span>}
        </span>
        <span className="figure shrink-0 font-semibold text-coral-ink">{showFigure(finding.value, finding.unit)}</span>
      </button>
      {selected && treat && !done && (
        <button
          type="button"
          className="mb-1.5 ml-9 rounded-sm border border-line bg-sheet px-2 py-0.5 hover:border-ink-soft"
          onClick={() => addPatch(treat.kind, treat)}
        >
          Treat: add {treat.name}
        </button>
      )}
    </>
  );
}

/** One line for all findings of a cause and part: how many, the worst figure, and one press that treats them all. */
function GroupLine({ group, open, onToggle }: { group: FindingGroup; open: boolean; onToggle: () => void }) {
  const [worst] = group.findings;
  const Icon = ICONS[worst.kind];
  const made = treatments(group);
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        className="flex w-full items-start gap-2 px-3.5 pt-1.5 pb-1 text-left"
        onClick={() => {
          // Opened, the worst of them is what is looked at.
          if (!open) goToFinding(worst);
          onToggle();
        }}
      >
        <Icon size={14} className="mt-0.5 shrink-0 text-coral" aria-hidden="true" />
        <span className="min-w-0 flex-1">
          <span className="line-clamp-2 font-semibold">{group.title}</span>
          <span className="flex items-center text-xs text-ink-soft">
            {countInWords(group)}
            <ChevronDown size={12} className={clsx("ml-0.5", open && "rotate-180")} aria-hidden="true" />
          </span>
        </span>
        <span className="figure shrink-0 text-right font-semibold text-coral-ink" title="The worst of them">
          {showFigure(worst.value, worst.unit)}
        </span>
      </button>
      {open && made.length > 0 && (
        <button
          type="button"
          className="mb-1.5 ml-9 rounded-sm border border-line bg-sheet px-2 py-0.5 hover:border-ink-soft"
          onClick={() => addPatches(`Treat all: ${group.title}`, made)}
        >
          Treat all {countInWords(group)}
        </button>
      )}
    </>
  );
}
