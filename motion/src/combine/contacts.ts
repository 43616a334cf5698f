import type { RigLimb } from "../character/rig.ts";
import { type Contact, sortContacts } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import type { Motion } from "../motion.ts";
import { placeAnchors } from "../plants/anchors.ts";
import { limbEnds, settingsAt } from "../plants/plants.ts";

/** A contact point that moves more than this share of the leg over its span rests nowhere: the place under it was another's. */
const WANDERS = 0.12;
/** A contact cut down to less than this is dropped, seconds. */
const SLIVER = 0.07;

/** Limbs all of whose joints are among some. */
export function wholeLimbs(limbs: readonly RigLimb[], joints: ReadonlySet<number>): ReadonlySet<number> {
  return new Set(limbs.flatMap(({ upper, lower, end }, i) => ([upper, lower, end].every((j) => joints.has(j)) ? [i] : [])));
}

/**
 * Contacts of a mixed motion. A limb that was taken over brings the other's, while it has more than half of the weight; before and behind that, and of every limb that
 * was kept, they are those below. A contact of which the mix has moved the body away from its place is left out, and told.
 */
export function mixedContacts(
  below: Motion,
  other: Motion,
  mixed: Motion["clip"],
  taken: { readonly limbs: ReadonlySet<number>; readonly body: ReadonlySet<number>; readonly hips: boolean; readonly legLength: number; readonly name: string },
  weights: Float64Array,
): { readonly contacts: readonly Contact[]; readonly left: number } {
  const rules = Uint8Array.from(weights, (w) => (w > 0.5 ? 1 : 0));
  const points = new Map(below.points.map((p) => [p.id, p]));
  const isTaken = (id: string) => {
    const point = points.get(id);
    return point !== undefined && (point.limb >= 0 ? taken.limbs.has(point.limb) : taken.body.has(point.joint));
  };
  const tracks = new PointTracks(below.character.skeleton, mixed, below.points);
  const before = new PointTracks(below.character.skeleton, below.clip, below.points);
  let left = 0;
  // What a limb that was kept rested on stays where it was, while the body may have gone elsewhere with the other's hips.
  const rests = (c: Contact) => {
    const stays = !taken.hips || typeof c.on === "object" || away(before, tracks, c) <= WANDERS * taken.legLength;
    if (!stays) left++;
    return stays;
  };
  const kept = below.contacts.flatMap((c) => (isTaken(c.point) ? within(c, rules, 0, below.clip.fps) : rests(c) ? [c] : []));
  const brought = other.contacts.flatMap((c) => {
    if (!isTaken(c.point)) return [];
    return within({ ...c, of: c.of ?? taken.name }, rules, 1, below.clip.fps).filter((contact) => {
      const stays = wanders(tracks, contact) <= WANDERS * taken.legLength;
      if (!stays) left++;
      return stays;
    });
  });
  if (brought.length === 0 && kept.length === below.contacts.length) return { contacts: below.contacts, left };
  const anchored =
    below.plants.length > 0
      ? placeAnchors(brought.map(unplaced), tracks, limbEnds(below.character, below.points), below.ground, settingsAt(below.plants, 0))
      : brought;
  return { contacts: sortContacts([...kept, ...anchored]), left };
}

/** Where the mix has them is where they rest: the place that they had in their own clip is not asked. */
function unplaced(contact: Contact): Contact {
  return contact.anchor.mode === "set" ? { ...contact, anchor: { mode: "settle", point: null } } : { ...contact, anchor: { ...contact.anchor, point: null } };
}

/** The pieces of a contact on whose frames a mark is so. */
function within(contact: Contact, marks: Uint8Array, wanted: number, fps: number): Contact[] {
  const out: Contact[] = [];
  const last = Math.min(contact.end, marks.length - 1);
  for (let f = contact.start; f <= last; f++) {
    if (marks[f] !== wanted) continue;
    let end = f;
    while (end < last && marks[end + 1] === wanted) end++;
    const cut = f > contact.start || end < contact.end;
    if (!cut || end - f >= SLIVER * fps)
      out.push({ ...contact, start: f, end, rampIn: f > contact.start ? null : contact.rampIn, rampOut: end < contact.end ? null : contact.rampOut });
    f = end;
  }
  return out;
}

/** How far a contact's point is in one clip from where it is in another, at most over its span, metres. */
function away(before: PointTracks, now: PointTracks, contact: Contact): number {
  const [a, b] = [before.spanCourse(contact), now.spanCourse(contact)];
  if (!a || !b) return 0;
  let most = 0;
  for (let o = 0; o < a.length; o += 3) most = Math.max(most, Math.hypot(a[o] - b[o], a[o + 1] - b[o + 1], a[o + 2] - b[o + 2]));
  return most;
}

/** How far a contact's point is from its mean place at most over the middle of its span, metres. */
function wanders(tracks: PointTracks, contact: Contact): number {
  const course = tracks.spanCourse(contact);
  if (!course) return 0;
  const n = course.length / 3;
  const edge = Math.floor(n / 5);
  const mean = [0, 1, 2].map((i) => {
    let sum = 0;
    for (let f = edge; f < n - edge; f++) sum += course[f * 3 + i];
    return sum / (n - 2 * edge);
  });
  let most = 0;
  for (let f = edge; f < n - edge; f++) most = Math.max(most, Math.hypot(...mean.map((m, i) => course[f * 3 + i] - m)));
  return most;
}
