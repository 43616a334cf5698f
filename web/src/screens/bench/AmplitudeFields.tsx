import type { AmplitudeSettings, MotionRange, Patch } from "@stride/motion";
import { useEffect, useState } from "react";
import { change, useBench, withSetting } from "../../state/bench.ts";
import { benchWorker } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";

const ROWS: readonly (readonly [keyof MotionRange, string, string])[] = [
  ["swayCm", "Sway", "cm"],
  ["bobCm", "Bob", "cm"],
  ["surgeCm", "Surge", "cm"],
  ["swivelDegrees", "Swivel", "°"],
];

/** Which parts swing more or less, and how far the hips move before and after. */
export function AmplitudeFields({ patch }: { patch: Patch }) {
  const settings = patch.settings as Partial<AmplitudeSettings>;
  const parts = settings.parts ?? [];
  const axes = settings.partAxes ?? ["x", "y", "z"];
  const after = useBench((s) => s.after);
  const selected = useBench((s) => s.parts);
  const names = useBench((s) => s.opened?.skeleton.names) ?? [];
  const [ranges, setRanges] = useState<{ before: MotionRange; after: MotionRange } | null>(null);
  const last = (after?.frameCount ?? 1) - 1;
  const [start, end] = [patch.range?.start ?? 0, patch.range?.end ?? last];
  // biome-ignore lint/correctness/useExhaustiveDependencies: measured anew with every motion
  useEffect(() => {
    let stale = false;
    void benchWorker()
      .ranges(patch.id, start, end)
      .then((r) => {
        if (!stale) setRanges(r);
      });
    return () => {
      stale = true;
    };
  }, [patch.id, start, end, after]);
  const set = (key: keyof AmplitudeSettings, value: unknown) => change(`Parts of ${patch.name}`, (d) => withSetting(d, patch.id, key, value));
  return (
    <div className="border-t border-line py-2">
      {ranges && (
        <table className="mb-2 w-full" aria-label="Range of the hips’ movement, before and after">
          <tbody>
            {ROWS.map(([key, label, unit]) => (
              <tr key={key}>
                <th scope="row" className="py-0.5 text-left font-normal">
                  {label}, least to most
                </th>
                <td className="figure text-right text-ink-soft">{ranges.before[key].toFixed(1)}</td>
                <td className="figure text-right font-semibold">
                  {ranges.after[key].toFixed(1)} {unit}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="flex items-center justify-between gap-1">
        <span className="min-w-0 truncate" title={parts.join(", ")}>
          Parts: {parts.length === 0 ? "only the hips as chosen" : parts.join(", ")}
        </span>
        <span className="flex gap-1">
          <Button
            className="h-6! px-2! text-xs"
            disabled={selected.length === 0}
            onClick={() =>
              set(
                "parts",
                selected.map((j) => names[j]),
              )
            }
          >
            Take selected
          </Button>
          <Button className="h-6! px-2! text-xs" disabled={parts.length === 0} onClick={() => set("parts", [])}>
            None
          </Button>
        </span>
      </div>
      {parts.length > 0 && (
        <div className="flex items-center gap-2 pt-1">
          about
          {(["x", "y", "z"] as const).map((axis) => (
            <label key={axis} className="flex items-center gap-1">
              <input
                type="checkbox"
                className="accent-[var(--ink)]"
                checked={axes.includes(axis)}
                onChange={(event) => set("partAxes", event.target.checked ? [...axes, axis] : axes.filter((a) => a !== axis))}
              />
              {axis}
            </label>
          ))}
        </div>
      )}
      <Button className="mt-2 w-full" onClick={() => useBench.setState({ panel: "pose" })}>
        Holds
      </Button>
    </div>
  );
}
