import { TOLERANCE, type Totals } from "@stride/motion";
import type { ChartConfiguration } from "chart.js";
import { ArrowLeft, Printer } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { useBench } from "../../state/bench.ts";
import { Session } from "../../state/session.ts";
import { framesWritten } from "../../timedesk/writesLine.ts";
import { Button } from "../../ui/Button.tsx";
import { showFigure } from "../../ui/figures.ts";
import { Mark } from "../../ui/Mark.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { ArithmeticCard } from "../arithmetic/ArithmeticCard.tsx";
import { useGait } from "../arithmetic/useGait.ts";
import { Chart, token } from "./Chart.tsx";
import { footHeights, inResultsTime, slidesByStep, travelSpeed } from "./series.ts";

const ROWS: readonly { readonly key: keyof Totals; readonly label: string; readonly unit: string; readonly tolerance: number }[] = [
  { key: "slideWorstCm", label: "Slide, worst", unit: "cm", tolerance: TOLERANCE.slideCm },
  { key: "slideP95Cm", label: "Slide, 95 of 100 contacts", unit: "cm", tolerance: TOLERANCE.slideCm },
  { key: "heightWorstCm", label: "Height of a resting part, worst", unit: "cm", tolerance: TOLERANCE.heightCm },
  { key: "travelErrorPercent", label: "Travel against the feet", unit: "%", tolerance: TOLERANCE.travelShare * 100 },
  { key: "floorHeightCm", label: "Floor height", unit: "cm", tolerance: TOLERANCE.floorCm },
  { key: "floorTiltDegrees", label: "Floor tilt", unit: "°", tolerance: TOLERANCE.tiltDegrees },
  { key: "pops", label: "One-frame pops", unit: "", tolerance: 0 },
  { key: "jumps", label: "Jumps of a position", unit: "", tolerance: 0 },
  { key: "flips", label: "Angle flips", unit: "", tolerance: 0 },
  { key: "jitterDegrees", label: "Jitter, worst", unit: "°", tolerance: TOLERANCE.jitterDegrees },
  { key: "overStretchedFrames", label: "Frames with an over-stretched leg", unit: "", tolerance: TOLERANCE.stretchFrames - 1 },
  { key: "startEndGapDegrees", label: "First pose to last pose", unit: "°", tolerance: Number.POSITIVE_INFINITY },
];

