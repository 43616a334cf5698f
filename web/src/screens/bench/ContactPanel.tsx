import { type ContactEdit, partLabel } from "@stride/motion";
import { change, useBench } from "../../state/bench.ts";
import { editOf, withoutSpan, withSpan } from "../../timedesk/contactEdits.ts";
import { Button } from "../../ui/Button.tsx";
import { Segmented } from "../../ui/Segmented.tsx";

/** The span that is picked on the footfall chart: its frames, where it rests, its ramps. */
export function ContactPanel() {
  const picked = useBench((s) => s.contact);
  const after = useBench((s) => s.after);
  const figures = useBench((s) => s.figures);
  const contact = after?.contacts.find((c) => picked && c.part === picked.part && c.start === picked.start);
  if (!contact || !after) return null;
  const offset = after.sourceStart;
  const source = { ...contact, start: contact.start + offset, end: contact.end + offset };
  const label = partLabel(contact.part);
  const was = figures?.before.spans.find((s) => s.contact.part === contact.part && s.contact.start === source.start);
  const now = figures?.after.spans.find((s) => s.contact.part === contact.part && s.contact.start === contact.start);
  const set = (part: Partial<ContactEdit>) => {
    change(`Change ${label.toLowerCase()} contact`, (d) => withSpan(d, source, part));
    useBench.setState({ contact: { part: contact.part, start: (part.start ?? source.start) - offset, end: (part.end ?? source.end) - offset } });
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
  return (
    <section aria-label="Selected contact" className="mt-3 border-t border-line pt-2.5">
      <header className="flex items-baseline justify-between pb-1.5">
        <h3 className="font-semibold">{label}</h3>
        <span className="text-xs text-ink-soft">
          {contact.origin === "set" ? "set by hand" : "found"}, f {contact.start}–{contact.end}
        </span>
      </header>
      <p className="figure pb-1.5">
        slide {was ? `${was.slideCm.toFixed(1)} → ` : ""}
        <b className={now && now.slideCm > 0.5 ? "text-coral-ink" : "text-moss-ink"}>{now ? `${now.slideCm.toFixed(1)} cm` : "…"}</b>
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
          onChange={(mode) => set({ mode })}
        />
      </div>
      <div className="grid grid-cols-4 gap-1.5 pb-2">
        {frame("from", contact.start, (v) => set({ start: Math.min(v, contact.end - 1) + offset }))}
        {frame("to", contact.end, (v) => set({ end: Math.max(v, contact.start + 1) + offset }))}
        {frame("landing", contact.rampIn ?? 5, (v) => set({ rampInFrames: Math.min(600, v) }))}
        {frame("lift", contact.rampOut ?? 6, (v) => set({ rampOutFrames: Math.min(600, v) }))}
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
              change(`Forget the edit of ${label.toLowerCase()}`, (d) => ({
                ...d,
                contacts: d.contacts.filter((e) => e !== editOf(d, source.part, source.start, source.end)),
              }));
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
