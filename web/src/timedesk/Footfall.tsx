import { type ContactEdit, pointLabel, type Work } from "@stride/motion";
import { memo, useDeferredValue } from "react";
import { type BenchState, change, preview, useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";
import { sourceMomentOf } from "../state/times.ts";
import { NAMES, useScale } from "../timescale/scale.ts";
import { useFrameDrag } from "../timescale/useFrameDrag.ts";
import type { ContactView, MotionView } from "../worker/views.ts";
import { addContactAt } from "./addContact.ts";
import { sourceSpan, withoutSpan, withSpan } from "./contactEdits.ts";

const ROW = 22;
const BAR = 15;
/** Slide at which a bar is fully coral, cm. */
const WORST = 1;
const CELLS = 24;
/** Bars narrower than this, pixels, are drawn plainly. */
const PLAIN = 12;

/** Contacts over time, a row a point. Bars are shaded by slide along their length; their ends and slopes can be dragged. */
export function Footfall() {
  // Of hundreds of bars: while something else is dragged the body goes first. What is dragged here follows the hand.
  const after = useBench((s) => s.after);
  const later = useDeferredValue(after);
  const figures = useDeferredValue(useBench((s) => s.figures));
  const dragging = useBench((s) => s.contact !== null && s.draft !== null);
  return <Chart after={dragging ? after : later} figures={figures} />;
}

const Chart = memo(function Chart({ after, figures }: { readonly after: MotionView | null; readonly figures: BenchState["figures"] }) {
  const before = useBench((s) => s.before);
  const clocks = useBench((s) => s.clocks);
  const points = useBench((s) => s.character?.points);
  const picked = useBench((s) => s.contact);
  const scale = useScale();
  // Held here and not by the bar: what is dragged may become another contact on the way.
  const bind = useFrameDrag();
  if (!after || !before || !points) return null;
  // Points that bear the body always have a row, others while they have contacts.
  const rows = points.filter((p) => p.bears || after.contacts.some((c) => c.point === p.id));
  const byPoint = new Map<string, ContactView[]>();
  for (const c of after.contacts) {
    const list = byPoint.get(c.point);
    if (list) list.push(c);
    else byPoint.set(c.point, [c]);
  }
  const measured = new Map(figures?.after.spans.map((s) => [spanKey(s.contact), s]));
  const source = (c: ContactView) => sourceSpan(clocks, c, before.contacts);
  const pick = (c: ContactView) => useBench.setState({ contact: { point: c.point, start: c.start, end: c.end }, findingId: null });

  return (
    <section aria-label="Footfall chart" className="border-b border-line">
      {rows.map(({ id, side }) => (
        <div key={id} className="flex items-center border-b border-line/50 last:border-b-0" style={{ height: ROW }}>
          <div className="flex shrink-0 items-center gap-2 pl-3.5" style={{ width: NAMES }}>
            <span
              className={
                side === "left" ? "size-2.5 bg-plum" : side === "right" ? "size-2.5 border-[1.5px] border-teal" : "size-2.5 border-[1.5px] border-ink-soft"
              }
            />
            <span className="flex-1">{pointLabel(id)}</span>
            <button
              type="button"
              className="mr-2 size-5 rounded-sm text-ink-soft hover:bg-line/50 hover:text-ink"
              aria-label={`Add a contact of the ${pointLabel(id).toLowerCase()} at the playhead`}
              title="Add a contact at the playhead"
              onClick={() => addContactAt(id, playhead.frame)}
            >
              +
            </button>
          </div>
          <svg
            width={scale.width}
            height={ROW}
            className="block overflow-hidden"
            aria-label={`${pointLabel(id)} contacts`}
            onDoubleClick={(event) => {
              if (event.target === event.currentTarget) addContactAt(id, scale.frame(event.nativeEvent.offsetX));
            }}
          >
            {byPoint.get(id)?.map((c, index) => {
              if (c.end < scale.from || c.start > scale.to) return null;
              const span = measured.get(spanKey(c));
              return (
                <Bar
                  key={`${id}#${index}`}
                  bind={bind}
                  contact={c}
                  side={side}
                  slide={span?.slideCm}
                  course={span?.course}
                  picked={picked?.point === id && picked.start === c.start}
                  onPick={() => pick(c)}
                  onRemove={() => c.of === undefined && change(`Remove ${pointLabel(id).toLowerCase()} contact`, (d) => withoutSpan(d, source(c)))}
                  onEdit={(part, live) => {
                    // What came with another clip is edited where that clip is.
                    if (c.of !== undefined) return;
                    const edit = (d: Work) =>
                      withSpan(
                        d,
                        source(c),
                        inSource(part, (frame) => sourceMomentOf(clocks, frame), after.fps),
                      );
                    if (live) preview(edit);
                    else change(`Change ${pointLabel(id).toLowerCase()} contact`, edit);
                    if (part.start !== undefined || part.end !== undefined)
                      useBench.setState({ contact: { point: id, start: part.start ?? c.start, end: part.end ?? c.end } });
                  }}
                  last={after.frameCount - 1}
                />
              );
            })}
          </svg>
        </div>
      ))}
    </section>
  );
});

function spanKey({ point, start, end }: Pick<ContactView, "point" | "start" | "end">): string {
  return `${point}:${start}-${end}`;
}

/** What is changed of a contact, frames of the result; ramps in frames. */
interface SpanPart {
  readonly start?: number;
  readonly end?: number;
  readonly rampIn?: number;
  readonly rampOut?: number;
}

/** The same in seconds of the source. */
function inSource(part: SpanPart, momentOf: (frame: number) => number, fps: number): Partial<ContactEdit> {
  return {
    ...(part.start !== undefined && { start: momentOf(part.start) }),
    ...(part.end !== undefined && { end: momentOf(part.end) }),
    ...(part.rampIn !== undefined && { rampIn: part.rampIn / fps }),
    ...(part.rampOut !== undefined && { rampOut: part.rampOut / fps }),
  };
}

interface BarProps {
  readonly contact: ContactView;
  readonly side: "left" | "right" | null;
  readonly slide: number | undefined;
  readonly course: Float32Array | undefined;
  readonly picked: boolean;
  readonly last: number;
  readonly bind: ReturnType<typeof useFrameDrag>;
  readonly onPick: () => void;
  readonly onRemove: () => void;
  readonly onEdit: (part: SpanPart, live: boolean) => void;
}

function Bar({ contact, side, slide, course, picked, last, bind, onPick, onRemove, onEdit }: BarProps) {
  const scale = useScale();
  const left = side === "left";
  const { landing: rampIn, lift: rampOut } = contact;
  const x0 = scale.x(contact.start);
  const x1 = scale.x(contact.end + 1);
  const y = (ROW - BAR) / 2;
  const color = left ? "var(--plum)" : side === "right" ? "var(--teal)" : "var(--ink-soft)";
  const per = scale.x(1) - scale.x(0);
  const drag = (toPart: (frames: number) => SpanPart) =>
    bind({
      press: onPick,
      move: (frames) => onEdit(toPart(frames), true),
      end: (frames) => {
        if (frames === null) useBench.setState({ draft: null });
        else if (frames !== 0) onEdit(toPart(frames), false);
      },
    });
  const moveStart = (n: number): SpanPart => ({ start: Math.max(0, Math.min(contact.end - 1, contact.start + n)) });
  const moveEnd = (n: number): SpanPart => ({ end: Math.min(last, Math.max(contact.start + 1, contact.end + n)) });
  const wide = x1 - x0;
  const cells = Math.max(1, Math.min(CELLS, contact.end - contact.start + 1, Math.floor(wide / 5)));
  // Where bars are too narrow to be taken by an end, they are drawn without ends and slopes: a long clip has many hundreds of them.
  const plain = wide < PLAIN && !picked;
  const end = { y: y - 1, width: 7, height: BAR + 2, fill: picked ? "var(--cobalt)" : "transparent", rx: 1.5, className: "cursor-ew-resize touch-none" };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a shape in a drawing cannot be a button element
    <g
      role="button"
      tabIndex={0}
      aria-pressed={picked}
      aria-label={`${pointLabel(contact.point)}, frames ${contact.start} to ${contact.end}${slide === undefined ? "" : `, slides ${slide.toFixed(1)} cm`}${contact.origin === "set" ? ", set by hand" : ""}${contact.of === undefined ? "" : `, came with ${contact.of}`}`}
      data-contact={`${contact.point}:${contact.start}-${contact.end}`}
      className="cursor-pointer outline-none [&:focus-visible>rect:first-of-type]:stroke-cobalt"
      onClick={() => {
        onPick();
        if (playhead.frame < contact.start || playhead.frame > contact.end) playhead.seek(contact.start);
      }}
      onKeyDown={(event) => {
        const step = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
        if (event.key === "Delete" || event.key === "Backspace") onRemove();
        else if (event.key === "Enter") onPick();
        else if (step !== 0 && event.altKey) onEdit(moveStart(step), false);
        else if (step !== 0 && event.shiftKey) onEdit(moveEnd(step), false);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {!plain && (
        <>
          <polygon points={`${x0 - rampIn * per},${y + BAR} ${x0},${y} ${x0},${y + BAR}`} fill={color} opacity={0.16} />
          <polygon points={`${x1},${y} ${x1 + rampOut * per},${y + BAR} ${x1},${y + BAR}`} fill={color} opacity={0.16} />
        </>
      )}
      <rect x={x0} y={y} width={Math.max(2, wide)} height={BAR} fill="var(--moss)" stroke={picked ? "var(--cobalt)" : color} strokeWidth={picked ? 2.5 : 1.3} />
      {course &&
        Array.from({ length: cells }, (_, i) => {
          const from = Math.floor((i * course.length) / cells);
          const to = Math.max(from + 1, Math.floor(((i + 1) * course.length) / cells));
          let worst = 0;
          for (let f = from; f < to; f++) worst = Math.max(worst, course[f]);
          const share = Math.min(1, worst / WORST);
          return share < 0.06 ? null : (
            <rect
              key={i}
              x={x0 + (i * wide) / cells}
              y={y + 0.7}
              width={wide / cells + 0.3}
              height={BAR - 1.4}
              fill="var(--coral)"
              opacity={share}
              pointerEvents="none"
            />
          );
        })}
      {side === "right" && <rect x={x0} y={y} width={Math.max(2, wide)} height={BAR} fill="url(#hatch)" pointerEvents="none" />}
      {contact.origin === "set" && <circle cx={x0 + 5} cy={y + BAR / 2} r={2} fill="var(--sheet)" pointerEvents="none" />}
      {slide !== undefined && slide >= 0.5 && wide > 46 && (
        <text
          x={(x0 + x1) / 2}
          y={y + 11.5}
          textAnchor="middle"
          fontSize={11}
          fontWeight={600}
          fill="#fff"
          pointerEvents="none"
          style={{ paintOrder: "stroke", stroke: "rgb(30 20 10 / 0.55)", strokeWidth: 2.5 }}
        >
          {slide.toFixed(1)} cm
        </text>
      )}
      {!plain && contact.of === undefined && (
        <>
          <rect data-handle="start" x={x0 - 3} {...end} {...drag(moveStart)} />
          <rect data-handle="end" x={x1 - 4} {...end} {...drag(moveEnd)} />
        </>
      )}
      {picked && contact.of === undefined && (
        <>
          <circle
            data-handle="rampIn"
            cx={x0 - rampIn * per}
            cy={y + BAR - 2}
            r={4}
            fill="var(--sheet)"
            stroke="var(--cobalt)"
            strokeWidth={1.6}
            className="cursor-ew-resize touch-none"
            {...drag((n) => ({ rampIn: Math.max(0, rampIn - n) }))}
          />
          <circle
            data-handle="rampOut"
            cx={x1 + rampOut * per}
            cy={y + BAR - 2}
            r={4}
            fill="var(--sheet)"
            stroke="var(--cobalt)"
            strokeWidth={1.6}
            className="cursor-ew-resize touch-none"
            {...drag((n) => ({ rampOut: Math.max(0, rampOut + n) }))}
          />
        </>
      )}
    </g>
  );
}
