import { frameOf, type Patch, RAMP_SHAPES } from "@stride/motion";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { frameSpansOf, lastFrameOf } from "../../state/times.ts";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { Segmented } from "../../ui/Segmented.tsx";

/** Frames that a new stretch fades over, at 30 a second. */
const NEW_RAMP_SECONDS = 0.2;

/** The stretch of a patch in frames of the motion that it receives, and its ramps. */
export function RangeField({ patch }: { patch: Patch }) {
  const clocks = useBench((s) => s.clocks);
  const { fps } = clocks;
  const last = lastFrameOf(clocks, patch.id);
  const set = (part: Partial<Patch>) => change(`Range of ${patch.name}`, (d) => withPatch(d, patch.id, part));
  const { range } = patch;
  const shown = range ? frameSpansOf(clocks, patch.id, range.start, range.end) : [[0, 0]];
  const [start, end] = [frameOf(range?.start ?? 0, fps), Math.min(last, frameOf(range?.end ?? last / fps, fps))];
  const numbers = [
    { label: "from", value: start, apply: (v: number) => set({ range: { start: Math.min(v, end) / fps, end: end / fps } }) },
    { label: "to", value: end, apply: (v: number) => set({ range: { start: start / fps, end: Math.max(v, start) / fps } }) },
    { label: "ramp in", value: frameOf(patch.rampIn, fps), apply: (v: number) => set({ rampIn: v / fps }) },
    { label: "ramp out", value: frameOf(patch.rampOut, fps), apply: (v: number) => set({ rampOut: v / fps }) },
  ];
  return (
    <fieldset className="border-t border-line pt-2">
      <legend className="sr-only">Range</legend>
      <div className="flex items-center justify-between pb-1">
        <span>Range</span>
        <Segmented
          small
          label="Range"
          value={range ? "part" : "whole"}
          options={[
            { value: "whole", label: "whole clip" },
            { value: "part", label: "a stretch" },
          ]}
          onChange={(v) => {
            const ramp = Math.round(NEW_RAMP_SECONDS * fps) / fps;
            set(
              v === "whole"
                ? { range: null }
                : { range: { start: Math.round(last * 0.25) / fps, end: Math.round(last * 0.75) / fps }, rampIn: ramp, rampOut: ramp },
            );
          }}
        />
      </div>
      {range && (
        <>
          {shown.length === 0 && <p className="pb-1.5 text-xs text-coral-ink">A patch above cuts this stretch away: it does not show.</p>}
          <div className="flex items-center justify-between pb-1.5">
            <span>Ramps run</span>
            <Segmented
              small
              label="Ramps run"
              value={patch.rampShape}
              options={RAMP_SHAPES.map((v) => ({ value: v, label: v }))}
              onChange={(rampShape) => set({ rampShape })}
            />
          </div>
          <div className="grid grid-cols-4 gap-1.5">
            {numbers.map((n) => (
              <NumberBox key={n.label} label={n.label} value={n.value} min={0} max={last} onCommit={n.apply} />
            ))}
          </div>
        </>
      )}
    </fieldset>
  );
}
