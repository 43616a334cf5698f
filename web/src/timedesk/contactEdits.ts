import { type Clocks, type Contact, type ContactEdit, makeContactEdit, type Work } from "@stride/motion";
import { freshId } from "../state/bench.ts";
import { sourceMomentOf } from "../state/times.ts";

/** Contact edits are kept in seconds of the source, whatever the stack makes of time. */

/** A contact of the result as the source has it: its point, and its whole span there, seconds. */
export interface SourceSpan {
  readonly point: string;
  readonly start: number;
  readonly end: number;
}

/**
 * The span of the source that a contact of the result shows: of the source's own contact where there is one (the result may show only a piece of
 * it), else the moments that its ends show.
 */
export function sourceSpan(
  clocks: Clocks,
  contact: Pick<Contact, "point" | "start" | "end">,
  source: readonly Pick<Contact, "point" | "start" | "end">[],
): SourceSpan {
  const start = sourceMomentOf(clocks, contact.start);
  const end = sourceMomentOf(clocks, contact.end);
  const near = 0.5 / clocks.fps;
  const own = source.find((c) => c.point === contact.point && c.start / clocks.fps <= end + near && c.end / clocks.fps >= start - near);
  return own ? { point: contact.point, start: own.start / clocks.fps, end: own.end / clocks.fps } : { point: contact.point, start, end };
}

function editFrom(span: SourceSpan, kind: ContactEdit["kind"]): ContactEdit {
  return makeContactEdit({ ...span, id: freshId(), kind });
}

/** Lays a set span over whatever is there: over a found contact, or instead of the edit that made this one. */
export function withSpan(doc: Work, span: SourceSpan, change: Partial<ContactEdit>): Work {
  const existing = editOf(doc, span);
  const next = { ...(existing ?? editFrom(span, "span")), ...change };
  return { ...doc, contacts: existing ? doc.contacts.map((e) => (e === existing ? next : e)) : [...doc.contacts, next] };
}

/** Takes a contact away: its edit if a person set it, and a stretch without contact over what detection found there. */
export function withoutSpan(doc: Work, span: SourceSpan): Work {
  const existing = editOf(doc, span);
  return { ...doc, contacts: [...doc.contacts.filter((e) => e !== existing), editFrom(span, "none")] };
}

/** What a person set here is forgotten, and what was found stands again. */
export function withoutEdit(doc: Work, span: SourceSpan): Work {
  const existing = editOf(doc, span);
  return { ...doc, contacts: doc.contacts.filter((e) => e !== existing) };
}

/** The edit that set a span: the newest of its point that overlaps it. */
export function editOf(doc: Work, span: SourceSpan): ContactEdit | undefined {
  return doc.contacts.findLast((e) => e.kind === "span" && e.point === span.point && e.start <= span.end && e.end >= span.start);
}
