import type { Character } from "../character/character.ts";
import type { Clip } from "../clip/clip.ts";
import type { Contact } from "./contact.ts";
import { HOLDS_FOR, restSpans } from "./findGrips.ts";
import { jointTrack, pointTrack } from "./tracks.ts";
import { travelDisplacement, travelError, WANDER } from "./travel.ts";

/**
 * How the travel of a body is wrong that hangs by its hands, or sits with its legs dangling, [frame][2] metres: what hands and seat glide by where they seem to rest, slowly as that may be.
 * Null where none of them does.
 */
export function travelByHolds(character: Character, clip: Clip): Float64Array | null {
  const { skeleton, body, height } = character;
  const anywhere = new Float64Array(clip.frameCount);
  const courses = new Map<string, Float64Array>();
  const contacts: Contact[] = [];
  for (const point of character.contactPoints) {
    if (!/Hand$|^seat$/.test(point.id)) continue;
    const course = pointTrack(jointTrack(skeleton, clip, point.joint), [...point.local]);
    courses.set(point.id, course);
    for (const { span } of restSpans(course, anywhere, clip, 0.49 * height, HOLDS_FOR))
      contacts.push({
        point: point.id,
        joint: point.named,
        start: span[0],
        end: span[1],
        on: "place",
        anchor: { mode: "settle", point: null },
        rampIn: null,
        rampOut: null,
        origin: "found",
      });
  }
  if (contacts.length === 0) return null;
  const hips = jointTrack(skeleton, clip, body.roles.hips ?? 0).positions;
  return travelDisplacement(
    travelError(contacts, (id) => courses.get(id), hips, clip.fps),
    hips,
    clip.fps,
    WANDER.sought,
  );
}
