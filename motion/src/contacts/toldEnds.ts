import type { Sole } from "../character/soles.ts";
import { flatEnds } from "./flatEnds.ts";
import { type PooledSpan, pooledEnds } from "./pooledEnds.ts";
import type { MostMoved } from "./segment.ts";

/** Where a part of a sole rests as it shows by itself, its course with all that is known taken out ([frame][3] metres), and what it trembles by. */
export interface PartSpans {
  readonly sole: Sole;
  readonly id: string;
  readonly spans: readonly (readonly [number, number])[];
  readonly course: Float64Array;
  /** metres an axis, 1 σ */
  readonly noise: number;
  /** does that hide when it comes and goes? */
  readonly hidden: boolean;
}

/** Spans of parts with their ends told by all that there is to go by: where noise hides them, by those of all stands of the part, and by how feet are turned. */
export function toldEnds(parts: readonly PartSpans[], fps: number, most: MostMoved): Map<string, readonly PooledSpan[]> {
  const told = new Map(
    parts.map(({ sole, id, spans, course, noise, hidden }): [string, readonly PooledSpan[]] => [
      id,
      hidden ? pooledEnds(spans, { course, noise, fps, legLength: sole.legLength }, most) : spans.map(([start, end]) => ({ start, end, doubtful: [0, 0] })),
    ]),
  );
  for (const sole of new Set(parts.filter(({ sole, hidden }) => hidden && sole.points.length > 1).map((part) => part.sole))) {
    const [heel, toe] = sole.points.map((p) => p.id);
    const { heels, toes } = flatEnds({ sole, heels: told.get(heel) ?? [], toes: told.get(toe) ?? [] }, fps, most);
    told.set(heel, heels).set(toe, toes);
  }
  return told;
}
