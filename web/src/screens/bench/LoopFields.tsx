import { type LoopSettings, type Patch, patchKind } from "@stride/motion";
import clsx from "clsx";
import { Repeat2 } from "lucide-react";
import { useEffect, useRef } from "react";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { playSeam } from "../../state/seam.ts";
import { useAsked } from "../../state/useAsked.ts";
import { Button } from "../../ui/Button.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import type { CycleView } from "../../worker/views.ts";
import { mapColumns, nearestLow } from "./cycleMap.ts";

/** Most cycles that are listed. */
const LISTED = 6;

/** Which stretch is repeated: the best ones found, a picture of how far apart any two moments are, and the seam in figures. */
export function LoopFields({ patch }: { patch: Patch }) {
  const settings = { ...patchKind("loop")?.defaults, ...patch.settings } as LoopSettings;
  const { fps } = useBench((s) => s.clocks);
  const found = useAsked((w) => w.cycles(patch.id), patch.id);
  const [best] = found?.cycles ?? [];
  const from = settings.from ?? best?.from ?? 0;
  const to = settings.to ?? best?.to ?? 0;
  const seam = useAsked((w) => w.seam(patch.id, from, to), `${patch.id} ${from} ${to}`);
  const use = (cycle: { readonly from: number; readonly to: number }) =>
    change(`Cycle of ${patch.name}`, (d) => withPatch(d, patch.id, { settings: { ...patch.settings, from: cycle.from, to: cycle.to } }));
  const frame = (m: number) => Math.round(m * fps);
  return (
    <div className="border-t border-line py-2">
      <div className="grid grid-cols-3 gap-2">
        <NumberBox label="From, f" value={frame(from)} min={0} max={frame(to) - 4} onCommit={(v) => use({ from: v / fps, to })} />
        <NumberBox label="To, f" value={frame(to)} min={frame(from) + 4} max={frame(found?.map.seconds ?? to)} onCommit={(v) => use({ from, to: v / fps })} />
        <span className="text-xs text-ink-soft">
          Cycle
          <span className="figure block pt-0.5 text-ink">{frame(to - from)} f</span>
        </span>
      </div>
      <div className="flex items-center justify-between gap-2 py-1.5">
        <span role="status" className="text-xs text-ink-soft">
          {seam ? (
            <>
              To close at the seam:{" "}
              <span className={clsx("figure font-semibold", seam.contacts === 0 ? "text-ink" : "text-coral-ink")}>
                {seam.poseCm.toFixed(1)} cm, {seam.speedCm.toFixed(0)} cm/s
              </span>
              {seam.contacts > 0 && `, ${seam.contacts} contact${seam.contacts > 1 ? "s" : ""} differ`}
            </>
          ) : (
            "Measuring…"
          )}
        </span>
        <Button className="h-6.5!" onClick={() => playSeam(patch)} title="Plays around the seam, over and over (S)">
          <Repeat2 size={14} /> Seam
        </Button>
      </div>
      {found && <HeatMap view={found} from={from} to={to} onPick={use} />}
      {found && (
        <table className="mt-1.5 w-full text-xs" aria-label="Cycles found, best first">
          <thead>
            <tr className="text-left text-ink-soft">
              <th className="font-normal">Best cycles</th>
              <th className="font-normal">lasts</th>
              <th className="text-right font-normal">apart</th>
              <th>
                <span className="sr-only">Use</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {found.cycles.slice(0, LISTED).map((cycle) => {
              const now = Math.abs(cycle.from - from) < 0.5 / fps && Math.abs(cycle.to - to) < 0.5 / fps;
              return (
                <tr key={`${cycle.from}-${cycle.to}`} className={clsx("border-t border-line/70", now && "bg-cobalt-wash")}>
                  <td className="figure py-0.5 pl-1">
                    f {frame(cycle.from)}–{frame(cycle.to)}
                  </td>
                  <td className="figure">{frame(cycle.to - cycle.from)} f</td>
                  <td className="figure text-right">{cycle.poseCm.toFixed(1)} cm</td>
                  <td className="text-right">
                    <button
                      type="button"
                      disabled={now}
                      aria-label={`Use frames ${frame(cycle.from)} to ${frame(cycle.to)}`}
                      className="rounded-sm px-1.5 hover:bg-line/50 disabled:text-ink-soft"
                      onClick={() => use(cycle)}
                    >
                      {now ? "in use" : "Use"}
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {found?.cycles.length === 0 && (
        <p className="text-xs text-coral-ink">The body never comes back to where it was: set the first and last frame yourself.</p>
      )}
    </div>
  );
}

/** How far apart any two moments are: dark where a cycle from one (across) to the other (up) would close. A press takes the nearest low. */
function HeatMap({ view, from, to, onPick }: { view: CycleView; from: number; to: number; onPick: (cycle: { from: number; to: number }) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { map } = view;
  const { fps } = useBench((s) => s.clocks);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext("2d");
    if (!element || !context) return;
    element.width = map.size;
    element.height = map.size;
    const style = getComputedStyle(element);
    const ink = style.getPropertyValue("--ink").trim();
    const columns = mapColumns(map);
    const image = context.createImageData(map.size, map.size);
    context.fillStyle = ink;
    context.fillRect(0, 0, 1, 1);
    const [r, g, b] = context.getImageData(0, 0, 1, 1).data;
    columns.forEach((share, i) => image.data.set([r, g, b, Math.round(255 * share)], i * 4));
    context.putImageData(image, 0, 0);
  }, [map]);
  const [x, y] = [from, to].map((m) => (100 * m) / Math.max(1e-6, map.seconds));
  return (
    <div className="mt-1">
      <div className="relative h-44 w-full overflow-hidden border border-line bg-paper">
        <canvas
          ref={canvas}
          role="img"
          aria-label="How far apart any two moments are; the cycles below say the same in figures"
          className="absolute inset-0 size-full cursor-crosshair [image-rendering:pixelated]"
          onPointerDown={(event) => {
            const box = event.currentTarget.getBoundingClientRect();
            const low = nearestLow(map, (event.clientX - box.left) / box.width, 1 - (event.clientY - box.top) / box.height);
            if (low) onPick({ from: Math.round(low.from * fps) / fps, to: Math.round(low.to * fps) / fps });
          }}
        />
        <span
          className="pointer-events-none absolute size-2.5 -translate-x-1/2 translate-y-1/2 rounded-full border-2 border-cobalt"
          style={{ left: `${x}%`, bottom: `${y}%` }}
          aria-hidden="true"
        />
      </div>
      <p className="flex justify-between text-xs text-ink-soft">
        <span>across: first frame · up: last frame</span>
        <span>dark closes</span>
      </p>
    </div>
  );
}
