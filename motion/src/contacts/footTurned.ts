import type { Sole } from "../character/soles.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { median } from "../signal/robust.ts";

type Span = readonly [number, number];

/** A ground's slopes along x and z, tangents. */
export interface Slopes {
  readonly slopeX: number;
  readonly slopeZ: number;
}

/** A foot that is so much further turned than where it comes down flattest has not come down on its part yet, or has left it, metres for a leg of 0.9 m; in stands that are so short, and so near to an end of the clip, seconds. */
const IN_AIR = 0.006;
const FEW_SECONDS = 0.3;
const NEAR_ENDS = 0.05;

/** How much higher a foot's heel is than its toe over a span, seen from the ground, metres: where its heel is is only estimated, how the foot is turned is not. 0 for what is no foot. */
export function heelUp({ track, along }: Sole, [start, end]: Span, { slopeX, slopeZ }: Slopes): number {
  if (!along) return 0;
  const v = new Float64Array(3);
  const drops = new Float64Array(end - start + 1);
  for (let f = start; f <= end; f++) {
    rotateVecFlat(v, 0, track.rotations, f * 4, along, 0);
    drops[f - start] = slopeX * v[0] + slopeZ * v[2] - v[1];
  }
  return median(drops);
}

/** How much higher a foot's heel is than its toe where it has come down flattest: early in some spans of its toe, or late in some of its heel; null where there is no foot, or no span. */
export function flattest(sole: Sole, spans: readonly Span[], part: "heel" | "toe", slopes: Slopes): number | null {
  if (!sole.along || spans.length === 0) return null;
  const ups = spans.map(([start, end]) => {
    const third = Math.floor((end - start) / 3);
    return heelUp(sole, part === "toe" ? [start, start + third] : [end - third, end], slopes);
  });
  return part === "toe" ? Math.min(...ups) : Math.max(...ups);
}

/**
 * A span of one `part` that the clip's first or last frame cuts, without frames at its ends on which the foot is still coming down on the part, or has rolled off it: it is turned further off how it
 * lies flattest (`flat`). Null if that is most of it. Longer spans, and whole ones, tell by themselves.
 */
export function downOn(sole: Sole, [start, end]: Span, part: "heel" | "toe", flat: number, fps: number, slopes: Slopes): Span | null {
  const near = Math.round(NEAR_ENDS * fps);
  const whole = start > near && end < sole.track.frameCount - 1 - near;
  if (whole || end - start > FEW_SECONDS * fps) return [start, end];
  const inAir = (f: number) => (part === "toe" ? -1 : 1) * (heelUp(sole, [f, f], slopes) - flat) > IN_AIR * (sole.legLength / 0.9);
  let [a, b] = [start, end];
  while (a <= b && inAir(a)) a++;
  while (b > a && inAir(b)) b--;
  return (b - a + 1) * 2 > end - start + 1 ? [a, b] : null;
}
