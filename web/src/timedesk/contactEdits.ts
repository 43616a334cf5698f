import type { Contact, ContactEdit, ContactPart, Work } from "@stride/motion";
import { freshId } from "../state/bench.ts";

/** Lays a set span over whatever is there: over a found contact, or instead of the edit that made this one. Frames are the source's. */
export function withSpan(doc: Work, contact: Pick<Contact, "part" | "start" | "end" | "origin">, change: Partial<ContactEdit>): Work {
  const existing = editOf(doc, contact.part, contact.start, contact.end);
  const edit: ContactEdit = existing ?? {
    id: freshId(),
    part: contact.part,
    kind: "span",
    start: contact.start,
    end: contact.end,
    mode: "settle",
    point: null,
    rampInFrames: null,
    rampOutFrames: null,
  };
  const next = { ...edit, ...change };
  return { ...doc, contacts: existing ? doc.contacts.map((e) => (e === existing ? next : e)) : [...doc.contacts, next] };
}

/** Takes a contact away: its edit if a person set it, and a stretch without contact over what detection found there. */
export function withoutSpan(doc: Work, contact: Pick<Contact, "part" | "start" | "end" | "origin">): Work {
  const existing = editOf(doc, contact.part, contact.start, contact.end);
  const rest = doc.contacts.filter((e) => e !== existing);
  return {
    ...doc,
    contacts: [
      ...rest,
      {
        id: freshId(),
        part: contact.part,
        kind: "none",
        start: contact.start,
        end: contact.end,
        mode: "settle",
        point: null,
        rampInFrames: null,
        rampOutFrames: null,
      },
    ],
  };
}

export function editOf(doc: Work, part: ContactPart, start: number, end: number): ContactEdit | undefined {
  return doc.contacts.findLast((e) => e.kind === "span" && e.part === part && e.start === start && e.end === end);
}
