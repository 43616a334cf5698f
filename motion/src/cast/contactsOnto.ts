import type { Contact } from "../contacts/contact.ts";
import type { Motion } from "../motion.ts";

/** Contacts of points that both bodies have; where they rest is found anew. */
export function contactsOnto(source: Motion, like: Motion, partner: Int16Array): Contact[] {
  const points = new Map(like.points.map((p) => [p.id, p]));
  return source.contacts.flatMap((contact): Contact[] => {
    const point = points.get(contact.point);
    if (!point) return [];
    const on = typeof contact.on === "object" ? { joint: partner.indexOf(contact.on.joint) } : contact.on;
    if (typeof on === "object" && on.joint < 0) return [];
    return [{ ...contact, joint: point.named, on, anchor: { mode: contact.anchor.mode === "set" ? "settle" : contact.anchor.mode, point: null } }];
  });
}
