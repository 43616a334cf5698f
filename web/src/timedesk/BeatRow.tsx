import { type Patch, stretchSpeeds } from "@stride/motion";
import clsx from "clsx";
import { Lock } from "lucide-react";
import { beatsOf, lockBeat, moveBeat, removeBeat, retimeOf, useBeats } from "../state/beats.ts";
import { useBench } from "../state/bench.ts";
import { frameMade } from "../state/times.ts";
import { NAMES, useScale } from "../timescale/scale.ts";
import { type FrameDrag, useFrameDrag } from "../timescale/useFrameDrag.ts";

const HEIGHT = 26;
/** Pixels that a speed needs to be written. */
const ROOM = 56;

/** Beats of the retime that is edited, on the ruler's own scale: dragged to other moments, with the speed of each stretch between them. */
export function BeatRow() {
  const patch = useBench(retimeOf);
  if (!patch) return null;
  return <Row patch={patch} />;
}

function Row({ patch }: { patch: Patch }) {
  const scale = useScale();
  const clocks = useBench((s) => s.clocks);
  const picked = useBeats((s) => s.picked);
  const bind = useFrameDrag();
  const beats = beatsOf(patch);
  const speeds = stretchSpeeds(beats);
  const { fps } = clocks;
  const per = scale.x(1) - scale.x(0);
  // Where a time patch above hides a beat it is not drawn.
  const frames = beats.map((b) => frameMade(clocks, patch.id, b.to) ?? null);
  const center = (f: number) => scale.x(f) + per / 2;
  const drag = (index: number, along: () => boolean): FrameDrag => {
    const { to } = beats[index];
    return {
      press: () => {
        useBench.setState({ patchId: patch.id });
        useBeats.setState({ picked: index });
      },
      move: (by) => moveBeat(patch, index, to + by / fps, along(), false),
      end: (by) => {
        if (by !== null && by !== 0) moveBeat(patch, index, to + by / fps, along(), true);
        else useBench.setState({ draft: null });
      },
    };
  };
  let shift = false;
  return (
    <section aria-label="Beats" className="sticky top-6 z-10 flex items-center border-b border-line bg-sheet" style={{ height: HEIGHT }}>
      <div className="flex shrink-0 items-center justify-between pr-2 pl-3.5 text-ink-soft" style={{ width: NAMES }}>
        <span>Beats</span>
        <span className="text-xs">{beats.length === 0 ? "D drops one" : `${beats.length}`}</span>
      </div>
      <div className="relative overflow-hidden" style={{ width: scale.width, height: HEIGHT }}>
        {speeds.map((speed, i) => {
          const [a, b] = [frames[i], frames[i + 1]];
          if (a === null || b === null) return null;
          const [x0, x1] = [Math.max(0, center(a)), Math.min(scale.width, center(b))];
          if (x1 - x0 < ROOM) return null;
          const percent = Math.round(speed * 100);
          return (
            <span
              // biome-ignore lint/suspicious/noArrayIndexKey: a stretch is its place among the beats
              key={i}
              className={clsx("figure pointer-events-none absolute top-1 truncate text-center text-xs", percent === 100 ? "text-ink-soft" : "text-ink")}
              style={{ left: x0 + 6, width: Math.max(0, x1 - x0 - 12) }}
            >
              {percent} %
            </span>
          );
        })}
        {beats.map((beat, i) => {
          const frame = frames[i];
          if (frame === null) return null;
          const x = center(frame);
          if (x < -8 || x > scale.width + 8) return null;
          const label = `Beat ${i + 1} at frame ${Math.round(frame)}${beat.locked ? ", locked" : ""}`;
          return (
            <button
              // biome-ignore lint/suspicious/noArrayIndexKey: a beat is its place in the order
              key={i}
              type="button"
              aria-label={label}
              aria-pressed={picked === i}
              title={`${label}. Drag it, with Shift the later ones along; arrows move it, L locks, Delete removes`}
              className="absolute top-0 flex h-full w-4 -translate-x-1/2 cursor-ew-resize touch-none flex-col items-center"
              style={{ left: x }}
              {...bind(drag(i, () => shift))}
              onPointerMove={(event) => {
                shift = event.shiftKey;
              }}
              onKeyDown={(event) => {
                const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
                if (by !== 0) moveBeat(patch, i, beat.to + by / fps, event.shiftKey, true);
                else if (event.key === "Delete" || event.key === "Backspace") removeBeat(patch, i);
                else if (event.key.toLowerCase() === "l") lockBeat(patch, i);
                else return;
                event.preventDefault();
                event.stopPropagation();
              }}
              onFocus={() => useBeats.setState({ picked: i })}
            >
              <span className={clsx("w-px flex-1", picked === i ? "bg-cobalt" : "bg-ink")} />
              {beat.locked ? (
                <Lock size={11} className={picked === i ? "text-cobalt" : "text-ink"} aria-hidden="true" />
              ) : (
                <span className={clsx("mb-0.5 size-2.5 shrink-0 rounded-full border", picked === i ? "border-cobalt bg-cobalt" : "border-ink bg-sheet")} />
              )}
            </button>
          );
        })}
      </div>
    </section>
  );
}
