import { BIPED_PARTS, type Contact, type ContactPart, partLabel, QUADRUPED_PARTS, RAMP_RATE_FPS, type Work } from "@stride/motion";
import { useMemo } from "react";
import { change, preview, shownDoc, useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";
import { editOf, withoutSpan, withSpan } from "./contactEdits.ts";
import { dragFrames, NAMES, useScale } from "./scale.ts";

const ROW = 22;
const BAR = 15;
/** Slide at which a bar is fully coral, cm. */
const WORST = 1;
const CELLS = 24;

/** Contacts over time, a row a part. Bars are shaded by slide along their length; their ends and slopes can be dragged. */
export function Footfall() {
  const after = useBench((s) => s.after);
  const plan = useBench((s) => s.body?.plan ?? "biped");
  const figures = useBench((s) => s.figures);
  const picked = useBench((s) => s.contact);
  const doc = useBench(shownDoc);
  const scale = useScale();
  const parts: readonly ContactPart[] =
    plan === "quadruped" ? QUADRUPED_PARTS : BIPED_PARTS.filter((p) => !p.endsWith("Hand") || after?.contacts.some((c) => c.part === p));
  const ramps = useMemo(() => plantRamps(doc, after?.fps ?? 30), [doc, after?.fps]);
  if (!after) return null;
  const offset = after.sourceStart;
  const source = (c: Contact): Contact => ({ ...c, start: c.start + offset, end: c.end + offset });
  const pick = (c: Contact) => useBench.setState({ contact: { part: c.part, start: c.start, end: c.end }, findingId: null });

  const addAt = (part: ContactPart, frame: number) => {
    const half = Math.max(2, Math.round(after.fps * 0.15));
    const start = Math.max(0, Math.round(frame) - half);
    const end = Math.min(after.frameCount - 1, Math.round(frame) + half);
    change(`Add ${partLabel(part).toLowerCase()} contact`, (d) => withSpan(d, { part, start: start + offset, end: end + offset, origin: "set" }, {}));
    useBench.setState({ contact: { part, start, end } });
  };
  return (
    <section aria-label="Footfall chart" className="border-b border-line">
      {parts.map((part) => (
        <div key={part} className="flex items-center border-b border-line/50 last:border-b-0" style={{ height: ROW }}>
          <div className="flex shrink-0 items-center gap-2 pl-3.5" style={{ width: NAMES }}>
            <span className={part.startsWith("left") ? "size-2.5 bg-plum" : "size-2.5 border-[1.5px] border-teal"} />
            <span className="flex-1">{partLabel(part)}</span>
            <button
              type="button"
              className="mr-2 size-5 rounded-sm text-ink-soft hover:bg-line/50 hover:text-ink"
              aria-label={`Add a contact of the ${partLabel(part).toLowerCase()} at the playhead`}
              title="Add a contact at the playhead"
              onClick={() => addAt(part, playhead.frame)}
            >
              +
            </button>
          </div>
          <svg
            width={scale.width}
            height={ROW}
            className="block overflow-hidden"
            aria-label={`${partLabel(part)} contacts`}
            onDoubleClick={(event) => {
              if (event.target === event.currentTarget) addAt(part, scale.frame(event.nativeEvent.offsetX));
            }}
          >
            {after.contacts
              .filter((c) => c.part === part && c.end >= scale.from && c.start <= scale.to)
              .map((c) => {
                const span = figures?.after.spans.find((s) => s.contact.part === part && s.contact.start === c.start && s.contact.end === c.end);
                const isPicked = picked?.part === part && picked.start === c.start;
                return (
                  <Bar
                    // The id of a set span stays while it is dragged.
                    key={editOf(doc, part, c.start + offset, c.end + offset)?.id ?? `${c.start}`}
                    contact={c}
                    slide={span?.slideCm}
                    course={span?.course}
                    picked={isPicked}
                    rampIn={c.rampIn ?? ramps.landing}
                    rampOut={c.rampOut ?? ramps.lift}
                    onPick={() => pick(c)}
                    onRemove={() => change(`Remove ${partLabel(part).toLowerCase()} contact`, (d) => withoutSpan(d, source(c)))}
                    onEdit={(part_, live) => {
                      const edit = (d: Work) => withSpan(d, source(c), "start" in part_ || "end" in part_ ? shift(part_, offset) : part_);
                      if (live) preview(edit);
                      else change(`Change ${partLabel(part).toLowerCase()} contact`, edit);
                      if (part_.start !== undefined || part_.end !== undefined)
                        useBench.setState({ contact: { part, start: part_.start ?? c.start, end: part_.end ?? c.end } });
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
}

interface SpanPart {
  readonly start?: number;
  readonly end?: number;
  readonly rampInFrames?: number;
  readonly rampOutFrames?: number;
}

function shift(part: SpanPart, offset: number): SpanPart {
  return { ...(part.start !== undefined && { start: part.start + offset }), ...(part.end !== undefined && { end: part.end + offset }) };
}

function plantRamps(doc: Work, fps: number): { landing: number; lift: number } {
  const settings = doc.patches.findLast((p) => p.kind === "plant" && !p.muted)?.settings;
  const frames = (key: string, standard: number) => Math.round(((settings?.[key] as number | undefined) ?? standard) * (fps / RAMP_RATE_FPS));
  return { landing: frames("landingRampInFrames", 5), lift: frames("liftRampInFrames", 6) };
}

interface BarProps {
  readonly contact: Contact;
  readonly slide: number | undefined;
  readonly course: Float32Array | undefined;
  readonly picked: boolean;
  readonly rampIn: number;
  readonly rampOut: number;
  readonly last: number;
  readonly onPick: () => void;
  readonly onRemove: () => void;
  readonly onEdit: (part: SpanPart, live: boolean) => void;
}

function Bar({ contact, slide, course, picked, rampIn, rampOut, last, onPick, onRemove, onEdit }: BarProps) {
  const scale = useScale();
  const left = contact.part.startsWith("left");
  const x0 = scale.x(contact.start);
  const x1 = scale.x(contact.end + 1);
  const y = (ROW - BAR) / 2;
  const color = left ? "var(--plum)" : "var(--teal)";
  const per = scale.x(1) - scale.x(0);
  const drag = (event: React.PointerEvent, toPart: (frames: number) => SpanPart) => {
    onPick();
    dragFrames(
      event,
      scale,
      (frames) => onEdit(toPart(frames), true),
      (frames) => {
        if (frames === null) useBench.setState({ draft: null });
        else if (frames !== 0) onEdit(toPart(frames), false);
      },
    );
  };
  const moveStart = (n: number): SpanPart => ({ start: Math.max(0, Math.min(contact.end - 1, contact.start + n)) });
  const moveEnd = (n: number): SpanPart => ({ end: Math.min(last, Math.max(contact.start + 1, contact.end + n)) });
  const wide = x1 - x0;
  const cells = Math.max(1, Math.min(CELLS, contact.end - contact.start + 1, Math.floor(wide / 5)));
  return (
    // biome-ignore lint/a11y/useSemanticElements: a shape in a drawing cannot be a button element
    <g
      role="button"
      tabIndex={0}
      aria-pressed={picked}
      aria-label={`${partLabel(contact.part)}, frames ${contact.start} to ${contact.end}${slide === undefined ? "" : `, slides ${slide.toFixed(1)} cm`}${contact.origin === "set" ? ", set by hand" : ""}`}
      data-contact={`${contact.part}:${contact.start}-${contact.end}`}
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
      <polygon points={`${x0 - rampIn * per},${y + BAR} ${x0},${y} ${x0},${y + BAR}`} fill={color} opacity={0.16} />
      <polygon points={`${x1},${y} ${x1 + rampOut * per},${y + BAR} ${x1},${y + BAR}`} fill={color} opacity={0.16} />
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
      {!left && <rect x={x0} y={y} width={Math.max(2, wide)} height={BAR} fill="url(#hatch)" pointerEvents="none" />}
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
      <rect
        data-handle="start"
        x={x0 - 3}
        y={y - 1}
        width={7}
        height={BAR + 2}
        fill={picked ? "var(--cobalt)" : "transparent"}
        rx={1.5}
        className="cursor-ew-resize"
        onPointerDown={(e) => drag(e, moveStart)}
      />
      <rect
        data-handle="end"
        x={x1 - 4}
        y={y - 1}
        width={7}
        height={BAR + 2}
        fill={picked ? "var(--cobalt)" : "transparent"}
        rx={1.5}
        className="cursor-ew-resize"
        onPointerDown={(e) => drag(e, moveEnd)}
      />
      {picked && (
        <>
          <circle
            data-handle="rampIn"
            cx={x0 - rampIn * per}
            cy={y + BAR - 2}
            r={4}
            fill="var(--sheet)"
            stroke="var(--cobalt)"
            strokeWidth={1.6}
            className="cursor-ew-resize"
            onPointerDown={(e) => drag(e, (n) => ({ rampInFrames: Math.max(0, rampIn - n) }))}
          />
          <circle
            data-handle="rampOut"
            cx={x1 + rampOut * per}
            cy={y + BAR - 2}
            r={4}
            fill="var(--sheet)"
            stroke="var(--cobalt)"
            strokeWidth={1.6}
            className="cursor-ew-resize"
            onPointerDown={(e) => drag(e, (n) => ({ rampOutFrames: Math.max(0, rampOut + n) }))}
          />
        </>
      )}
    </g>
  );
}
