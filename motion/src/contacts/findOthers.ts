import type { Character } from "../character/character.ts";
import { type ContactPoint, liesBeyond } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { median } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { findGrips, type RestSpan, restSpans } from "./findGrips.ts";
import { findSeat } from "./findSeat.ts";
import { middlePoint } from "./segment.ts";
import { type JointTrack, jointTrack, jointTracks, pointTrack } from "./tracks.ts";
import { withoutTravel } from "./travel.ts";

/** A part of the body lies on the ground when it rests no higher over it than this, metres for a leg of 0.9 m: where its surface is, is an estimate. */
const LIES_WITHIN = 0.07;
/** A knee is its joint, which lies so much deeper in it. */
const IN_KNEE = 0.03;
/** A heave of less than this is none, metres; a part that rests so many times as long without it is heaved. */
const HEAVES = 0.001;
const LONGER = 1.03;
/** Rest on the ground that is shorter than this is not believed, seconds. */
const LIES_FOR = 0.25;

/**
 * Contacts of the parts that do not bear the body as a rule (palms, knees, elbows, back, seat, head): where they lie on the ground, still, where a
 * hand holds on to something in the air, and where the body sits on something. With them the points as the clip shows them: how high over the ground they lie, and where a hand grips.
 * `feet` are the contacts of those that bear it, `travel` the level displacement [frame][2] that is wrong with the body's place: it is taken out before anything is looked for; so is what heaves it as the feet show it (`heave` [frame], metres), where a part rests for longer without.
 */
export function findOthers(
  character: Character,
  clip: Clip,
  ground: Ground,
  feet: readonly Contact[],
  travel: Float64Array,
  heave?: Float64Array,
): { contacts: Contact[]; points: Map<string, ContactPoint> } {
  const contacts: Contact[] = [];
  const points = new Map<string, ContactPoint>();
  const { skeleton, body, height } = character;
  const { frameCount: n } = clip;
  const legLength = 0.49 * height;
  const put = (track: JointTrack): JointTrack => ({ ...track, positions: withoutTravel(track.positions, travel) });
  const hips = put(jointTrack(skeleton, clip, body.roles.hips ?? 0)).positions;
  const asked = character.contactPoints.filter((point) => !point.bears && !liesBeyond(point, character.rig));
  /** When a course lies near the ground: anywhere near it is as good as on it. */
  const lyingOn = (point: ContactPoint, course: Float64Array): RestSpan[] => {
    const most = ((LIES_WITHIN + (point.id.endsWith("Knee") ? IN_KNEE : 0)) * legLength) / 0.9;
    const over = new Float64Array(n);
    let near = false;
    for (let f = 0; f < n; f++) {
      over[f] = Math.max(0, course[f * 3 + 1] - groundHeight(ground, course[f * 3], course[f * 3 + 2]) - most);
      near ||= over[f] === 0;
    }
    return near ? restSpans(course, over, clip, legLength, LIES_FOR) : [];
  };
  const heaved = heave?.some((v) => Math.abs(v) > HEAVES);
  const unheaved = (course: Float64Array) => course.map((v, i) => (i % 3 === 1 && heave ? v - heave[(i - 1) / 3] : v));
  const lyingOf = (point: ContactPoint, asItCame: Float64Array): readonly [Float64Array, RestSpan[]] => {
    const lies = lyingOn(point, asItCame);
    if (!heaved || lies.length === 0) return [asItCame, lies];
    const course = unheaved(asItCame);
    const still = lyingOn(point, course);
    return frames(still) > LONGER * frames(lies) ? [course, still] : [asItCame, lies];
  };
  // Parts of one side have most of the joints that lead to them in common.
  const tracks = new Map<ContactPoint, JointTrack>();
  for (const point of asked) {
    if (!tracks.has(point)) {
      tracks.clear();
      const near = asked.filter((p) => p.side === point.side);
      jointTracks(
        skeleton,
        clip,
        near.map((p) => p.joint),
      ).forEach((track, i) => {
        tracks.set(near[i], put(track));
      });
    }
    const track = tracks.get(point) as JointTrack;
    const [course, lies] = lyingOf(point, pointTrack(track, [...point.local]));
    const heights = lies.map(({ span }) => {
      const rest = middlePoint(course, ...span);
      contacts.push(contactOf(point, span, "ground"));
      return rest[1] - groundHeight(ground, rest[0], rest[2]);
    });
    if (heights.length > 0) points.set(point.id, { ...point, clearance: median(heights) });
    if (point.limb < 0 || body.plan !== "biped") continue;
    const { local, spans } = findGrips(point, clip, track, hips, legLength);
    const free = spans.filter(([start, end]) => !lies.some((g) => g.span[0] <= end && g.span[1] >= start));
    for (const span of free) contacts.push(contactOf(point, span, "place"));
    if (free.length > 0 && lies.length === 0) points.set(point.id, { ...point, local });
  }
  const seat = asked.find((point) => point.id === "seat");
  if (seat && body.plan === "biped" && !contacts.some((c) => c.point === "seat")) {
    const found = character.contactPoints.map((p) => points.get(p.id) ?? p);
    for (const span of findSeat(character, clip, seat, [...feet, ...contacts], found, travel)) contacts.push(contactOf(seat, span, "place"));
  }
  return { contacts, points };
}

function frames(spans: readonly RestSpan[]): number {
  return spans.reduce((sum, { span }) => sum + span[1] - span[0] + 1, 0);
}

function contactOf(point: ContactPoint, [start, end]: readonly [number, number], on: "ground" | "place"): Contact {
  return { point: point.id, joint: point.named, start, end, on, anchor: { mode: "settle", point: null }, rampIn: null, rampOut: null, origin: "found" };
}
