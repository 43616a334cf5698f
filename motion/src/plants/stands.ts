import type { Contact } from "../contacts/contact.ts";
import type { LimbEnd } from "./plants.ts";

/** One stand of a limb's end: the frames on which any of its points rests, without a break, and the contacts that make it up. */
export interface StandSpan {
  readonly start: number;
  readonly end: number;
  readonly contacts: readonly Contact[];
}

/** The stands of a limb's end on the ground and on places of their own, in order. */
export function standsOfEnd(end: LimbEnd, contacts: readonly Contact[]): StandSpan[] {
  const own = contacts
    .filter((c) => typeof c.on !== "object" && (end.tip?.id === c.point || end.points.some((p) => p.id === c.point)))
    .sort((a, b) => a.start - b.start);
  const stands: { start: number; end: number; contacts: Contact[] }[] = [];
  for (const contact of own) {
    const last = stands.at(-1);
    if (last && contact.start <= last.end + 1) {
      last.contacts.push(contact);
      last.end = Math.max(last.end, contact.end);
    } else stands.push({ start: contact.start, end: contact.end, contacts: [contact] });
  }
  return stands;
}
