import { change, shownDoc, useBench } from "../../state/bench.ts";

/** Whether feet are held once more on the finished motion. Off, patches behind the plant can make them slide: that is said. */
export function LivePlantField() {
  const live = useBench((s) => shownDoc(s).livePlant);
  return (
    <label className="flex items-center justify-between gap-2 py-1.5" title="Patches behind the plant cannot make feet slide while this is on">
      <span>
        Hold once more at the end
        {!live && <span className="block text-xs text-coral-ink">off: later patches may make feet slide</span>}
      </span>
      <input
        type="checkbox"
        className="size-4 accent-[var(--ink)]"
        checked={live}
        onChange={(event) => change(event.target.checked ? "Live plant on" : "Live plant off", (d) => ({ ...d, livePlant: event.target.checked }))}
      />
    </label>
  );
}
