import { moveBody } from "../clip/roots.ts";
import type { Contact } from "../contacts/contact.ts";
import { findContacts } from "../contacts/find.ts";
import { passingGround } from "../contacts/onTheSpot.ts";
import { PointTracks, showsTravel } from "../contacts/pointTracks.ts";
import type { Motion } from "../motion.ts";

/** How much of a contact's ends counts less: what a foot does there may already be swing, seconds. */
const EDGE_SECONDS = 0.1;

/**
 * A motion on the spot with the travel that its feet in stance ask for: what rests is looked for with the passing ground taken along, and the body then goes, frame by
 * frame, as its resting feet would otherwise slip; through flights at the speed on both sides. Contacts and ground are those found so; what a person set stays.
 */
export function travelFromFeet(motion: Motion, pause: () => void): Motion {
  const { character, clip } = motion;
  const { fps } = clip;
  const { velocity: ground } = passingGround(new PointTracks(character.skeleton, clip, motion.points));
  const along = moveBody(character.skeleton, clip, (f) => ({ shift: [(-ground[0] * f) / fps, 0, (-ground[1] * f) / fps], turn: null }));
  const found = findContacts(character, along, "stillGround", pause);
  const set = motion.contacts.filter((c) => c.origin === "set");
  const contacts = [...set, ...found.contacts.filter((c) => !set.some((s) => s.point === c.point && s.start <= c.end && s.end >= c.start))];
  const way = standingWay({ ...motion, clip: along, points: found.points }, contacts);
  const moved = moveBody(character.skeleton, along, (f) => ({ shift: [way[f * 2], 0, way[f * 2 + 1]], turn: null }));
  return {
    ...motion,
    clip: moved,
    contacts: [...contacts].sort((a, b) => a.start - b.start || a.point.localeCompare(b.point)),
    points: found.points,
    ground: motion.support.byFeet ? motion.ground : found.ground,
    support: { ...found.support, said: motion.support.said, passing: motion.support.passing },
    groundTravel: null,
    settled: null,
  };
}

/** How far the body has to go by each frame [frame][2] so that what rests does not slip, metres. */
function standingWay(motion: Motion, contacts: readonly Contact[]): Float64Array {
  const { fps, frameCount } = motion.clip;
  const tracks = new PointTracks(motion.character.skeleton, motion.clip, motion.points);
  const steps = new Float64Array(frameCount * 2);
  const weights = new Float64Array(frameCount);
  const edge = Math.max(1, EDGE_SECONDS * fps);
  for (const contact of contacts) {
    const course = showsTravel(motion.points, contact.point) ? tracks.course(contact.point) : undefined;
    if (!course) continue;
    // From one frame to the next, so that a foot alone in stance does not slip at all.
    for (let f = contact.start; f < contact.end; f++) {
      const inside = Math.min(1, (Math.min(f - contact.start, contact.end - 1 - f) + 0.5) / edge);
      const w = inside ** 4;
      weights[f] += w;
      for (const axis of [0, 1]) steps[f * 2 + axis] += w * (course[(f + 1) * 3 + axis * 2] - course[f * 3 + axis * 2]);
    }
  }
  const out = new Float64Array(frameCount * 2);
  for (const axis of [0, 1]) {
    let last = -1;
    const step = new Float64Array(frameCount);
    for (let f = 0; f < frameCount; f++) {
      if (weights[f] === 0) continue;
      step[f] = steps[f * 2 + axis] / weights[f];
      for (let g = last + 1; g < f; g++) step[g] = last < 0 ? step[f] : step[last] + ((step[f] - step[last]) * (g - last)) / (f - last);
      last = f;
    }
    if (last >= 0) step.fill(step[last], last + 1);
    for (let f = 1; f < frameCount; f++) out[f * 2 + axis] = out[(f - 1) * 2 + axis] - step[f - 1];
  }
  return out;
}
