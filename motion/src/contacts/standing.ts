import type { Sole } from "../character/soles.ts";
import { fitGround, type GroundFit, type RestPoint, tooFew } from "../ground/fitGround.ts";
import { planeGround } from "../ground/ground.ts";
import { levelsOf } from "../ground/levels.ts";
import { median } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { commonHeave, type Heave } from "./heave.ts";
import { middlePoint } from "./segment.ts";
import { planeUnder } from "./settleSoles.ts";
import { soleCourses } from "./soleCourses.ts";
import { steadyRise } from "./steadyRise.ts";
import { withoutTravel } from "./travel.ts";

/** A body's soles and the course of its hips [frame][3]. */
export interface Feet {
  readonly soles: readonly Sole[];
  readonly hips: Float64Array;
  readonly frameCount: number;
  readonly fps: number;
}

/** A part that is less than this share of its leg under the hips carries nothing: the body lies, or has its feet up. On its hands and toes it is over them yet. */
const UNDER = 0.15;

/** Contacts of feet that the body is over, and where they rest, metres. */
export function standsUnder(
  { soles, hips }: Feet,
  contacts: readonly Contact[],
): { readonly contact: Contact; readonly place: readonly [number, number, number] }[] {
  const courses = soleCourses(soles);
  const legOf = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, sole.legLength] as const)));
  return contacts.flatMap((contact) => {
    const [course, leg] = [courses.get(contact.point), legOf.get(contact.point)];
    if (!course || leg === undefined) return [];
    const place = middlePoint(course, contact.start, contact.end);
    return middlePoint(hips, contact.start, contact.end)[1] - place[1] >= UNDER * leg ? [{ contact, place }] : [];
  });
}

/** Contacts of feet that the body is over; all, where it never is. What legs rest at that are held in the air while the body lies says nothing of ground and travel. */
export function underBody(feet: Feet, contacts: readonly Contact[]): readonly Contact[] {
  const under = standsUnder(feet, contacts).map((s) => s.contact);
  return under.length > 0 ? under : contacts;
}

/** The ground that contacts rest on, how far over it some of them lie, and what heaves the body over it; of that, what rises or sinks steadily (`ramp`). */
export function heaveOver(
  feet: Feet,
  contacts: readonly Contact[],
  travel: Float64Array,
): { readonly fit: GroundFit; readonly lifts: ReadonlyMap<string, Float64Array>; readonly heave: Heave; readonly ramp: Float64Array } {
  const { frameCount, fps } = feet;
  const courses = soleCourses(feet.soles);
  // Across stands a steady rise looks like a slope.
  const rise = steadyRise(feet.soles, courses, contacts, fps);
  const ramp = Float64Array.from({ length: frameCount }, (_, f) => (rise * (f - (frameCount - 1) / 2)) / fps);
  const standing = levelled(feet, contacts, travel, ramp);
  const stood = standing.map((s) => s.rest);
  const fit = fitGround(stood, 0);
  const heave = heaveOf(feet, contacts, travel, ramp, fit, tooFew(stood));
  return { fit, lifts: liftsOf(standing, frameCount, fps), heave: { ...heave, course: heave.course.map((v, f) => v + ramp[f]) }, ramp };
}

/**
 * What heaves all feet at once, seen with the travel put right and against the likeliest slope, sure or not: either would seem to raise one foot and lower the other.
 * Each part is seen against the height that it rests at itself, or against `one` ground for all where that is too little to go by.
 */
function heaveOf(
  { soles, frameCount, fps }: Feet,
  contacts: readonly Contact[],
  travel: Float64Array,
  ramp: Float64Array,
  fit: GroundFit,
  one: boolean,
): Heave {
  const courses = new Map([...soleCourses(soles)].map(([id, course]) => [id, withoutRamp(withoutTravel(course, travel), ramp)]));
  const points = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, one ? p : { ...p, clearance: fit.heights.get(p.id) ?? 0 }] as const)));
  return commonHeave(
    contacts,
    (id) => courses.get(id),
    (id) => points.get(id),
    one ? planeUnder(soles, fit) : planeGround(0, fit.slopeX, fit.slopeZ),
    frameCount,
    fps,
    true,
  );
}

/** A course [frame][3] of its own with so much [frame] taken off its heights. */
function withoutRamp(course: Float64Array, ramp: Float64Array): Float64Array {
  for (let f = 0; f < ramp.length; f++) course[f * 3 + 1] -= ramp[f];
  return course;
}

