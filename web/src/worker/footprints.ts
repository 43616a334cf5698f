import { groundHeight, type Motion, PointTracks } from "@stride/motion";
import type { Footprint } from "./views.ts";

/** Points that a smear is drawn with at most. */
const SMEAR_POINTS = 60;
/** A print without a heel behind it is so long, metres. */
const HOOF_LENGTH = 0.06;

/** A print per span of a point that bears the body: a toe, a hoof. A heel is the back of its toe's print. */
export function footprints(motion: Motion): Footprint[] {
  const tracks = new PointTracks(motion.character.skeleton, motion.clip, motion.points);
  const prints: Footprint[] = [];
  for (const contact of motion.contacts) {
    const point = tracks.point(contact.point);
    const course = tracks.course(contact.point);
    if (!point?.bears || !point.side || !course || point.id.endsWith("Heel")) continue;
    const middle = Math.round((contact.start + contact.end) / 2);
    const heelPoint = motion.points.find((p) => p.limb === point.limb && p.id !== point.id && p.id.endsWith("Heel"));
    const heel = heelPoint && tracks.course(heelPoint.id);
    const x = course[middle * 3];
    const z = course[middle * 3 + 2];
    const dx = heel ? x - heel[middle * 3] : 0;
    const dz = heel ? z - heel[middle * 3 + 2] : 0;
    const count = contact.end - contact.start + 1;
    const step = Math.ceil(count / SMEAR_POINTS);
    const smear = new Float32Array(Math.ceil(count / step) * 2);
    for (let i = 0; i * 2 < smear.length; i++) {
      const f = contact.start + i * step;
      smear[i * 2] = course[f * 3];
      smear[i * 2 + 1] = course[f * 3 + 2];
    }
    prints.push({
      point: contact.point,
      side: point.side,
      start: contact.start,
      end: contact.end,
      x,
      z,
      rise: riseOf(course[middle * 3 + 1] - point.clearance - groundHeight(motion.ground, x, z)),
      heading: heel ? Math.atan2(dx, dz) : 0,
      length: heel ? Math.hypot(dx, dz) : HOOF_LENGTH,
      smear,
    });
  }
  return prints;
}

/** What lies nearer to the ground than this lies on it, metres. */
const ON_GROUND = 0.05;

function riseOf(over: number): number {
  return Math.abs(over) < ON_GROUND ? 0 : over;
}
