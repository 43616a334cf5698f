import { useBench } from "../../state/bench.ts";

/** How far a computation is that takes longer than a moment; nothing while none does. */
export function ComputeBar() {
  const progress = useBench((s) => s.progress);
  const searching = useBench((s) => s.searching);
  if (progress === null) return null;
  const what = searching ? "Looking for contacts" : "Computing the motion";
  const percent = Math.round(100 * progress);
  return (
    <div className="absolute inset-x-0 bottom-0 z-10 flex flex-col items-center gap-1 pb-1.5" role="status">
      <span className="rounded-sm bg-sheet/90 px-2 py-0.5 text-ink-soft">{what}…</span>
      <div
        role="progressbar"
        aria-label={what}
        aria-valuenow={percent}
        aria-valuemin={0}
        aria-valuemax={100}
        className="h-1 w-56 overflow-hidden rounded-full bg-line"
      >
        <div className="h-full bg-cobalt transition-[width]" style={{ width: `${Math.max(4, percent)}%` }} />
      </div>
    </div>
  );
}
