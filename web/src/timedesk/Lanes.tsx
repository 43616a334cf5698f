import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { clipKeyOf, type Patch, patchKind } from "@stride/motion";
import clsx from "clsx";
import { Circle, CircleDot, Copy, GripVertical, Trash2 } from "lucide-react";
import { memo, useState } from "react";
import { change, preview, shownDoc, useBench, withPatch } from "../state/bench.ts";
import { useOtherClips } from "../state/otherClips.ts";
import { frameSpansOf, goneReason, momentIn, reordered, sourceFrameOf } from "../state/times.ts";
import { NAMES, useScale } from "../timescale/scale.ts";
import { type FrameDrag, useFrameDrag } from "../timescale/useFrameDrag.ts";
import { IconButton } from "../ui/Button.tsx";
import { LanePicture } from "./LanePicture.tsx";
import { duplicatePatch, removePatch } from "./patchActions.ts";

const ROW = 24;
/** Longest ramp that can be dragged, seconds. */
const LONGEST_RAMP_SECONDS = 20;

/** The stack as lanes, the last applied on top, the source at the bottom. */
export function Lanes() {
  const doc = useBench(shownDoc);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const shown = [...doc.patches].reverse();
  return (
    <section aria-label="Patches" className="pb-1">
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={({ active, over }) => {
          if (!over || active.id === over.id) return;
          change("Reorder patches", (d) => {
            const from = d.patches.findIndex((p) => p.id === active.id);
            const to = d.patches.findIndex((p) => p.id === over.id);
            return reordered(d, from, to);
          });
        }}
      >
        <SortableContext items={shown.map((p) => p.id)} strategy={verticalListSortingStrategy}>
          {shown.map((patch) => (
            <Lane key={patch.id} patch={patch} />
          ))}
        </SortableContext>
      </DndContext>
      <SourceLane />
    </section>
  );
}

