import { type ContactEdit, pointLabel, TOLERANCE } from "@stride/motion";
import { useEffect, useRef } from "react";
import { change, useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { sourceFrameOf, sourceMomentOf } from "../../state/times.ts";
import { editOf, sourceSpan, withoutEdit, withoutSpan, withSpan } from "../../timedesk/contactEdits.ts";
import { Button } from "../../ui/Button.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { pointHeight } from "./pointHeight.ts";

/** Longest ramp that can be typed, seconds. */
const LONGEST_RAMP = 20;
/** Lowest and highest that a part can be held over the ground, cm. */
const HEIGHTS = [-300, 1000] as const;

const SURFACES = [
  { value: "auto", label: "found" },
  { value: "ground", label: "ground" },
  { value: "place", label: "own height" },
] as const;

/** The span that is picked on the footfall chart: its frames, what it rests on and where, its height, its ramps, and how its foot is held. */
export function ContactPanel() {
  const picked = useBench((s) => s.contact);
  const after = useBench((s) => s.after);
  const before = useBench((s) => s.before);
  const clocks = useBench((s) => s.clocks);
  const figures = useBench((s) => s.figures);
  const doc = useBench((s) => s.doc);
  const points = useBench((s) => s.character?.points);
  const contact = after?.contacts.find((c) => picked && c.point === picked.point && c.start === picked.start);
  const point = points?.find((p) => p.id === contact?.point);
  const panel = useRef<HTMLElement>(null);
  const shown = contact ? `${contact.point}@${contact.start}` : null;
  useEffect(() => {
    // Settings above it may fill the panel.
    if (shown) panel.current?.scrollIntoView({ block: "nearest" });
  }, [shown]);
  if (!contact || !after || !before || !points || !point) return null;
  if (contact.of !== undefined)
    return (
      <section ref={panel} aria-label="Contact" className="mt-3 border-t border-line pt-2">
        <h2 className="font-semibold">
          {pointLabel(contact.point)}, f {contact.start}–{contact.end}
        </h2>
        <p className="pt-1 text-xs text-ink-soft">It came with “{contact.of}”: it is changed in a work on that clip, whose result can be drawn on instead.</p>
      </section>
    );
  const source = sourceSpan(clocks, contact, before.contacts);
  const edit = editOf(doc, source);
  const label = pointLabel(contact.point);
  const was = figures?.before.spans.find((s) => s.contact.point === contact.point && s.contact.start === Math.round(source.start * clocks.fps));
  const now = figures?.after.spans.find((s) => s.contact.point === contact.point && s.contact.start === contact.start);
  const set = (part: Partial<ContactEdit>, what = `Change ${label.toLowerCase()} contact`) => change(what, (d) => withSpan(d, source, part));
  const setSpan = (start: number, end: number) => {
    set({
      ...(start !== contact.start && { start: sourceMomentOf(clocks, start) }),
      ...(end !== contact.end && { end: sourceMomentOf(clocks, end) }),
    });
    useBench.setState({ contact: { point: contact.point, start, end } });
  };
  const last = after.frameCount - 1;
  const numbers = [
    { label: "from", value: contact.start, apply: (v: number) => setSpan(Math.min(v, contact.end - 1), contact.end) },
    { label: "to", value: contact.end, apply: (v: number) => setSpan(contact.start, Math.max(v, contact.start + 1)) },
    { label: "landing", value: contact.landing, apply: (v: number) => set({ rampIn: Math.min(LONGEST_RAMP, v / clocks.fps) }) },
    { label: "lift", value: contact.lift, apply: (v: number) => set({ rampOut: Math.min(LONGEST_RAMP, v / clocks.fps) }) },
  ];
  const isFoot = point.limb >= 0 && points.some((p) => p.id !== point.id && p.limb === point.limb);
  const sourceFrame = sourceFrameOf(clocks, contact.start);
  return (
    <section ref={panel} aria-label="Selected contact" className="mt-3 border-t border-line pt-2.5">
      <header className="flex items-baseline justify-between pb-1.5">
        <h3 className="font-semibold">{label}</h3>
        <span className="text-xs text-ink-soft" title={sourceFrame === contact.start ? undefined : `Frame ${sourceFrame} of the source`}>
          {contact.origin === "set" ? "set by hand" : "found"}, f {contact.start}–{contact.end}
        </span>
      </header>
      <p className="figure pb-1.5">
        slide {was ? `${was.slideCm.toFixed(1)} → ` : ""}
        <b className={now && now.slideCm > TOLERANCE.slideCm ? "text-coral-ink" : "text-moss-ink"}>{now ? `${now.slideCm.toFixed(1)} cm` : "…"}</b>
      </p>
      <div className="flex items-center justify-between pb-1.5">
        <span>Rests</span>
        <Segmented
          small
          label="Where it rests"
          value={contact.anchor.mode === "set" ? "settle" : contact.anchor.mode}
          options={[
            { value: "settle", label: "where it settles" },
            { value: "first", label: "first" },
            { value: "last", label: "last" },
          ]}
          onChange={(rests) => set({ rests, ...(rests !== "settle" && { anchor: null }) })}
        />
      </div>
      <div className="flex items-center justify-between pb-1.5">
        <span title="What lies under it: the ground, or something of its own height, such as a step or a rail">On</span>
        <Segmented
          small
          label="What it rests on"
          value={edit?.on === "ground" || edit?.on === "place" ? edit.on : "auto"}
          options={SURFACES}
          onChange={(on) => set({ on: on === "auto" ? null : on })}
        />
      </div>
      <div className="grid grid-cols-4 gap-1.5 pb-2">
        {numbers.map((n) => (
          <NumberBox key={n.label} label={n.label} value={n.value} min={0} max={last} onCommit={n.apply} />
        ))}
      </div>
      <div className="flex items-end gap-1.5 pb-2">
        <div className="w-20">
          <NumberBox
            label="height cm"
            title="Over the ground, exactly, all through the contact; 0 rests on it"
            value={100 * (contact.height ?? 0)}
            min={HEIGHTS[0]}
            max={HEIGHTS[1]}
            decimals={1}
            onCommit={(cm) => set({ height: cm / 100 }, `Height of ${label.toLowerCase()}`)}
          />
        </div>
        <Button
          className="h-6! flex-1 px-1! text-xs"
          title="Forgets where it rested: from now on it is exactly as high as it is at the playhead, all through the contact"
          onClick={() => {
            const height = Math.round(pointHeight(after, point, playhead.frame) * 1e4) / 1e4;
            set({ height, anchor: null, rests: "settle" }, `Clear and set height of ${label.toLowerCase()}`);
          }}
        >
          Clear and set height here
        </Button>
      </div>
      {isFoot && (
        <div className="flex items-end justify-between gap-1.5 pb-2">
          <label className="flex items-center gap-1.5" title="The leg hangs from it: the other end of the foot is free to lift meanwhile">
            <input
              type="checkbox"
              className="accent-[var(--ink)]"
              checked={edit?.leads ?? false}
              onChange={(event) => set({ leads: event.target.checked }, `Lead by ${label.toLowerCase()}`)}
            />
            leads the foot
          </label>
          <div className="w-24">
            <NumberBox
              label={contact.flat === undefined ? "flat % (as plant)" : "laid flat %"}
              title="How far the foot is turned onto the ground before it is held; unless said here, as the plant says"
              value={100 * (contact.flat ?? 0)}
              min={0}
              max={100}
              onCommit={(v) => set({ flat: v / 100 }, `Lay ${label.toLowerCase()} flat`)}
            />
          </div>
        </div>
      )}
      <div className="flex gap-2">
        <Button
          className="h-7!"
          onClick={() => {
            change(`Remove ${label.toLowerCase()} contact`, (d) => withoutSpan(d, source));
            useBench.setState({ contact: null });
          }}
        >
          Remove contact
        </Button>
        {contact.origin === "set" && (
          <Button
            tone="quiet"
            className="h-7!"
            onClick={() => {
              change(`Forget the edit of ${label.toLowerCase()}`, (d) => withoutEdit(d, source));
              useBench.setState({ contact: null });
            }}
          >
            Back to found
          </Button>
        )}
      </div>
    </section>
  );
}
