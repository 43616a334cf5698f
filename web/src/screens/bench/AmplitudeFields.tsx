import { type AmplitudeSettings, frameOf, type MotionRange, type Patch } from "@stride/motion";
import { change, useBench, withSetting } from "../../state/bench.ts";
import { lastFrameOf } from "../../state/times.ts";
import { useAsked } from "../../state/useAsked.ts";

const ROWS: readonly (readonly [keyof MotionRange, string, string])[] = [
  ["swayCm", "Sway", "cm"],
  ["bobCm", "Bob", "cm"],
  ["surgeCm", "Surge", "cm"],
  ["swivelDegrees", "Swivel", "°"],
];

/** How far the hips move before and after, and about which of their axes the chosen parts swing. */
export function AmplitudeFields({ patch }: { patch: Patch }) {
  const settings = patch.settings as Partial<AmplitudeSettings>;
  const parts = settings.parts ?? [];
  const axes = settings.partAxes ?? ["x", "y", "z"];
  const clocks = useBench((s) => s.clocks);
  const last = lastFrameOf(clocks, patch.id);
  const [start, end] = patch.range ? [patch.range.start, patch.range.end].map((m) => Math.round(frameOf(m, clocks.fps))) : [0, last];
  const ranges = useAsked((w) => w.ranges(patch.id, start, end), `${patch.id} ${start} ${end}`);
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
    </div>
  );
}
