import { type Patch, pointLabel } from "@stride/motion";
import clsx from "clsx";
import { useBench } from "../state/bench.ts";
import { moveLanding, settleOf, useSettling } from "../state/settling.ts";
import { frameMade } from "../state/times.ts";
import { NAMES, useScale } from "../timescale/scale.ts";
import { type FrameDrag, useFrameDrag } from "../timescale/useFrameDrag.ts";

const HEIGHT = 28;

/** The frames on which the legs of the settle that is edited land for good, on the ruler's own scale: dragged in any order. */
export function LandingRow() {
  const patch = useBench(settleOf);
  return patch ? <Row patch={patch} /> : null;
}

function Row({ patch }: { patch: Patch }) {
  const scale = useScale();
  const clocks = useBench((s) => s.clocks);
  const view = useSettling((s) => (s.patchId === patch.id ? s.view : null));
  const bind = useFrameDrag();
  const { fps } = clocks;
  const per = scale.x(1) - scale.x(0);
  const drag = (point: string, land: number): FrameDrag => ({
    move: (by) => view && moveLanding(patch, view, point, land + by, fps, false),
    end: (by) => {
      if (view && by !== null && by !== 0) moveLanding(patch, view, point, land + by, fps, true);
      else useBench.setState({ draft: null });
    },
  });
  return (
    <section aria-label="Landings" className="sticky top-6 z-10 flex items-center border-b border-line bg-sheet" style={{ height: HEIGHT }}>
      <div className="flex shrink-0 items-center justify-between pr-2 pl-3.5 text-ink-soft" style={{ width: NAMES }}>
        <span>Landings</span>
        <span className="text-xs">{view ? "drag" : ""}</span>
      </div>
      <div className="relative overflow-hidden" style={{ width: scale.width, height: HEIGHT }}>
        {view?.landings.map(({ point, land }, i) => {
          const frame = frameMade(clocks, patch.id, land / fps);
          if (frame === null) return null;
          const x = scale.x(frame) + per / 2;
          if (x < -8 || x > scale.width + 8) return null;
          const left = point.startsWith("left");
          const label = `${pointLabel(point)} lands at frame ${land}`;
          return (
            <button
              key={point}
              type="button"
              aria-label={label}
              title={`${label}. Drag it, or move it with the arrows`}
              data-landing={point}
              className="absolute top-0 flex h-full -translate-x-1/2 cursor-ew-resize touch-none items-center px-1"
              style={{ left: x, zIndex: i }}
              {...bind(drag(point, land))}
              onKeyDown={(event) => {
                const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
                if (by === 0) return;
                moveLanding(patch, view, point, land + by, fps, true);
                event.preventDefault();
                event.stopPropagation();
              }}
            >
              <span className="pointer-events-none absolute inset-y-0 left-1/2 w-px bg-ink" />
              <span
                className={clsx("relative rounded-sm border px-1 text-xs leading-4", left ? "border-plum bg-plum text-sheet" : "border-teal bg-sheet text-ink")}
              >
                {shortName(point)}
              </span>
            </button>
          );
        })}
      </div>
    </section>
  );
}

/** Two letters' worth: side, and on four legs which end. */
export function shortName(point: string): string {
  const side = point.startsWith("left") ? "L" : "R";
  return /Fore|Hind/.test(point) ? `${side} ${/Fore/.test(point) ? "fore" : "hind"}` : side;
}
