import { length3 } from "../math/quat.ts";
import type { EndTargets } from "../plants/footTargets.ts";
import { foldedReach } from "../plants/hipsDrop.ts";
import type { LimbCourse } from "../plants/limbCourses.ts";

/** A leg is told of when it misses its place by this much, metres, on a frame. */
const MISSES = 0.01;
/** A leg is told of when its end comes nearer than this share of what it does folded up, and nearer than it came. */
const CRAMPED = 0.9;

/** The frames on which a leg cannot do what a ground asks of it, first and last. */
export interface Trouble {
  readonly start: number;
  readonly end: number;
  /** by how much it misses its place at most, metres; 0: it is there, but folded into itself */
  readonly misses: number;
}

/** Where the end of a leg as it stands under its lowered body does not come to its targets, or only folded into itself; null where it can do all. */
export function troubleOf({ hip, knee, end }: LimbCourse, { positions }: Pick<EndTargets, "positions">): Trouble | null {
  const at = { short: span(), folded: span() };
  let misses = 0;
  for (let f = 0; f < end.frameCount; f++) {
    const o = f * 3;
    const apart = (a: Float64Array, b: Float64Array) => length3(a[o] - b[o], a[o + 1] - b[o + 1], a[o + 2] - b[o + 2]);
    const [upper, lower] = [apart(hip, knee), apart(knee, end.positions)];
    const wanted = apart(hip, positions);
    const lacks = wanted - upper - lower;
    misses = Math.max(misses, lacks);
    if (lacks > MISSES) at.short.add(f);
    else if (wanted < CRAMPED * Math.min(foldedReach(upper, lower), apart(hip, end.positions))) at.folded.add(f);
  }
  const [short, folded] = [at.short.found(), at.folded.found()];
  return short ? { ...short, misses } : folded && { ...folded, misses: 0 };
}

function span() {
  let [start, end] = [-1, -1];
  return {
    add: (frame: number) => {
      if (start < 0) start = frame;
      end = frame;
    },
    found: () => (start < 0 ? null : { start, end }),
  };
}

/** What is said of a leg in trouble, by its label. */
export function troubleInWords(label: string, { start, end, misses }: Trouble): string {
  const frames = start === end ? `at frame ${start}` : `between frames ${start} and ${end}`;
  const what = misses > 0 ? `does not reach its place by up to ${Math.round(misses * 100)} cm` : "is folded up as far as a leg goes";
  return `${label} ${what} ${frames}: the ground is too steep for it there; lower it, make its treads longer, or begin it where the legs can follow`;
}