function Lane({ patch }: { patch: Patch }) {
  const scale = useScale();
  const selected = useBench((s) => s.patchId === patch.id);
  const solo = useBench((s) => shownDoc(s).patches.some((p) => p.solo && !p.muted));
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const [renaming, setRenaming] = useState(false);
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({ id: patch.id });
  const ranged = patchKind(patch.kind)?.ranged ?? true;
  const off = patch.muted || (solo && !patch.solo);
  const clocks = useBench((s) => s.clocks);
  const rows = useOtherClips((s) => s.rows);
  const [ref] = patchKind(patch.kind)?.inputs(patch.settings) ?? [];
  // Whose clip it is.
  const other = ref && { row: rows.get(clipKeyOf(ref)), name: rows.get(clipKeyOf(ref))?.name ?? ref.name };
  const bind = useFrameDrag();
  const { fps } = clocks;
  // Where the range is shown: in one piece, in several where time repeats, nowhere where it is cut away.
  const spans: readonly (readonly [number, number])[] = patch.range ? frameSpansOf(clocks, patch.id, patch.range.start, patch.range.end) : [[0, last]];
  const [start, end] = [Math.round(spans[0]?.[0] ?? 0), Math.min(last, Math.round(spans.at(-1)?.[1] ?? last))];
  const x0 = scale.x(start);
  const x1 = scale.x(end + 1);
  const per = scale.x(1) - scale.x(0);
  const [rampIn, rampOut] = [patch.rampIn * fps, patch.rampOut * fps];
  const handle = (toPart: (frames: number) => Partial<Patch> | null): FrameDrag => ({
    press: () => useBench.setState({ patchId: patch.id }),
    move: (frames) => {
      const part = toPart(frames);
      if (part) preview((d) => withPatch(d, patch.id, part));
    },
    end: (frames) => {
      const part = frames === null || frames === 0 ? null : toPart(frames);
      if (part) change(`Change range of ${patch.name}`, (d) => withPatch(d, patch.id, part));
      else useBench.setState({ draft: null });
    },
  });
  const moment = (frame: number) => momentIn(clocks, patch.id, Math.max(0, Math.min(last, frame)));
  const range = (a: number, b: number) => ({ range: { start: Math.min(moment(a), moment(b)), end: Math.max(moment(a), moment(b)) } });
  const ramp = (frames: number) => Math.max(0, Math.min(LONGEST_RAMP_SECONDS, Math.round(frames) / fps));
  return (
    <div
      ref={setNodeRef}
      data-patch={patch.kind}
      className={clsx("group flex items-center", isDragging && "opacity-60")}
      style={{ height: ROW, transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
    >
      <div className="relative flex shrink-0 items-center pl-1" style={{ width: NAMES }}>
        <button
          type="button"
          ref={setActivatorNodeRef}
          {...attributes}
          {...listeners}
          aria-label={`Move ${patch.name}`}
          className="cursor-grab rounded-sm text-line group-hover:text-ink-soft"
        >
          <GripVertical size={13} />
        </button>
        <MuteButton id={patch.id} name={patch.name} muted={patch.muted} off={off} />
        {renaming ? (
          <input
            // biome-ignore lint/a11y/noAutofocus: the person just asked to rename this
            autoFocus
            aria-label="Patch name"
            defaultValue={patch.name}
            maxLength={120}
            className="w-full min-w-0 rounded-sm border border-cobalt bg-sheet px-1"
            onBlur={(event) => {
              setRenaming(false);
              const name = event.target.value.trim();
              if (name && name !== patch.name) change(`Rename ${patch.name}`, (d) => withPatch(d, patch.id, { name }));
            }}
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === "Enter") event.currentTarget.blur();
              if (event.key === "Escape") setRenaming(false);
            }}
          />
        ) : (
          <button
            type="button"
            className={clsx(
              "min-w-0 flex-1 truncate rounded-sm px-1 text-left",
              selected && "font-semibold",
              off && "line-through",
              (off || spans.length === 0) && "text-ink-soft",
            )}
            title={`${patch.name} — double-click to rename`}
            aria-pressed={selected}
            onClick={() => useBench.setState({ patchId: patch.id })}
            onDoubleClick={() => setRenaming(true)}
            onKeyDown={(event) => {
              if (event.key === "Delete") removePatch(patch);
              if (event.key === "F2") setRenaming(true);
            }}
          >
            {patch.name}
          </button>
        )}
        <LaneTools id={patch.id} name={patch.name} solo={patch.solo} />
      </div>
      <svg width={scale.width} height={ROW} className="block overflow-hidden" aria-hidden="true">
        <g onPointerDown={() => useBench.setState({ patchId: patch.id })} className="cursor-pointer">
          {spans.map(([a, b], i) => {
            const [left, right] = [scale.x(a), scale.x(Math.min(last, b) + 1)];
            return (
              <polygon
                key={i}
                points={`${left - rampIn * per},${ROW - 4} ${left},5 ${right},5 ${right + rampOut * per},${ROW - 4}`}
                fill={off ? "transparent" : selected ? "var(--cobalt-wash)" : "color-mix(in srgb, var(--wood, #d9c9a5) 45%, transparent)"}
                stroke={selected ? "var(--cobalt)" : "var(--ink-soft)"}
                strokeWidth={selected ? 1.8 : 0.8}
                strokeDasharray={off ? "3 3" : undefined}
                className="touch-none"
                {...(patch.range && ranged ? bind(handle((n) => range(start + n, end + n))) : {})}
              />
            );
          })}
          {spans.length === 0 && (
            <text x={6} y={ROW / 2 + 4} fontSize={11} fill="var(--ink-soft)">
              {patch.range && goneReason(clocks, patch.id, patch.range)}; it is kept
            </text>
          )}
          {other && spans.length > 0 && x1 - x0 > 60 && (
            <g pointerEvents="none">
              {other.row && !other.row.summary.character && x1 - x0 > 240 && <LanePicture row={other.row} x={x0 + 180} width={x1 - x0 - 190} height={ROW} />}
              <text x={x0 + 8} y={ROW - 8} fontSize={11} fill="var(--ink)" style={{ paintOrder: "stroke", stroke: "var(--sheet)", strokeWidth: 3 }}>
                {other.name}
              </text>
            </g>
          )}
          {selected && ranged && spans.length > 0 && (
            <>
              <rect
                data-handle="start"
                x={x0 - 2}
                y={4}
                width={7}
                height={ROW - 7}
                fill="var(--cobalt)"
                rx={1.5}
                className="cursor-ew-resize touch-none"
                {...bind(handle((n) => range(Math.min(end, start + n), end)))}
              />
              <rect
                data-handle="end"
                x={x1 - 5}
                y={4}
                width={7}
                height={ROW - 7}
                fill="var(--cobalt)"
                rx={1.5}
                className="cursor-ew-resize touch-none"
                {...bind(handle((n) => range(start, Math.max(start, end + n))))}
              />
              {patch.range && (
                <>
                  <circle
                    data-handle="rampIn"
                    cx={x0 - rampIn * per}
                    cy={ROW - 5}
                    r={4}
                    fill="var(--sheet)"
                    stroke="var(--cobalt)"
                    strokeWidth={1.6}
                    className="cursor-ew-resize touch-none"
                    {...bind(handle((n) => ({ rampIn: ramp(rampIn - n) })))}
                  />
                  <circle
                    data-handle="rampOut"
                    cx={x1 + rampOut * per}
                    cy={ROW - 5}
                    r={4}
                    fill="var(--sheet)"
                    stroke="var(--cobalt)"
                    strokeWidth={1.6}
                    className="cursor-ew-resize touch-none"
                    {...bind(handle((n) => ({ rampOut: ramp(rampOut + n) })))}
                  />
                </>
              )}
            </>
          )}
        </g>
      </svg>
    </div>
  );
}

