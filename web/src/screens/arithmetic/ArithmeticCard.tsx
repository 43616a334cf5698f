import { type GaitFigures, type MeasuredGait, strideSpeed, strideSpeedPerFrame, strideTravel } from "@stride/motion";
import { Copy } from "lucide-react";
import { type ReactNode, useState } from "react";
import { toast } from "sonner";
import { NumberBox } from "../../ui/NumberBox.tsx";

/** A step longer than this, metres, or a cycle of more frames, is no gait. */
const LONGEST_STEP = 10;
const LONGEST_CYCLE = 100_000;

/**
 * What a gait comes to: step length, frames a cycle and rate make its speed; what was measured stands beside what the formula gives. Nothing is rounded inside;
 * each figure can be copied as it is. `children` is what may be done about it.
 */
export function ArithmeticCard({ before, after, children }: { before: MeasuredGait | null; after: MeasuredGait | null; children?: ReactNode }) {
  const [typed, setTyped] = useState<Partial<GaitFigures>>({});
  const [seconds, setSeconds] = useState(6);
  if (!after) return <p className="text-xs text-ink-soft">No foot lands twice here, so there is no gait to reckon with.</p>;
  const figures: GaitFigures = { ...after, ...typed };
  const tried = Object.keys(typed).length > 0;
  return (
    <section aria-label="Arithmetic of the gait" className="text-xs">
      <div className="grid grid-cols-3 gap-2 pb-1.5">
        <NumberBox
          label="Step, cm"
          value={100 * figures.stepLength}
          decimals={1}
          min={0.1}
          max={100 * LONGEST_STEP}
          onCommit={(v) => setTyped((t) => ({ ...t, stepLength: v / 100 }))}
        />
        <NumberBox
          label="Frames / cycle"
          value={figures.cycleFrames}
          decimals={1}
          min={1}
          max={LONGEST_CYCLE}
          onCommit={(v) => setTyped((t) => ({ ...t, cycleFrames: v }))}
        />
        <NumberBox label="Frames / s" value={figures.fps} decimals={2} min={1} max={1000} onCommit={(v) => setTyped((t) => ({ ...t, fps: v }))} />
      </div>
      {tried && (
        <p className="pb-1 text-ink-soft">
          Tried figures.{" "}
          <button type="button" className="underline hover:text-ink" onClick={() => setTyped({})}>
            Back to what is measured
          </button>
        </p>
      )}
      <table className="w-full">
        <thead>
          <tr className="text-left text-ink-soft">
            <th>
              <span className="sr-only">Figure</span>
            </th>
            <th className="text-right font-normal">source</th>
            <th className="text-right font-normal">now</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <Row label="Speed by the formula" unit="cm/s" before={before && 100 * strideSpeed(before)} value={100 * strideSpeed(figures)} digits={2} />
          <Row label="a frame" unit="cm" before={before && 100 * strideSpeedPerFrame(before)} value={100 * strideSpeedPerFrame(figures)} digits={3} />
          <Row label="Body travels, measured" unit="cm/s" before={before && 100 * before.speed} value={100 * after.speed} digits={2} />
          <Row label="of that the figure" unit="cm/s" before={before && 100 * before.figureSpeed} value={100 * after.figureSpeed} digits={2} />
          <Row label="and the ground" unit="cm/s" before={before && 100 * before.groundSpeed} value={100 * after.groundSpeed} digits={2} />
          <Row
            label={`Travel in ${seconds} s`}
            unit="cm"
            before={before && 100 * strideTravel(before, seconds)}
            value={100 * strideTravel(figures, seconds)}
            digits={2}
          />
        </tbody>
      </table>
      <div className="flex items-end gap-2 py-1">
        <div className="w-20">
          <NumberBox label="Time, s" value={seconds} decimals={2} min={0.01} max={36_000} onCommit={setSeconds} />
        </div>
        <p className="pb-0.5 text-ink-soft">2 × step × frames a second ÷ frames a cycle</p>
      </div>
      {children}
    </section>
  );
}

function Row({ label, unit, before, value, digits }: { label: string; unit: string; before: number | null; value: number; digits: number }) {
  return (
    <tr className="border-t border-line/70">
      <th scope="row" className="py-0.5 text-left font-normal">
        {label}
      </th>
      <td className="figure whitespace-nowrap pl-2 text-right text-ink-soft">{before === null ? "" : before.toFixed(digits)}</td>
      <td className="figure whitespace-nowrap pl-2 text-right font-semibold">
        {value.toFixed(digits)} <span className="font-normal text-ink-soft">{unit}</span>
      </td>
      <td className="w-5 text-right">
        <button
          type="button"
          aria-label={`Copy ${label}`}
          title={String(value)}
          className="rounded-sm p-0.5 hover:bg-line/50"
          onClick={() => {
            void navigator.clipboard.writeText(String(value)).then(
              () => toast.success(`Copied ${value}`),
              () => toast.error("The clipboard is not open to this page"),
            );
          }}
        >
          <Copy size={11} />
        </button>
      </td>
    </tr>
  );
}
