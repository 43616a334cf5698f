import { isLoose, partOfName } from "../documents/steps.ts";

/** Holds of version 1: joint names become parts. */
export function upgradeHolds1(data: unknown): unknown {
  if (!Array.isArray(data)) return data;
  return data.map((hold: unknown) => {
    if (!isLoose(hold)) return hold;
    const { joint, on, ...rest } = hold;
    return { ...rest, ...(joint !== undefined && { part: partOfName(joint) }), ...(on !== undefined && { on: on === null ? null : partOfName(on) }) };
  });
}
