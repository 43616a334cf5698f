import type { Space } from "@stride/motion";
import clsx from "clsx";
import { Eye, Move3d, Rotate3d, Spline } from "lucide-react";
import { useBench } from "../state/bench.ts";
import { type Tool, usePosing } from "../state/posing.ts";
import { IconButton } from "../ui/Button.tsx";

const TOOLS: readonly { tool: Tool; label: string; key: string; icon: React.ReactNode }[] = [
  { tool: "look", label: "Look: nothing is changed", key: "V", icon: <Eye size={15} /> },
  { tool: "turn", label: "Turn selected parts", key: "T", icon: <Rotate3d size={15} /> },
  { tool: "move", label: "Move selected parts by reach", key: "M", icon: <Move3d size={15} /> },
];

const SPACES: readonly { value: Space; label: string }[] = [
  { value: "own", label: "own axes" },
  { value: "parent", label: "parent's" },
  { value: "body", label: "body's" },
  { value: "world", label: "world's" },
];

/** What the hand does in the view: tool, axes and steps. */
export function PoseBar() {
  const { tool, space, snap, trail, trailRamp } = usePosing();
  const parts = useBench((s) => s.parts.length);
  return (
    <div role="toolbar" aria-label="Posing" className="flex items-center gap-0.5 rounded-sm border border-line bg-sheet p-0.5">
      {TOOLS.map((t) => (
        <IconButton
          key={t.tool}
          label={t.label}
          shortcut={t.key}
          pressed={tool === t.tool}
          className="size-6!"
          onClick={() => usePosing.setState({ tool: t.tool })}
        >
          {t.icon}
        </IconButton>
      ))}
      <IconButton label="Trail of the selected part" shortcut="Y" pressed={trail} className="size-6!" onClick={() => usePosing.setState({ trail: !trail })}>
        <Spline size={15} />
      </IconButton>
      {trail && tool === "look" && (
        <label className="flex items-center gap-1 px-1 text-xs text-ink-soft" title="Frames, at 30 a second, over which a dragged dot fades to either side">
          dots fade over ±
          <select
            aria-label="Dots fade over"
            value={trailRamp}
            className="h-6 rounded-sm bg-transparent text-ink hover:bg-line/40"
            onChange={(event) => usePosing.setState({ trailRamp: Number(event.target.value) })}
          >
            {[4, 8, 12, 20, 40].map((v) => (
              <option key={v} value={v}>
                {v} f
              </option>
            ))}
          </select>
        </label>
      )}
      {tool !== "look" && (
        <>
          <select
            aria-label="Axes"
            value={space}
            className="ml-1 h-6 rounded-sm bg-transparent px-0.5 hover:bg-line/40"
            onChange={(event) => usePosing.setState({ space: event.target.value as Space })}
          >
            {SPACES.map((s) => (
              <option key={s.value} value={s.value}>
                {s.label}
              </option>
            ))}
          </select>
          <select
            aria-label="Steps"
            value={snap}
            className="h-6 rounded-sm bg-transparent px-0.5 hover:bg-line/40"
            onChange={(event) => usePosing.setState({ snap: Number(event.target.value) as 0 | 1 | 5 | 10 })}
          >
            {[0, 1, 5, 10].map((v) => (
              <option key={v} value={v}>
                {v === 0 ? "free" : `${v} ${tool === "turn" ? "°" : "cm"}`}
              </option>
            ))}
          </select>
          <span className={clsx("px-1 text-xs", parts === 0 ? "text-coral-ink" : "text-ink-soft")}>{parts === 0 ? "click a part" : "Shift: fine"}</span>
        </>
      )}
    </div>
  );
}
