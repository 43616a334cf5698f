import type { z } from "zod";
import { patchKind } from "../patches/index.ts";
import { mapMarked } from "./marked.ts";
import { type Patch, patchSchema } from "./patch.ts";

/** A value with every moment in it mapped, moments being the fields that its schema marks so (`timed`). */
export function mapMoments(schema: z.ZodType, value: unknown, map: (moment: number) => number): unknown {
  return mapMarked(
    schema,
    value,
    (meta) => meta.moment === true,
    (moment) => (typeof moment === "number" ? map(moment) : moment),
  );
}

/** A patch with every moment in it mapped: its range, and what its kind marks in its settings. Lengths of time stay. */
export function movedPatch(patch: Patch, map: (moment: number) => number): Patch {
  const kind = patchKind(patch.kind);
  const { settings, ...rest } = patch;
  const frame = mapMoments(patchSchema.omit({ settings: true }), rest, map) as Omit<Patch, "settings">;
  return { ...frame, settings: (kind ? mapMoments(kind.schema, settings, map) : settings) as Patch["settings"] };
}
