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
  /** does it come to rest so softly that it has hardly moved, once it has come or before it goes? */
  readonly soft: boolean;
}

/** Spans of parts with their ends told by all that there is to go by: where noise hides them, by those of all stands of the part, and by how feet are turned. */
export function toldEnds(parts: readonly PartSpans[], fps: number, most: MostMoved): Map<string, readonly PooledSpan[]> {
  const told = new Map(
    parts.map(({ sole, id, spans, course, noise, hidden, soft }): [string, readonly PooledSpan[]] => {
      const own = spans.map(([start, end]): PooledSpan => ({ start, end, doubtful: [0, 0] }));
      if (!hidden && !soft) return [id, own];
      const pooled = pooledEnds(spans, { course, noise, fps, legLength: sole.legLength }, most);
      return [id, hidden ? pooled : own.map((span, i) => ({ ...span, start: Math.min(span.start, pooled[i].start), end: Math.max(span.end, pooled[i].end) }))];
    }),
  );
  const hides = new Set(parts.filter((part) => part.hidden).map((part) => part.id));
  for (const sole of new Set(parts.filter(({ sole, hidden }) => hidden && sole.points.length > 1).map((part) => part.sole))) {
    const [heel, toe] = sole.points.map((p) => p.id);
    const { heels, toes } = flatEnds({ sole, heels: told.get(heel) ?? [], toes: told.get(toe) ?? [] }, fps, most);
    for (const [id, spans] of [
      [heel, heels],
      [toe, toes],
    ] as const)
      told.set(id, hides.has(id) ? spans : nearby(told.get(id) ?? [], spans, Math.max(1, Math.round(NEARBY * fps))));
  }
  return told;
}

/** An end that a part shows by itself is told by how its foot turns only within so many seconds, or a frame: where it is a hair from its place, before it comes to it. */
const NEARBY = 0.02;

/** Spans with those ends of others that are at most so many frames from theirs. */
function nearby(own: readonly PooledSpan[], others: readonly PooledSpan[], most: number): PooledSpan[] {
  const near = (a: number, b: number) => (Math.abs(a - b) <= most ? b : a);
  return own.map((span, i) => ({ ...span, start: near(span.start, others[i].start), end: near(span.end, others[i].end) }));
}