/** The full report: what was wrong, what was changed, what is left. Printable. */
export default function Checkup() {
  const { id = "" } = useParams();
  const [error, setError] = useState<string | null>(null);
  const state = useBench();
  useEffect(() => {
    const session = new Session();
    session.open(id).catch((problem: unknown) => setError(problem instanceof Error ? problem.message : String(problem)));
    return () => session.close();
  }, [id]);
  const { figures, before, after, body, opened, name, doc, row, clocks } = state;
  const gait = useGait();
  const ready = figures && before && after && body && opened && row?.id === id;

  const charts = useMemo(() => {
    if (!ready) return null;
    const line = (label: string, data: number[], color: string, dash?: number[]) => ({
      label,
      data,
      borderColor: token(color),
      borderWidth: 1.6,
      pointRadius: 0,
      borderDash: dash,
    });
    const frames = Array.from({ length: after.frameCount }, (_, f) => f);
    const timed = (series: number[]) => inResultsTime(series, clocks, after.frameCount);
    const axes = (x: string, y: string) => ({
      scales: { x: { title: { display: true, text: x }, ticks: { maxTicksLimit: 14 }, grid: { display: false } }, y: { title: { display: true, text: y } } },
      plugins: { legend: { labels: { boxWidth: 18, boxHeight: 2 } } },
    });
    const steps = slidesByStep(figures.before, figures.after, clocks);
    const slide: ChartConfiguration = {
      type: "bar",
      data: {
        labels: steps.map((s) => s.label),
        datasets: [
          { label: "before", data: steps.map((s) => s.before), backgroundColor: token("--coral") },
          { label: "after", data: steps.map((s) => s.after), backgroundColor: token("--moss") },
        ],
      },
      options: { ...axes("contact, by its first frame", "slide, cm"), plugins: { legend: { labels: { boxWidth: 10, boxHeight: 10 } } } },
    };
    const left = body.roles.leftToe ?? body.roles.leftFoot ?? 0;
    const right = body.roles.rightToe ?? body.roles.rightFoot ?? 0;
    const hips = body.roles.hips ?? 0;
    const heights: ChartConfiguration = {
      type: "line",
      data: {
        labels: frames,
        datasets: [
          line("left toe, before", timed(footHeights(before, left)), "--plum", [4, 4]),
          line("left toe, after", footHeights(after, left), "--plum"),
          line("right toe, before", timed(footHeights(before, right)), "--teal", [4, 4]),
          line("right toe, after", footHeights(after, right), "--teal"),
        ],
      },
      options: axes("frame", "height, cm"),
    };
    const travel: ChartConfiguration = {
      type: "line",
      data: {
        labels: frames,
        datasets: [line("before", timed(travelSpeed(before, hips)), "--ink-soft", [4, 4]), line("after", travelSpeed(after, hips), "--ink")],
      },
      options: axes("frame", "speed, m/s"),
    };
    return { slide, heights, travel };
  }, [ready, figures, before, after, body, clocks]);

  if (error) {
    return (
      <main role="alert" className="p-10 text-coral-ink">
        {error}
      </main>
    );
  }
  if (!ready || !charts) return <Waiting label="Measuring" />;
  const active = doc.patches.filter((p) => !p.muted);
  return (
    <div className="h-full overflow-y-auto print:overflow-visible">
      <header className="no-print sticky top-0 z-10 flex h-11 items-center gap-4 border-b border-line bg-sheet px-4">
        <Mark />
        <Link to={`/work/${id}`} className="inline-flex items-center gap-1.5 underline-offset-2 hover:underline">
          <ArrowLeft size={15} /> Bench
        </Link>
        <span className="flex-1" />
        <Button tone="primary" onClick={() => window.print()}>
          <Printer size={15} /> Print
        </Button>
      </header>
      <main className="mx-auto grid max-w-[1180px] grid-cols-[330px_1fr] gap-x-8 px-6 py-5 print:block">
        <div>
          <h1 className="text-lg font-semibold break-words">{name}</h1>
          <p className="pb-3 text-ink-soft">
            Checkup · {after.frameCount} frames{after.frameCount !== before.frameCount && ` (source ${before.frameCount})`} at {opened.fps} fps ·{" "}
            {(after.frameCount / opened.fps).toFixed(2)} s · rev {state.revision}
          </p>
          <table className="w-full border border-line bg-sheet">
            <thead>
              <tr className="border-b border-line text-left text-ink-soft">
                <th className="px-2.5 py-1 font-normal">Measure</th>
                <th className="px-1 text-right font-normal">before</th>
                <th className="px-2.5 text-right font-normal">after</th>
              </tr>
            </thead>
            <tbody>
              {ROWS.map(({ key, label, unit, tolerance }) => {
                const show = (v: number) => (unit === "" ? String(v) : unit === "%" ? `${(Math.round(v * 10) / 10 + 0).toFixed(1)} %` : showFigure(v, unit));
                const value = figures.after.totals[key];
                return (
                  <tr key={key} className="border-b border-line/60">
                    <th scope="row" className="px-2.5 py-1 text-left font-normal">
                      {label}
                    </th>
                    <td className="figure whitespace-nowrap px-1 text-right text-ink-soft">{show(figures.before.totals[key])}</td>
                    <td
                      className={`figure whitespace-nowrap px-2.5 text-right font-semibold ${Math.abs(value) <= tolerance ? "text-moss-ink" : "text-coral-ink"}`}
                    >
                      {show(value)}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          <h2 className="pt-4 pb-1 font-semibold">Arithmetic of the gait</h2>
          {gait ? <ArithmeticCard before={gait.before} after={gait.after} /> : <p className="text-xs text-ink-soft">Measuring the gait…</p>}
          <h2 className="pt-4 pb-1 font-semibold">What was done</h2>
          {active.length === 0 ? (
            <p className="text-ink-soft">Nothing yet: the stack is empty.</p>
          ) : (
            <ol className="list-decimal pl-5">
              {active.map((p) => (
                <li key={p.id}>
                  {p.name}
                  <span className="text-ink-soft">
                    {" "}
                    · {framesWritten(state, { ...p, rampIn: 0, rampOut: 0 }, false)}
                    {p.parts ? ` · ${p.parts.length} part${p.parts.length === 1 ? "" : "s"}` : ""}
                  </span>
                </li>
              ))}
            </ol>
          )}
          <h2 className="pt-4 pb-1 font-semibold">What is left</h2>
          {figures.after.findings.length === 0 ? (
            <p className="text-moss-ink">Nothing out of tolerance.</p>
          ) : (
            <ul className="space-y-0.5">
              {figures.after.findings.slice(0, 14).map((f) => (
                <li key={f.id}>{f.message}</li>
              ))}
              {figures.after.findings.length > 14 && <li className="text-ink-soft">and {figures.after.findings.length - 14} smaller ones</li>}
            </ul>
          )}
        </div>
        <div className="space-y-4">
          <section>
            <h2 className="font-semibold">Slide, contact by contact</h2>
            <Chart
              config={charts.slide}
              height={205}
              label={`Slide of ${figures.before.spans.length} contacts before and after; at worst ${figures.before.totals.slideWorstCm.toFixed(1)} and ${figures.after.totals.slideWorstCm.toFixed(1)} cm`}
            />
          </section>
          <section>
            <h2 className="font-semibold">Height of the toes over zero</h2>
            <Chart config={charts.heights} height={205} label="Height of both toes over time, before and after" />
          </section>
          <section>
            <h2 className="font-semibold">Travel speed of the hips</h2>
            <Chart config={charts.travel} height={185} label="Level speed of the hips over time, before and after" />
          </section>
        </div>
      </main>
    </div>
  );
}
