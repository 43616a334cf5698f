import { findPart, type PartRef, type Parts, partOf } from "../character/parts.ts";
import { contactEditSchema } from "../contacts/contact.ts";
import { patchKind } from "../patches/index.ts";
import { mapMarked } from "./marked.ts";
import { type Patch, patchSchema } from "./patch.ts";
import type { Work } from "./work.ts";

/**
 * The work with every part named as a body's map names it: by role where it has one. Older works and those written by hand name joints; both mean
 * the same joint, and whoever looks for a part's keys or holds has to find them. Names that the body lacks stay.
 */
export function namedByBody(work: Work, parts: Parts): Work {
  const name = (value: unknown): unknown => {
    const joint = findPart(parts, value as PartRef);
    return joint === undefined ? value : partOf(parts, joint);
  };
  const isPart = (meta: Record<string, unknown>) => meta.field === "part";
  return {
    ...work,
    patches: work.patches.map((patch) => {
      const kind = patchKind(patch.kind);
      const { settings, ...rest } = patch;
      const frame = mapMarked(patchSchema.omit({ settings: true }), rest, isPart, name) as Omit<Patch, "settings">;
      return { ...frame, settings: (kind ? mapMarked(kind.schema, settings, isPart, name) : settings) as Patch["settings"] };
    }),
    contacts: work.contacts.map((contact) => mapMarked(contactEditSchema, contact, isPart, name) as typeof contact),
  };
}