/** A contact, where it rests as seen from the level that the body stands on mostly, and how far over that level it lies, metres (0 where nothing says that it carries the body there); how far it does even so (`over`), and how long its leg is. */
interface Standing {
  readonly contact: Contact;
  readonly legLength: number;
  readonly over: number;
  readonly rest: RestPoint;
  readonly level: number;
}

/** What the parts of a leg are called on either side. */
const kindOf = (leg: Sole["leg"]) => leg.parts[0].replace(/^(left|right)/, "");

/** A foot stands by itself for at least so long if it carries the body, seconds. */
const CARRIES = 0.06;

/** Feet whose places differ by less than this in height stand on one step, metres for a leg of 0.9 m; they land, or lift, together within so many seconds. */
const ON_ONE = 0.02;
const TOGETHER = 0.12;

/** Where contacts rest, with the steps and boxes that some of them are on taken out, and the travel and the heave if they are given. Only what carries the body by itself for a while can be on one: a foot held in the air never does. */
export function levelled(feet: Feet, contacts: readonly Contact[], travel: Float64Array | null, heave: Float64Array | null = null): Standing[] {
  const { soles, fps } = feet;
  const points = restPoints(feet, contacts, travel, heave);
  const rests = points.map((p) => p.rest);
  const scale = Math.max(...soles.map((sole) => sole.legLength)) / 0.9;
  const levels = levelsOf(rests, fitGround(rests), scale);
  const legOf = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, sole.leg] as const)));
  const legLengths = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, sole.legLength] as const)));
  const carries = (contact: Contact, level: number) => {
    // Of each pair of legs one carries its end of the body, or both do that come to stand on one step together, or leave it so.
    const own = legOf.get(contact.point);
    const others = points.flatMap(({ contact: c }, i) => {
      const leg = legOf.get(c.point);
      const paired =
        Math.min(Math.abs(c.start - contact.start), Math.abs(c.end - contact.end)) <= TOGETHER * fps && Math.abs(levels[i] - level) < ON_ONE * scale;
      return leg && own && leg.side !== own.side && kindOf(leg) === kindOf(own) && !paired ? [c] : [];
    });
    let alone = 0;
    for (let f = contact.start; f <= contact.end; f++) if (!others.some((c) => f >= c.start && f <= c.end)) alone++;
    return alone >= CARRIES * fps;
  };
  return points.map(({ contact, rest }, i) => {
    const level = levels[i] !== 0 && carries(contact, levels[i]) ? levels[i] : 0;
    return {
      contact,
      legLength: legLengths.get(contact.point) ?? 0.9,
      over: levels[i],
      level,
      rest: { ...rest, point: [rest.point[0], rest.point[1] - level, rest.point[2]] },
    };
  });
}

/** A level holds for a part this long before it lands on it and after it has left, seconds. */
const LEVEL_HOLDS = 0.25;

/** How far over the usual level the surface under each part lies, [frame], metres. */
function liftsOf(standing: readonly Standing[], frameCount: number, fps: number): Map<string, Float64Array> {
  const out = new Map<string, Float64Array>();
  for (const { contact, level } of standing) {
    if (level === 0) continue;
    const lift = out.get(contact.point) ?? new Float64Array(frameCount);
    const reach = Math.round(LEVEL_HOLDS * fps);
    lift.fill(level, Math.max(0, contact.start - reach), Math.min(frameCount, contact.end + reach + 1));
    out.set(contact.point, lift);
  }
  return out;
}

function restPoints(
  { soles }: Feet,
  contacts: readonly Contact[],
  travel: Float64Array | null,
  heave: Float64Array | null,
): { contact: Contact; rest: RestPoint }[] {
  const courses = soleCourses(soles);
  if (heave) for (const [id, course] of courses) courses.set(id, withoutRamp(course.slice(), heave));
  return contacts.flatMap((contact) => {
    const course = courses.get(contact.point);
    if (!course) return [];
    const quarter = Math.floor((contact.end - contact.start) / 4);
    const [from, to] = [contact.start + quarter, contact.end - quarter];
    const point = middlePoint(course, from, to);
    if (travel) {
      const middle = Math.round((from + to) / 2);
      point[0] -= travel[middle * 2];
      point[2] -= travel[middle * 2 + 1];
    }
    const heights = new Float64Array(to - from + 1);
    for (let i = 0; i < heights.length; i++) heights[i] = Math.abs(course[(from + i) * 3 + 1] - point[1]);
    return [{ contact, rest: { part: contact.point, point, weight: Math.sqrt(contact.end - contact.start + 1), stirs: 1.4826 * median(heights) } }];
  });
}
