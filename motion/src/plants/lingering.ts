import type { Contact } from "../contacts/contact.ts";
import type { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint, plainAway, restlessness } from "../contacts/segment.ts";
import { median } from "../signal/robust.ts";

/** A part nearer to its place than so many deviations of its trembling may rest there still … */
const HIDDEN_SIGMAS = 3.5;
/** … and is held if its steadied leg would take it further than this in that frame, metres, but not faster than that, m/s: what goes faster has left. */
const TAKEN_ALONG = 0.006;
const HAS_LEFT = 0.78;
/** … or where its leg would be taken so much further than the part came. */
const FURTHER = 1.5;
/** … unless it came so much nearer to its place than to where the steadied leg has it: then it has not, whatever is thought of its end. */
const CLEARLY = 0.6;
const CLEARLY_SIGMAS = 5;
/** Where it rests is read off so much of its span, seconds. */
const READ_OVER = 0.2;

/**
 * Found contacts of parts that tremble, each held for a frame more at those ends of which it is doubtful whether the part rests beyond them, and which nothing in its course as it came
 * (`raw`) contradicts: a steadied leg goes slowly about a landing or a lift, and would take a part along that has not left yet. So are they where their course says so clearly.
 */
export function withLingering(contacts: readonly Contact[], raw: PointTracks, steadied: PointTracks, fps: number): Contact[] {
  const stirring = usualStirs(contacts, raw);
  return contacts.map((contact) => {
    const { point, start, end, doubtful, on } = contact;
    const course = doubtful && typeof on !== "object" ? raw.bearing(point) : undefined;
    const smooth = course && steadied.bearing(point);
    if (!course || !smooth || !doubtful) return contact;
    const away = plainAway(course, 0);
    // A few frames say little of how much a part trembles.
    const stirs = Math.max(restlessness(course, [start, end], away), stirring.get(point) ?? 0);
    const read = Math.round(READ_OVER * fps);
    const lingers = (edge: number, beyond: number, from: number, to: number, doubted: boolean) => {
      const free =
        beyond >= 0 && beyond * 3 < course.length && !contacts.some((c) => c !== contact && c.point === point && beyond >= c.start - 2 && beyond <= c.end + 2);
      const off = free ? away(beyond, middlePoint(course, from, to)) : Number.POSITIVE_INFINITY;
      const taken = Math.hypot(...[0, 1, 2].map((i) => smooth[beyond * 3 + i] - smooth[edge * 3 + i]));
      const apart = Math.hypot(...[0, 1, 2].map((i) => smooth[beyond * 3 + i] - course[beyond * 3 + i]));
      const hidden = doubted && off <= HIDDEN_SIGMAS * stirs && (taken < HAS_LEFT / fps || taken > FURTHER * off);
      return taken > TAKEN_ALONG && (hidden || (off <= CLEARLY_SIGMAS * stirs && off < CLEARLY * apart)) ? 1 : 0;
    };
    const linger = [
      lingers(start, start - 1, start, Math.min(end, start + read), doubtful[0] > 0),
      lingers(end, end + 1, Math.max(start, end - read), end, doubtful[1] > 0),
    ] as const;
    return linger[0] + linger[1] > 0 ? { ...contact, linger } : contact;
  });
}

/** How much each part stirs where it rests, metres: in half of its found contacts less, in half of them more. */
function usualStirs(contacts: readonly Contact[], raw: PointTracks): Map<string, number> {
  const all = new Map<string, number[]>();
  for (const { point, start, end, doubtful, on } of contacts) {
    const course = doubtful && typeof on !== "object" ? raw.bearing(point) : undefined;
    if (course) all.set(point, [...(all.get(point) ?? []), restlessness(course, [start, end], plainAway(course, 0))]);
  }
  return new Map([...all].map(([point, stirs]) => [point, median(stirs)]));
}
