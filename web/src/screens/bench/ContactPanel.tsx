import { type ContactEdit, pointLabel, TOLERANCE } from "@stride/motion";
import { change, useBench } from "../../state/bench.ts";
import { sourceFrameOf, sourceMomentOf } from "../../state/times.ts";
import { editOf, sourceSpan, withoutEdit, withoutSpan, withSpan } from "../../timedesk/contactEdits.ts";
import { Button } from "../../ui/Button.tsx";
import { Segmented } from "../../ui/Segmented.tsx";

/** Longest ramp that can be typed, seconds. */
const LONGEST_RAMP = 20;

const SURFACES = [
  { value: "auto", label: "as found" },
  { value: "ground", label: "the ground" },
  { value: "place", label: "its own height" },
] as const;

/** The span that is picked on the footfall chart: its frames, what it rests on and where, its ramps. */
export function ContactPanel() {
  const picked = useBench((s) => s.contact);
  const after = useBench((s) => s.after);
  const before = useBench((s) => s.before);
  const clocks = useBench((s) => s.clocks);
  const figures = useBench((s) => s.figures);
  const doc = useBench((s) => s.doc);
  const contact = after?.contacts.find((c) => picked && c.point === picked.point && c.start === picked.start);
  if (!contact || !after || !before) return null;
  const source = sourceSpan(clocks, contact, before.contacts);
  const edit = editOf(doc, source);
  const label = pointLabel(contact.point);
  const was = figures?.before.spans.find((s) => s.contact.point === contact.point && s.contact.start === Math.round(source.start * clocks.fps));
  const now = figures?.after.spans.find((s) => s.contact.point === contact.point && s.contact.start === contact.start);
  const set = (part: Partial<ContactEdit>) => change(`Change ${label.toLowerCase()} contact`, (d) => withSpan(d, source, part));
  const setSpan = (start: number, end: number) => {
    set({
      ...(start !== contact.start && { start: sourceMomentOf(clocks, start) }),
      ...(end !== contact.end && { end: sourceMomentOf(clocks, end) }),
    });
    useBench.setState({ contact: { point: contact.point, start, end } });
  };
  const frame = (name: string, value: number, apply: (v: number) => void) => (
    <label className="text-xs text-ink-soft">
      {name}
      <input
        type="number"
        min={0}
        max={after.frameCount - 1}
        key={value}
        defaultValue={value}
        className="figure w-full rounded-sm border border-line bg-sheet px-1 text-ink"
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        onBlur={(event) => {
          const v = Math.round(Number(event.target.value));
          if (Number.isFinite(v) && v >= 0 && v !== value) apply(v);
        }}
      />
    </label>
  );
  const sourceFrame = sourceFrameOf(clocks, contact.start);
  return (
    <section aria-label="Selected contact" className="mt-3 border-t border-line pt-2.5">
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
        {frame("from", contact.start, (v) => setSpan(Math.min(v, contact.end - 1), contact.end))}
        {frame("to", contact.end, (v) => setSpan(contact.start, Math.min(after.frameCount - 1, Math.max(v, contact.start + 1))))}
        {frame("landing", contact.landing, (v) => set({ rampIn: Math.min(LONGEST_RAMP, v / clocks.fps) }))}
        {frame("lift", contact.lift, (v) => set({ rampOut: Math.min(LONGEST_RAMP, v / clocks.fps) }))}
      </div>
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
