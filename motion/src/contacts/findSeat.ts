import type { Character } from "../character/character.ts";
import type { ContactPoint } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import type { Contact } from "./contact.ts";
import { restSpans, travels } from "./findGrips.ts";
import { middlePoint } from "./segment.ts";
import { type JointTrack, jointTrack, jointTracks, pointTrack } from "./tracks.ts";
import { withoutTravel } from "./travel.ts";

/** A body sits for at least so long, seconds, its seat stirring by no more than this while its chest moves by that much, metres. */
const SITS_FOR = 0.5;
const SITS_WITHIN = 0.004;
const CHEST_MOVES = 0.03;
/** Hips that are lower than this over the feet may be sitting, and a body whose centre of mass is so far beside its feet cannot be standing: shares of the leg. */
const LOW = 0.8;
const BESIDE = 0.08;
/** Where the mass of a body is (shares; Winter's segment masses, rounded; memory): hips and thighs' upper halves, chest with the arms, head, knees, ankles. */
const MASSES = { hips: 0.25, chest: 0.4, head: 0.08, shin: 0.09, foot: 0.045 } as const;

/** The trunk of a body that sits is no further from upright than this (60°): a cosine. */
const UPRIGHT = 0.5;

/**
 * When a body sits on something over the ground: its seat keeps its place, low, under an upright trunk, no hand holds it, and either it would fall over if nothing but its other
 * `contacts` carried it, its centre of mass being beside those, or its chest moves while its hips do not. `points` are theirs; `travel` [frame][2] is taken out of all places.
 */
export function findSeat(
  character: Character,
  clip: Clip,
  seat: ContactPoint,
  contacts: readonly Contact[],
  points: readonly ContactPoint[],
  travel: Float64Array,
): (readonly [number, number])[] {
  const { skeleton, body, height } = character;
  const { hips, chest, head, leftShin, rightShin, leftFoot, rightFoot } = body.roles;
  if (hips === undefined || chest === undefined || leftFoot === undefined || rightFoot === undefined) return [];
  const legLength = 0.49 * height;
  const parts: readonly (readonly [number, number])[] = [
    [hips, MASSES.hips],
    [chest, MASSES.chest],
    [head ?? chest, MASSES.head],
    [leftShin ?? leftFoot, MASSES.shin],
    [rightShin ?? rightFoot, MASSES.shin],
    [leftFoot, MASSES.foot],
    [rightFoot, MASSES.foot],
  ];
  const joints = parts.map(([joint]) => joint);
  const put = (track: JointTrack): JointTrack => ({ ...track, positions: withoutTravel(track.positions, travel) });
  const own = put(jointTrack(skeleton, clip, hips));
  const still = restSpans(pointTrack(own, [...seat.local]), new Float64Array(clip.frameCount), clip, legLength, SITS_FOR).filter((s) => s.stirs <= SITS_WITHIN);
  if (still.length === 0) return [];
  const courses = [own, ...jointTracks(skeleton, clip, joints.slice(1)).map(put)];
  const total = parts.reduce((sum, [, mass]) => sum + mass, 0);
  const over = (contact: Contact, [start, end]: readonly [number, number]) => contact.start <= start && contact.end >= end;
  return still
    .filter(({ span }) => {
      const quarter = Math.floor((span[1] - span[0]) / 4);
      const inner = [span[0] + quarter, span[1] - quarter] as const;
      const carried = contacts.filter((contact) => over(contact, inner));
      if (carried.some((contact) => contact.point.endsWith("Hand") && contact.on === "place")) return false;
      const places = courses.map(({ positions }) => middlePoint(positions, ...inner));
      const trunk = [0, 1, 2].map((i) => places[1][i] - places[0][i]);
      const hipsOver = places[0][1] - Math.min(places[5][1], places[6][1]);
      // Legs that dangle from a wall say nothing of how low it sits.
      const dangles = !carried.some((contact) => points.some((p) => p.id === contact.point && p.bears));
      if ((hipsOver > LOW * legLength && !dangles) || trunk[1] < UPRIGHT * Math.hypot(...trunk)) return false;
      const stood = carried.flatMap((contact): Level[] => {
        const point = points.find((p) => p.id === contact.point);
        if (!point) return [];
        const track = courses[joints.indexOf(point.joint)] ?? put(jointTrack(skeleton, clip, point.joint));
        const [x, , z] = middlePoint(pointTrack(track, [...point.local]), ...inner);
        return [[x, z]];
      });
      const [x, z] = [0, 2].map((axis) => parts.reduce((sum, [, mass], i) => sum + mass * places[i][axis], 0) / total);
      // A body that kneels keeps its hips as still.
      const kneels = carried.some(({ point }) => /Knee|Hand|Elbow/.test(point));
      return besideHull([x, z], stood) > BESIDE * legLength || (!kneels && travels(courses[1].positions, inner) > CHEST_MOVES);
    })
    .map(({ span }) => span);
}

/** A level place: x, z. */
type Level = readonly [number, number];

/** How far a place lies outside the convex hull of others, metres: 0 inside, endless where there are none. */
function besideHull(place: Level, hull: readonly Level[]): number {
  let nearest = Number.POSITIVE_INFINITY;
  const side = (a: Level, b: Level) => (b[0] - a[0]) * (place[1] - a[1]) - (b[1] - a[1]) * (place[0] - a[0]);
  for (const a of hull)
    for (const b of hull) {
      const [dx, dz] = [b[0] - a[0], b[1] - a[1]];
      const u = Math.max(0, Math.min(1, ((place[0] - a[0]) * dx + (place[1] - a[1]) * dz) / (dx * dx + dz * dz || 1)));
      nearest = Math.min(nearest, Math.hypot(place[0] - a[0] - u * dx, place[1] - a[1] - u * dz));
      for (const c of hull) {
        const turns = [side(a, b), side(b, c), side(c, a)];
        if (turns.every((t) => t > 0)) return 0;
      }
    }
  return nearest;
}
