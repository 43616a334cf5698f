import type { z } from "zod";
import { patchKind } from "../patches/index.ts";
import { SAME_MOMENT } from "../time/warp.ts";
import { mapMarked } from "./marked.ts";
import { LONGEST_RAMP, type Patch } from "./patch.ts";

/** A value with every moment in it mapped, moments being the fields that its schema marks so (`timed`). */
export function mapMoments(schema: z.ZodType, value: unknown, map: (moment: number) => number): unknown {
  return mapMarked(
    schema,
    value,
    (meta) => meta.moment === true,
    (moment) => (typeof moment === "number" ? map(moment) : moment),
  );
}

/**
 * A patch with every moment in it mapped: its range with the ramps beside it, and what its kind marks in its settings. Other lengths of time stay.
 * A ramp keeps its length where its far end comes to lie on the other side of its stretch.
 */
export function movedPatch(patch: Patch, map: (moment: number) => number): Patch {
  const kind = patchKind(patch.kind);
  const { settings, range, ...rest } = patch;
  const moved = range && { start: map(range.start), end: map(range.end) };
  const ramp = (length: number, edge: number, far: number) => {
    const mapped = (map(far) - map(edge)) * Math.sign(far - edge);
    return mapped <= 0 || Math.abs(mapped - length) < SAME_MOMENT ? length : Math.min(LONGEST_RAMP, mapped);
  };
  return {
    ...rest,
    range: moved && { start: Math.min(moved.start, moved.end), end: Math.max(moved.start, moved.end) },
    rampIn: range ? ramp(patch.rampIn, range.start, range.start - patch.rampIn) : patch.rampIn,
    rampOut: range ? ramp(patch.rampOut, range.end, range.end + patch.rampOut) : patch.rampOut,
    settings: kind ? kind.afterMove(settings, mapMoments(kind.schema, settings, map) as Patch["settings"]) : settings,
  };
}
