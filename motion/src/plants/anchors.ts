import type { Contact, ContactPart } from "../contacts/contact.ts";
import { type FloorPlane, floorHeightAt } from "../contacts/floor.ts";
import { middlePoint } from "../contacts/segment.ts";
import type { Sole } from "../contacts/soles.ts";
import { pointTrack } from "../contacts/tracks.ts";
import type { PlantSettings } from "./settings.ts";

/** Rounds of making heel and toe of one foot a sole's length apart. */
const COUPLING_ROUNDS = 40;

/**
 * Decides where each contact rests: the robust middle of its span, its first or its last frame, or the point a person set; on the floor,
 * or at its own height. Heel and toe spans that overlap are one rigid sole, so their anchors are moved, half each (a set one not at
 * all), until they are exactly its length apart.
 */
export function placeAnchors(contacts: readonly Contact[], soles: readonly Sole[], floor: FloorPlane, settings: PlantSettings): Contact[] {
  const placed = contacts.map((contact) => {
    if (contact.anchor.point && contact.anchor.mode === "set") return contact;
    const sole = soles.find((s) => s.points.some((p) => p.part === contact.part));
    const local = sole?.points.find((p) => p.part === contact.part)?.local;
    if (!sole || !local) return contact;
    const mode = contact.anchor.mode === "set" || (contact.origin === "found" && contact.anchor.mode === "settle") ? settings.rests : contact.anchor.mode;
    const quarter = mode === "settle" ? Math.floor((contact.end - contact.start) / 4) : 0;
    const from = mode === "last" ? contact.end : contact.start + quarter;
    const to = mode === "first" ? contact.start : contact.end - quarter;
    const point = middlePoint(pointTrack(sole.track, [...local]), from, to);
    if (contact.surface === "floor") point[1] = floorHeightAt(floor, point[0], point[2]);
    return { ...contact, anchor: { ...contact.anchor, point } };
  });
  for (const sole of soles) if (sole.points.length === 2) coupleSole(placed, sole, floor);
  return placed;
}

function coupleSole(contacts: Contact[], sole: Sole, floor: FloorPlane): void {
  const [heel, toe] = sole.points;
  const length = Math.hypot(toe.local[0] - heel.local[0], toe.local[1] - heel.local[1], toe.local[2] - heel.local[2]);
  const indices = (part: ContactPart) => contacts.flatMap((c, i) => (c.part === part && c.anchor.point ? [i] : []));
  const pairs = indices(heel.part).flatMap((h) =>
    indices(toe.part)
      .filter((t) => contacts[h].start <= contacts[t].end && contacts[t].start <= contacts[h].end)
      .map((t) => [h, t] as const),
  );
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
      contacts[h] = movedBy(contacts[h], (shareA * error * dx) / now, (shareA * error * dz) / now, floor);
      contacts[t] = movedBy(contacts[t], (-(1 - shareA) * error * dx) / now, (-(1 - shareA) * error * dz) / now, floor);
    }
    if (worst < 1e-7) break;
  }
}

function movedBy(contact: Contact, dx: number, dz: number, floor: FloorPlane): Contact {
  const p = contact.anchor.point;
  if (!p) return contact;
  const x = p[0] + dx;
  const z = p[2] + dz;
  return { ...contact, anchor: { ...contact.anchor, point: [x, contact.surface === "floor" ? floorHeightAt(floor, x, z) : p[1], z] } };
}
