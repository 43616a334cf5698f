import { type Measure, type PartRef, partOf } from "@stride/motion";
import clsx from "clsx";
import { Plus, X } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useBench } from "../state/bench.ts";
import { partInWords, partName } from "../state/partWords.ts";
import { NAMES } from "../timescale/scale.ts";
import { Button, IconButton } from "../ui/Button.tsx";
import { CurvePlot } from "./CurvePlot.tsx";
import { CurveTools } from "./CurveTools.tsx";
import { type Axis, useCurves } from "./curveState.ts";
import { useCurveViews } from "./useCurveViews.ts";

/** Curves of the selected parts and of what is measured, in place of the footfall chart. */
export function CurveDesk({ height }: { height: number }) {
  const { curves, views, parts } = useCurveViews();
  const { active, axes } = useCurves();
  const picked = curves.find((c) => c.id === active) ?? curves[0];
  return (
    <section aria-label="Curve view">
      <CurveTools curve={picked} view={picked && views.get(picked.id)} parts={parts} />
      <div className="flex">
        <div className="shrink-0 overflow-y-auto border-r border-line py-1 pl-2" style={{ width: NAMES, height }}>
          <div className="flex items-center gap-1 pb-1 pr-2">
            {(["x", "y", "z"] as const).map((axis: Axis) => (
              <button
                key={axis}
                type="button"
                aria-pressed={axes[axis]}
                aria-label={`Angles about ${axis}`}
                className={clsx("size-6 rounded-sm border", axes[axis] ? "border-ink bg-ink text-sheet" : "border-line text-ink-soft line-through")}
                onClick={() => useCurves.setState({ axes: { ...axes, [axis]: !axes[axis] } })}
              >
                {axis}
              </button>
            ))}
            <span className="flex-1" />
            <MeasureMenu />
          </div>
          {curves.map((curve) => (
            <div key={curve.id} className="flex items-center gap-1.5 pr-1">
              <svg width={18} height={10} aria-hidden="true" className="shrink-0">
                <line x1={0} x2={18} y1={5} y2={5} stroke={curve.color} strokeWidth={2} strokeDasharray={curve.dash} />
              </svg>
              <button
                type="button"
                aria-pressed={picked?.id === curve.id}
                title={curve.label}
                className={clsx("min-w-0 flex-1 truncate rounded-sm px-1 text-left", picked?.id === curve.id && "bg-cobalt-wash font-semibold text-cobalt")}
                onClick={() => useCurves.setState({ active: curve.id, key: null })}
              >
                {curve.label}
              </button>
              {curve.spec.kind === "measure" && (
                <IconButton
                  label={`Remove ${curve.label}`}
                  className="size-5!"
                  onClick={() => useCurves.setState((s) => ({ measures: s.measures.filter((m) => JSON.stringify(m) !== curve.id) }))}
                >
                  <X size={11} />
                </IconButton>
              )}
            </div>
          ))}
          {curves.length === 0 && <p className="pr-2 text-xs text-ink-soft">Select parts on the body: their angles stand here.</p>}
        </div>
        <CurvePlot curves={curves} views={views} height={height} parts={parts} />
      </div>
    </section>
  );
}

/** What can be measured of the parts that are selected, and of the body. */
function MeasureMenu() {
  const parts = useBench((s) => s.parts);
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const refOf = (joint: number | undefined): PartRef | null =>
    opened && body && joint !== undefined ? partOf({ skeleton: opened.skeleton, body }, joint) : null;
  const part = refOf(parts.at(-1));
  const other = refOf(parts.at(-2) ?? body?.roles.hips);
  const label = part ? partName(part) : "";
  const items: [string, Measure][] = [
    ...(part
      ? ([
          [`${label} over the floor`, { of: "height", part }],
          ...(other && partName(other) !== label ? [[`${label} to ${partInWords(other)}`, { of: "distance", part, to: other }]] : []),
          [`${label} left of the hips`, { of: "position", part, axis: "x", space: "body" }],
          [`${label} up from the hips`, { of: "position", part, axis: "y", space: "body" }],
          [`${label} forward of the hips`, { of: "position", part, axis: "z", space: "body" }],
          [`${label} x, world`, { of: "position", part, axis: "x", space: "world" }],
          [`${label} y, world`, { of: "position", part, axis: "y", space: "world" }],
          [`${label} z, world`, { of: "position", part, axis: "z", space: "world" }],
        ] as [string, Measure][])
      : []),
    ["Sway of the hips", { of: "sway" }],
    ["Heading", { of: "heading" }],
    ["Lean", { of: "lean" }],
  ];
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="h-6! px-1.5! text-xs">
          <Plus size={12} /> Measure
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className="z-50 rounded-sm border border-line bg-sheet py-1 shadow-lg">
          {items.map(([label, measure]) => (
            <DropdownMenu.Item
              key={label}
              className="cursor-pointer px-3 py-1 outline-none data-highlighted:bg-cobalt-wash"
              onSelect={() =>
                useCurves.setState((s) => ({
                  measures: s.measures.some((m) => JSON.stringify(m) === JSON.stringify(measure)) ? s.measures : [...s.measures, measure],
                  active: JSON.stringify(measure),
                  key: null,
                  window: null,
                }))
              }
            >
              {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
