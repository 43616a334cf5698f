import { length3 } from "../math/quat.ts";
import { smoothEnvelope } from "../signal/filters.ts";
import type { EndTargets } from "./footTargets.ts";
import type { LimbCourse } from "./limbCourses.ts";

/** How far a limb is stretched at most, share of its length: all but straight, so that it goes on bending smoothly from there. */
const STRETCHED = 0.998;
/** A fore leg keeps more of a bend: hands that it follows come to the ground with bent elbows, and what jerks in them is thrown about by a leg that is all but straight. */
export const FORE_STRETCHED = 0.98;
/** What is out of reach is let go, and taken up again, within so long, seconds. */
const LET_GO_SECONDS = 0.06;

/**
 * Draws a limb's targets smoothly towards its start where they are further from it than it reaches, or than it is stretched itself: a limb that locks straight within a frame, or unlocks, throws its middle about.
 * Targets of frames near which all are within reach keep their bits.
 */
export function drawWithinReach({ hip, knee, end }: LimbCourse, targets: Pick<EndTargets, "positions">, fps: number, stretched = STRETCHED): void {
  const { positions: p } = targets;
  const lacks = new Float64Array(p.length / 3);
  const apart = (a: Float64Array, b: Float64Array, o: number) => length3(a[o] - b[o], a[o + 1] - b[o + 1], a[o + 2] - b[o + 2]);
  for (let f = 0; f < lacks.length; f++) {
    const o = f * 3;
    const most = Math.max(stretched * (apart(hip, knee, o) + apart(knee, end.positions, o)), apart(hip, end.positions, o));
    lacks[f] = Math.max(0, apart(p, hip, o) - most);
  }
  if (lacks.every((lack) => lack === 0)) return;
  smoothEnvelope(lacks, Math.max(1, Math.round(LET_GO_SECONDS * fps))).forEach((lack, f) => {
    const o = f * 3;
    const away = apart(p, hip, o);
    if (lack === 0 || away === 0) return;
    for (let c = 0; c < 3; c++) p[o + c] += (lack / away) * (hip[o + c] - p[o + c]);
  });
}