/** The patch of that id as it is in the document now. */
function patchNow(id: string): Patch | undefined {
  return useBench.getState().doc.patches.find((p) => p.id === id);
}

// Drawn anew only for what they show, not for every move of a patch's settings.
const MuteButton = memo(function MuteButton({ id, name, muted, off }: { id: string; name: string; muted: boolean; off: boolean }) {
  return (
    <IconButton
      label={muted ? `Unmute ${name}` : `Mute ${name}`}
      aria-pressed={muted}
      className="size-5!"
      onClick={() => change(`${muted ? "Unmute" : "Mute"} ${name}`, (d) => withPatch(d, id, { muted: !muted }))}
    >
      {off ? <Circle size={11} /> : <Circle size={11} fill="var(--ink)" />}
    </IconButton>
  );
});

const LaneTools = memo(function LaneTools({ id, name, solo }: { id: string; name: string; solo: boolean }) {
  const now = (act: (patch: Patch) => void) => () => {
    const patch = patchNow(id);
    if (patch) act(patch);
  };
  return (
    <span
      className={clsx("absolute inset-y-0 right-1 flex items-center bg-sheet", !solo && "opacity-0 group-focus-within:opacity-100 group-hover:opacity-100")}
    >
      <IconButton
        label={solo ? `End solo of ${name}` : `Solo ${name}`}
        aria-pressed={solo}
        className="size-5!"
        onClick={() => change(`Solo ${name}`, (d) => withPatch(d, id, { solo: !solo }))}
      >
        <CircleDot size={12} className={solo ? "text-cobalt" : undefined} />
      </IconButton>
      <IconButton label={`Duplicate ${name}`} className="size-5!" onClick={now(duplicatePatch)}>
        <Copy size={12} />
      </IconButton>
      <IconButton label={`Delete ${name}`} shortcut="Delete" className="size-5!" onClick={now(removePatch)}>
        <Trash2 size={12} />
      </IconButton>
    </span>
  );
});

/** Below the stack: how fast the source travels, the first thing to judge a walk by. */
function SourceLane() {
  const before = useBench((s) => s.before);
  const hips = useBench((s) => s.body?.roles.hips ?? 0);
  const clocks = useBench((s) => s.clocks);
  const scale = useScale();
  if (!before) return null;
  const speeds: number[] = [];
  const span = Math.max(1, Math.round(before.fps / 15));
  const at = (f: number) => (Math.max(0, Math.min(before.frameCount - 1, f)) * before.jointCount + hips) * 3;
  const step = Math.max(1, Math.floor((scale.to - scale.from) / scale.width));
  for (let f = scale.from; f <= scale.to; f += step) {
    const here = sourceFrameOf(clocks, f);
    const a = at(here - span);
    const b = at(here + span);
    speeds.push((Math.hypot(before.positions[b] - before.positions[a], before.positions[b + 2] - before.positions[a + 2]) * before.fps) / (2 * span));
  }
  const most = speeds.reduce((a, b) => Math.max(a, b), 0.4);
  return (
    <div className="flex items-center" style={{ height: ROW }}>
      <div className="shrink-0 truncate pl-10 text-ink-soft" style={{ width: NAMES }}>
        Source, up to {most.toFixed(1)} m/s
      </div>
      <svg width={scale.width} height={ROW} className="block" aria-hidden="true">
        <polyline
          points={speeds.map((v, i) => `${scale.x(scale.from + i * step)},${ROW - 3 - (v / most) * (ROW - 7)}`).join(" ")}
          fill="none"
          stroke="var(--ink-soft)"
        />
      </svg>
    </div>
  );
}
