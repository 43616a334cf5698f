import { X } from "lucide-react";
import { useBench } from "../state/bench.ts";
import { compareBy, endComparison } from "../state/beside.ts";
import { IconButton } from "../ui/Button.tsx";
import { Segmented } from "../ui/Segmented.tsx";

/** What the result is compared with, and by what the two are in step. */
export function BesideBar() {
  const beside = useBench((s) => s.beside);
  if (!beside) return null;
  return (
    <div
      className="absolute right-3 bottom-2.5 flex max-w-[60%] items-center gap-2 rounded-sm border border-line bg-sheet py-0.5 pr-1 pl-2.5"
      data-testid="beside"
    >
      <span className="truncate">
        beside <b>{beside.label}</b>
      </span>
      <Segmented
        small
        label="In step by"
        value={beside.by}
        options={[
          { value: "time", label: "time", hint: "The same seconds" },
          { value: "phase", label: "steps", hint: "The same phase of their steps" },
        ]}
        onChange={compareBy}
      />
      {beside.footfalls === 0 && <span className="text-xs text-coral-ink">no footfalls in common</span>}
      <IconButton label="End the comparison" onClick={endComparison}>
        <X size={14} />
      </IconButton>
    </div>
  );
}
