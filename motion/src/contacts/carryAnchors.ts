import { movePlace, type RigidMove } from "../clip/roots.ts";
import type { Contact } from "./contact.ts";

/** Contacts with the places they rest at carried along by a rigid move of the body: each by the move at its middle. Those on parts ride along by themselves. */
export function carryAnchors(contacts: readonly Contact[], moveAt: (frame: number) => RigidMove | null): Contact[] {
  return contacts.map((contact) => {
    const { point } = contact.anchor;
    const move = point && typeof contact.on !== "object" ? moveAt(Math.round((contact.start + contact.end) / 2)) : null;
    return point && move ? { ...contact, anchor: { ...contact.anchor, point: movePlace(point, move) } } : contact;
  });
}
