import { type Contact, keepsHeight } from "../contacts/contact.ts";
import type { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint } from "../contacts/segment.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import type { LimbEnd } from "./plants.ts";
import type { PlantSettings } from "./settings.ts";

/** Rounds of making heel and toe of one foot a sole's length apart. */
const COUPLING_ROUNDS = 40;

/**
 * Decides where each contact rests: the robust middle of its span, its first or its last frame, or the place a person set; on the ground, at
 * its own place, or on the part of the body that it rests on. Heel and toe spans that overlap are one rigid sole, so their anchors are
 * moved, half each (a set one not at all), until they are exactly its length apart.
 */
export function placeAnchors(contacts: readonly Contact[], tracks: PointTracks, ends: readonly LimbEnd[], ground: Ground, settings: PlantSettings): Contact[] {
  const placed = contacts.map((contact) => {
    if (contact.anchor.point && contact.anchor.mode === "set") return contact;
    const course = tracks.spanCourse(contact);
    if (!course) return contact;
    const mode = contact.anchor.mode === "set" || (contact.origin === "found" && contact.anchor.mode === "settle") ? settings.rests : contact.anchor.mode;
    const length = contact.end - contact.start;
    const quarter = mode === "settle" ? Math.floor(length / 4) : 0;
    const point = middlePoint(course, mode === "last" ? length : quarter, mode === "first" ? 0 : length - quarter);
    const resting = tracks.point(contact.point);
    if (onSurface(contact) && !keepsHeight(contact, resting))
      point[1] = groundHeight(ground, point[0], point[2]) + (resting?.clearance ?? 0) + (contact.height ?? 0);
    return { ...contact, anchor: { ...contact.anchor, point } };
  });
  for (const { points } of ends) if (points.length === 2) coupleSole(placed, points, ground);
  return placed;
}

/** Moves the places of heel and toe spans of one sole that overlap until they are its length apart, half each; those that a person set, not at all. */
export function coupleSole(contacts: Contact[], [heel, toe]: LimbEnd["points"], ground: Ground): void {
  const length = Math.hypot(toe.local[0] - heel.local[0], toe.local[1] - heel.local[1], toe.local[2] - heel.local[2]);
  const indices = (id: string) =>
    contacts.flatMap((c, i) => (c.point === id && c.anchor.point && typeof c.on !== "object" ? [i] : [])).sort((a, b) => contacts[a].start - contacts[b].start);
  const toes = indices(toe.id);
  const pairs: (readonly [number, number])[] = [];
  // Spans of one point follow each other: what ends before one heel's span begins ends before the next one's.
  let first = 0;
  for (const h of indices(heel.id)) {
    while (first < toes.length && contacts[toes[first]].end < contacts[h].start) first++;
    for (let k = first; k < toes.length && contacts[toes[k]].start <= contacts[h].end; k++) pairs.push([h, toes[k]]);
  }
  for (let round = 0; round < COUPLING_ROUNDS; round++) {
    let worst = 0;
    for (const [h, t] of pairs) {
      const a = contacts[h].anchor.point;
      const b = contacts[t].anchor.point;
      if (!a || !b) continue;
      const dx = b[0] - a[0];
      const dz = b[2] - a[2];
      const level = Math.sqrt(Math.max(0, length * length - (b[1] - a[1]) ** 2));
      const now = Math.hypot(dx, dz) || 1e-9;
      const error = now - level;
      worst = Math.max(worst, Math.abs(error));
      const fixedA = contacts[h].anchor.mode === "set";
      const fixedB = contacts[t].anchor.mode === "set";
      if (fixedA && fixedB) continue;
      const shareA = fixedA ? 0 : fixedB ? 1 : 0.5;
      contacts[h] = movedBy(contacts[h], (shareA * error * dx) / now, (shareA * error * dz) / now, ground, heel.clearance);
      contacts[t] = movedBy(contacts[t], (-(1 - shareA) * error * dx) / now, (-(1 - shareA) * error * dz) / now, ground, toe.clearance);
    }
    if (worst < 1e-7) break;
  }
}

function movedBy(contact: Contact, dx: number, dz: number, ground: Ground, clearance: number): Contact {
  const p = contact.anchor.point;
  if (!p) return contact;
  const x = p[0] + dx;
  const z = p[2] + dz;
  const y = onSurface(contact) ? groundHeight(ground, x, z) + clearance + (contact.height ?? 0) : p[1];
  return { ...contact, anchor: { ...contact.anchor, point: [x, y, z] } };
}

/** Is a contact's height that of the ground, or one that was set over it? */
function onSurface(contact: Contact): boolean {
  return contact.on === "ground" || (contact.height !== undefined && typeof contact.on !== "object");
}
