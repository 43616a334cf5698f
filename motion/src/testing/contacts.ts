import type { Contact } from "../contacts/contact.ts";

/** A contact as it is found on the ground: settling, with the plant's ramps, not anchored yet; but for what is said. */
export function foundContact(point: string, start: number, end: number, rest: Partial<Contact> = {}): Contact {
  return {
    point,
    joint: 0,
    start,
    end,
    on: "ground",
    anchor: { mode: "settle", point: null },
    rampIn: null,
    rampOut: null,
    origin: "found",
    ...rest,
  };
}
