import { type Contact, keepsHeight, overlap } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint } from "../contacts/segment.ts";
import { groundHeight } from "../ground/ground.ts";
import type { Motion } from "../motion.ts";

/** What stands in for a point on a body that lacks it: a foot for a hind hoof, a hand for a fore hoof, and the other way round; the ball of a foot for the tip of its toe. */
const STANDS_IN: Readonly<Record<string, string>> = {
  leftHeel: "leftHind",
  leftToe: "leftHind",
  leftToeTip: "leftToe",
  leftHand: "leftFore",
  rightHeel: "rightHind",
  rightToe: "rightHind",
  rightToeTip: "rightToe",
  rightHand: "rightFore",
  leftHind: "leftToe",
  leftFore: "leftHand",
  rightHind: "rightToe",
  rightFore: "rightHand",
};

/** Contacts of points that both bodies have, between bodies on two legs and on four those of their feet and hooves; where they rest is found anew, and what kept its own height keeps how far that is off the usual, in proportion. */
export function contactsOnto(source: Motion, like: Motion, partner: Int16Array): Contact[] {
  const points = new Map(like.points.map((p) => [p.id, p]));
  const otherPlan = source.character.body.plan !== like.character.body.plan;
  const tracks = new PointTracks(source.character.skeleton, source.clip, source.points);
  const scale = like.character.height / source.character.height;
  const carried = source.contacts.flatMap((contact): Contact[] => {
    if (otherPlan && rollsOver(contact, source.contacts)) return [];
    const second = STANDS_IN[contact.point];
    const point = points.get(contact.point) ?? points.get(second) ?? points.get(STANDS_IN[second]);
    if (!point) return [];
    const on = typeof contact.on === "object" ? { joint: partner.indexOf(contact.on.joint) } : contact.on;
    if (typeof on === "object" && on.joint < 0) return [];
    return [
      {
        ...contact,
        point: point.id,
        joint: point.named,
        on,
        anchor: { mode: contact.anchor.mode === "set" ? "settle" : contact.anchor.mode, point: null },
        ...(on === "ground" && keepsHeight(contact, tracks.point(contact.point)) && { height: scale * offUsual(contact, tracks, source) }),
      },
    ];
  });
  return otherPlan ? united(carried) : carried;
}

/** How much higher a part lies in a contact than it usually does, metres. */
function offUsual(contact: Contact, tracks: PointTracks, { ground }: Motion): number {
  const course = tracks.course(contact.point);
  if (!course) return 0;
  const [x, y, z] = middlePoint(course, contact.start, contact.end);
  return y - groundHeight(ground, x, z) - (tracks.point(contact.point)?.clearance ?? 0);
}

/** Is a contact that of a heel whose toe comes down while it rests? A hoof is the toe's alone: it lands as that does, not while a foot still has its toes up. */
function rollsOver(contact: Contact, contacts: readonly Contact[]): boolean {
  const toe = contact.point.replace(/Heel$/, "Toe");
  return toe !== contact.point && contacts.some((c) => c.point === toe && overlap(c.start, c.end, contact.start, contact.end) > 0);
}

/** Contacts of one point that overlap as one: a heel that stands alone and a toe are both the hoof's. */
function united(contacts: readonly Contact[]): Contact[] {
  const out: Contact[] = [];
  for (const contact of [...contacts].sort((a, b) => a.point.localeCompare(b.point) || a.start - b.start)) {
    const last = out.at(-1);
    if (last && last.point === contact.point && last.on === contact.on && contact.start <= last.end + 1)
      out[out.length - 1] = { ...last, end: Math.max(last.end, contact.end) };
    else out.push(contact);
  }
  return out;
}
