import { type JoinSettings, type Patch, patchKind } from "@stride/motion";
import clsx from "clsx";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { frameMade } from "../../state/times.ts";
import { useAsked } from "../../state/useAsked.ts";
import { NumberBox } from "../../ui/NumberBox.tsx";

/** Which piece of the other clip follows, how the seam fits, and where it would fit better. */
export function JoinFields({ patch }: { patch: Patch }) {
  const settings = { ...patchKind("join")?.defaults, ...patch.settings } as JoinSettings;
  const clocks = useBench((s) => s.clocks);
  const figures = useBench((s) => s.figures);
  const { fps } = clocks;
  const view = useAsked((w) => w.seams(patch.id), `${patch.id} ${JSON.stringify(patch.settings)}`);
  if (!settings.clip) return null;
  const set = (part: Partial<JoinSettings>, label: string) =>
    change(`${label} of ${patch.name}`, (d) => withPatch(d, patch.id, { settings: { ...patch.settings, ...part } }));
  const frame = (m: number) => Math.round(m * fps);
  const last = view ? frame(view.seconds) : 0;
  const leave = view ? Math.min(view.received, settings.leave ?? view.received) : 0;
  // What stands through the seam, as the finished motion has it.
  const over = settings.how === "crossfade" ? settings.overlap : 0;
  const [begin, end] = [leave - over, leave].map((m) => frameMade(clocks, patch.id, m) ?? -1);
  const through = view && figures ? figures.after.spans.filter(({ contact: c }) => c.start <= end && c.end >= begin) : [];
  const slide = through.reduce((most, span) => Math.max(most, span.slideCm), 0);
  return (
    <div className="border-t border-line py-2">
      <div className="grid grid-cols-2 gap-2">
        <NumberBox
          label="Its piece from, f"
          value={frame(settings.from ?? 0)}
          min={0}
          max={last}
          onCommit={(v) => set({ from: v === 0 ? null : v / fps }, "Piece")}
        />
        <NumberBox
          label="to, f"
          value={settings.to === null ? last : frame(settings.to)}
          min={0}
          max={last}
          onCommit={(v) => set({ to: v >= last ? null : v / fps }, "Piece")}
        />
      </div>
      <p role="status" className="pt-2 text-xs text-ink-soft">
        {view ? (
          <>
            At the seam the two are apart by{" "}
            <span className={clsx("figure font-semibold", view.now.contacts === 0 ? "text-ink" : "text-coral-ink")}>
              {view.now.poseCm.toFixed(1)} cm, {view.now.speedCm.toFixed(0)} cm/s
            </span>
            {view.now.contacts > 0 && `; ${view.now.contacts} contact${view.now.contacts > 1 ? "s" : ""} differ`}
            {through.length > 0 && (
              <>
                . What stands there slides by{" "}
                <span className={clsx("figure font-semibold", slide < 0.2 ? "text-ink" : "text-coral-ink")}>{slide.toFixed(1)} cm</span> at most
              </>
            )}
          </>
        ) : (
          "Measuring…"
        )}
      </p>
      {view && view.seams.length > 0 && (
        <table className="mt-1.5 w-full text-xs" aria-label="Seams found, best first">
          <thead>
            <tr className="text-left text-ink-soft">
              <th className="font-normal">Best seams</th>
              <th className="font-normal">into its</th>
              <th className="text-right font-normal">apart</th>
              <th>
                <span className="sr-only">Use</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {view.seams.map((seam) => {
              const now = Math.abs(seam.leave - leave) < 0.5 / fps && Math.abs(seam.enter - (settings.from ?? 0)) < 0.5 / fps;
              return (
                <tr key={`${seam.leave}-${seam.enter}`} className={clsx("border-t border-line/70", now && "bg-cobalt-wash")}>
                  <td className="figure py-0.5 pl-1">left at f {frame(seam.leave)}</td>
                  <td className="figure">f {frame(seam.enter)}</td>
                  <td className={clsx("figure text-right", seam.contacts > 0 && "text-coral-ink")}>{seam.poseCm.toFixed(1)} cm</td>
                  <td className="text-right">
                    <button
                      type="button"
                      disabled={now}
                      aria-label={`Leave at frame ${frame(seam.leave)}, into frame ${frame(seam.enter)}`}
                      className="rounded-sm px-1.5 hover:bg-line/50 disabled:text-ink-soft"
                      onClick={() => set({ leave: frame(seam.leave) / fps, from: frame(seam.enter) / fps }, "Seam")}
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
    </div>
  );
}
