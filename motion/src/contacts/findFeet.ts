import type { Character } from "../character/character.ts";
import { type ContactPoint, legsOf } from "../character/contactPoints.ts";
import { buildSole, type Sole, type SolePoint } from "../character/soles.ts";
import type { Clip } from "../clip/clip.ts";
import { fitGround, type GroundFit, type RestPoint, tooFew } from "../ground/fitGround.ts";
import { type Ground, LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { levelsOf } from "../ground/levels.ts";
import { median } from "../signal/robust.ts";
import { steadiedClip } from "../signal/steadyClip.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { calibrateSole } from "./calibrate.ts";
import { type Contact, sortContacts } from "./contact.ts";
import { commonHeave, type Heave, NO_TILT } from "./heave.ts";
import { legAway } from "./legAway.ts";
import { unseenFrames, withoutLegSpikes } from "./legSpikes.ts";
import { showsTravel } from "./pointTracks.ts";
import {
  type Away,
  calmingFor,
  middlePoint,
  plainAway,
  refineSpan,
  restAtUnseen,
  restlessness,
  segmentContacts,
  smoothedNoise,
  smoothTrack,
} from "./segment.ts";
import { liftOf, planeUnder, settleSoles } from "./settleSoles.ts";
import { tiltAt } from "./sharedHeights.ts";
import { splitAtSteps } from "./smallSteps.ts";
import { carriersIn, type JointTrack, jointTrack, pointTrack } from "./tracks.ts";
import { travelDisplacement, travelError, WANDER, withoutTravel } from "./travel.ts";

/** The feet's contacts, the ground under them, and their points as this clip shows them rolling and resting. */
export interface FeetFound {
  readonly points: readonly ContactPoint[];
  readonly contacts: readonly Contact[];
  readonly ground: Ground;
}

/** Rounds of: find spans, take the travel error out, fit the ground, look again with a sharper eye. Shares of the swing speed. */
const SPEED_SHARES = [0.22, 0.14, 0.1];

/** How often estimated points are put where the foot is stillest. */
const CALIBRATIONS = 2;

/** Finds ground and contacts of a clip, also while its feet skate, float, sink or jitter, at any frame rate and body size. Looks at the points that bear the body: feet, hooves. */
export function findFeet(character: Character, source: Clip, pause: () => void = () => {}): FeetFound {
  const { skeleton, body, rig } = character;
  const legs = legsOf(skeleton, body, rig);
  // A spike in a leg would part one contact into two.
  const clip = withoutLegSpikes(character, source, legJoints(character));
  if (legs.length === 0 || clip.frameCount < 3) return { points: character.contactPoints, contacts: [], ground: LEVEL_GROUND };
  let soles = legs.map((leg) => buildSole(skeleton, clip, leg, unseenFrames(character, source, leg)));
  const named = (id: string) => character.contactPoints.find((p) => p.id === id)?.named ?? 0;
  const hips = jointTrack(skeleton, clip, body.roles.hips ?? 0).positions;
  const carriersOf = carriersIn(skeleton, clip);
  const steadied = steadiedClip(clip, legJoints(character));
  let fit: GroundFit | undefined;
  let ground = LEVEL_GROUND;
  let contacts: Contact[] = [];
  let travel: Float64Array = new Float64Array(clip.frameCount * 2);
  let heave = stillBody(clip.frameCount);
  let lifts: ReadonlyMap<string, Float64Array> = new Map();
  SPEED_SHARES.forEach((speedShare, round) => {
    pause();
    const last = round === SPEED_SHARES.length - 1;
    // Where trembling legs come to rest is seen better once their joints have been steadied, each as far as it bears it.
    const steady = last ? steadied : clip;
    const steadyCourses = steady === clip ? null : soleCourses(soles.map((sole) => ({ ...sole, track: jointTrack(skeleton, steady, sole.leg.end) })));
    contacts = findRound(clip, soles, named, { travel, heave, fit, lifts, carriersOf }, { speedShare, refine: last, steadyCourses });
    const courses = soleCourses(soles);
    travel = travelDisplacement(
      travelError(
        contacts,
        (id) => (showsTravel(character.contactPoints, id) ? courses.get(id) : undefined),
        hips,
        clip.fps,
        steadied === clip
          ? undefined
          : {
              carriersOf: (id) => carriersOf(soles.find((sole) => sole.points.some((p) => p.id === id))?.leg.end ?? -1),
              slope: [fit?.slopeX ?? 0, fit?.slopeZ ?? 0],
            },
      ),
      hips,
      clip.fps,
      WANDER.sought,
    );
    if (contacts.length === 0) return;
    // Estimated points first go where the ground is, then to where the foot is stillest: seen with the travel put right, as all that is looked for next.
    const rests = (path: Float64Array | null) => levelled(soles, contacts, clip.fps, path).map((s) => s.rest);
    let settled = settleSoles(soles, rests(travel));
    soles = settled.soles;
    const anatomical = soles;
    for (let k = 0; k < CALIBRATIONS && round === 1; k++) {
      // What heaves the body is seen wrongly by heels that are not where the foot rolls, and the other way round: in turns.
      if (k > 0) heave = heaveOver(soles, contacts, travel, clip).heave;
      soles = anatomical.map((sole) => calibrateSole(sole, contacts, travel, heave.course, clip.fps));
      settled = settleSoles(soles, rests(travel));
      soles = settled.soles;
    }
    if (last) {
      // The clip's own ground is what it stands on as it comes.
      const asItComes = rests(null);
      const plane = fitGround(asItComes);
      ground = planeGround(settled.off - liftOf(asItComes, plane), plane.slopeX, plane.slopeZ);
      return;
    }
    ({ fit, lifts, heave } = heaveOver(soles, contacts, travel, clip));
  });
  const calibrated = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, p] as const)));
  return {
    points: character.contactPoints.map((p) => {
      const found = calibrated.get(p.id);
      return found ? { ...p, local: found.local, clearance: found.clearance } : p;
    }),
    ground,
    contacts: sortContacts(contacts),
  };
}

/** The ground that contacts rest on, how far over it some of them lie, and what heaves the body over it. */
function heaveOver(
  soles: readonly Sole[],
  contacts: readonly Contact[],
  travel: Float64Array,
  clip: Clip,
): Pick<Known, "lifts" | "heave"> & { fit: GroundFit } {
  const standing = levelled(soles, contacts, clip.fps, travel);
  const stood = standing.map((s) => s.rest);
  const fit = fitGround(stood, 0);
  return { fit, lifts: liftsOf(standing, clip.frameCount, clip.fps), heave: heaveOf(soles, contacts, travel, fit, tooFew(stood), clip) };
}

/**
 * What heaves all feet at once, seen with the travel put right and against the likeliest slope, sure or not: either would seem to raise one foot and lower the other.
 * Each part is seen against the height that it rests at itself, or against `one` ground for all where that is too little to go by.
 */
function heaveOf(soles: readonly Sole[], contacts: readonly Contact[], travel: Float64Array, fit: GroundFit, one: boolean, { frameCount, fps }: Clip): Heave {
  const courses = new Map([...soleCourses(soles)].map(([id, course]) => [id, withoutTravel(course, travel)]));
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

/** A body that nothing heaves, as far as is known. */
const stillBody = (frameCount: number): Heave => ({ course: new Float64Array(frameCount), tilt: NO_TILT, left: 0 });

/** Joints that carry what bears the body, root first. */
export function legJoints({ skeleton, contactPoints }: Character): Set<number> {
  return new Set(contactPoints.flatMap((point) => (point.bears ? ancestry(skeleton, point.named) : [])));
}

/** Courses of points on a track, worked out once: the rounds ask for them again and again. */
const COURSES = new WeakMap<JointTrack, WeakMap<SolePoint, Float64Array>>();

function soleCourse({ track, unseen }: Sole, point: SolePoint): Float64Array {
  const own = COURSES.get(track) ?? new WeakMap<SolePoint, Float64Array>();
  COURSES.set(track, own);
  const known = own.get(point);
  if (known) return known;
  const course = pointTrack(track, point.local);
  restAtUnseen(course, unseen);
  own.set(point, course);
  return course;
}

/** World course of every point of some soles. */
function soleCourses(soles: readonly Sole[]): Map<string, Float64Array> {
  return new Map(soles.flatMap((sole) => sole.points.map((point) => [point.id, soleCourse(sole, point)] as const)));
}

/** What earlier rounds have shown, against which a round looks. */
interface Known {
  /** [frame][2] metres, and what heaves the body: taken out of the courses */
  readonly travel: Float64Array;
  readonly heave: Heave;
  readonly fit: GroundFit | undefined;
  /** how far over the usual level each part's surface lies, [frame] */
  readonly lifts: ReadonlyMap<string, Float64Array>;
  /** courses [frame][3] of the joints that carry a leg's end, from that joint up */
  readonly carriersOf: (end: number) => readonly Float64Array[];
}

/** How a round looks: below which share of the swing speed a part may rest; on the last, by which courses of steadied legs (null: they do not tremble) its ends are told. */
interface Look {
  readonly speedShare: number;
  readonly refine: boolean;
  readonly steadyCourses: ReadonlyMap<string, Float64Array> | null;
}

function findRound(
  clip: Clip,
  soles: readonly Sole[],
  named: (id: string) => number,
  { travel, heave, fit, lifts, carriersOf }: Known,
  { speedShare, refine, steadyCourses }: Look,
): Contact[] {
  const { frameCount: n, fps } = clip;
  const contacts: Contact[] = [];
  const courses = soleCourses(soles);
  // A heave is known to within a part of itself.
  const moved = { out: Math.max(2, Math.round(MOST_OUT * fps)), in: Math.max(2, Math.round(MOST_IN * fps)) };
  const slack = Math.min(HEAVE_LEFT * Math.sqrt(heave.course.reduce((sum, v) => sum + v * v, 0) / n), HEAVE_SIGMA * heave.left);
  for (const sole of soles) {
    const { legLength } = sole;
    for (const { id, modelled, rolls } of sole.points) {
      const raw = courses.get(id);
      if (!raw) continue;
      const rest = fit?.heights.get(id);
      const [slopeX, slopeZ] = fit ? [fit.slopeX, fit.slopeZ] : [0, 0];
      const lift = lifts.get(id);
      const levelledCourse = (of: Float64Array) => {
        const track = of.slice();
        for (let f = 0; f < n; f++) {
          track[f * 3] -= travel[f * 2];
          track[f * 3 + 2] -= travel[f * 2 + 1];
          track[f * 3 + 1] -= heave.course[f] + slopeX * track[f * 3] + slopeZ * track[f * 3 + 2] + tiltAt(heave.tilt, track[f * 3], track[f * 3 + 2]);
        }
        return track;
      };
      const track = levelledCourse(raw);
      const height = rest === undefined ? null : Float64Array.from({ length: n }, (_, f) => track[f * 3 + 1] - (lift?.[f] ?? 0) - rest);
      const calm = calmingFor(track, n, fps);
      const found = segmentContacts({ track, height, frameCount: n, fps, legLength, speedShare, calm });
      const spans = refine ? found.flatMap((span) => splitAtSteps(track, span, fps, legLength, calm)) : found;
      // A quick clean course looks like a noisy one; how much it stirs where it rests says which it is.
      const noise =
        refine && spans.length > 0
          ? Math.min(calm.noise, STIR_SIGMA * median(spans.map((span) => restlessness(track, span, plainAway(track, slack)))))
          : calm.noise;
      const left = smoothedNoise(noise, calm.cutoff, fps);
      const least = REST_TOLERANCE * (legLength / 0.9);
      const calmed = refine && noise > STEADY ? steadyCourses?.get(id) : undefined;
      const course = calmed ? levelledCourse(calmed) : refine && noise > STEADY ? smoothTrack(track, n, fps, calm.cutoff) : track;
      const away = calmed ? legAway(course, slack, raw, carriersOf(sole.leg.end), noise) : plainAway(course, slack);
      // Steadied legs lag behind a quick foot: where it rests as it came, and nearer than chance has it, it has not left.
      const asItCame = plainAway(track, slack);
      const leaves: Away = calmed ? (f, rest) => Math.min(away(f, rest), AS_IT_CAME * asItCame(f, rest)) : away;
      const sigmas = calmed ? ENDS_BY_LEG : ENDS;
      // A few frames say little of how much a part stirs: at least as much as in most of its spans.
      const usual = calmed ? median(spans.map((span) => restlessness(course, span, away))) : left;
      spans.forEach((span, i) => {
        const bounds = [i > 0 ? spans[i - 1][1] + 2 : 0, i + 1 < spans.length ? spans[i + 1][0] - 2 : n - 1] as const;
        const stirs = refine ? restlessness(course, span, away) : 0;
        const grow = Math.max(least, sigmas.grow * Math.max(usual, stirs));
        const trim = Math.max(least, sigmas.trim * Math.max(usual, stirs));
        const tolerance = {
          grow,
          trim,
          landing: modelled ? 0 : LANDING_TOLERANCE * (legLength / 0.9) * Math.min(1, (rolls ?? 1) / NO_ROLL),
          ends: calmed ? ENDS_SIGMA * noise : 0,
          onset: trim > CLEARLY_NOISY * least && trim < TOO_NOISY * legLength ? trim : 0,
        };
        const refined = refine ? refineSpan(course, span, bounds, tolerance, moved, away, leaves) : span;
        if (!refined) return;
        // So little of it is left that it is no stand, but where a foot crept by.
        if (refine && refined[0] > 0 && refined[1] < n - 1 && refined[1] - refined[0] + 1 < LEAST_LEFT * fps) return;
        contacts.push({
          point: id,
          joint: named(id),
          start: refined[0],
          end: refined[1],
          on: "ground",
          anchor: { mode: "settle", point: null },
          rampIn: null,
          rampOut: null,
          origin: "found",
        });
      });
    }
  }
  return contacts;
}

/** The most that a span's end is moved outwards, and inwards, seconds. */
const MOST_OUT = 0.09;
const MOST_IN = 0.2;
/** Trimmed to less than this a span is none, seconds. */
const LEAST_LEFT = 0.04;
/** A resting part's noise is at most this many times what it stirs by in the middle half of its spans, few frames as those may be. */
const STIR_SIGMA = 4;
/** Where tolerances are so many times those of a clean clip, ends are told by what comes behind them. */
const CLEARLY_NOISY = 30;
/** Beyond this share of the leg noise hides those too. */
const TOO_NOISY = 0.017;
/** How far a resting part of a clean clip may be from its place, metres for a leg of 0.9 m. */
const REST_TOLERANCE = 0.00015;
/** At the clip's ends, where smoothing has frames on one side only, a resting part is within so many deviations of its noise. */
const ENDS_SIGMA = 4;
/** A course with less noise than this is taken as it is, metres: smoothing would blur when it comes to rest. */
const STEADY = 0.0002;

/** An estimated point is off the place that the foot rolls about as it lands: it never comes to rest as exactly as a joint does, metres. */
const LANDING_TOLERANCE = 0.001;
/** … but for one that keeps stiller than this: the foot comes down flat and does not roll at all, metres. */
const NO_ROLL = 5e-7;
/** What may be left of a heave that was taken out of a course, as a share of it. */
const HEAVE_LEFT = 0.35;
/** … and in deviations of what parts that rest together still differ by. */
const HEAVE_SIGMA = 3;
/** A span grows by frames within so many deviations of its noise, and is trimmed of those beyond so many: one frame of a quick swing too many pulls a foot by centimetres, one too few by nothing. */
const ENDS = { grow: 1, trim: 2.2 };
/** … where the trembling leg itself is the measure, which shows sooner what has left. */
const ENDS_BY_LEG = { grow: 3, trim: 5.5 };

/** What a course that trembles shows as it came counts as so many times as far off as what is steadied. */
const AS_IT_CAME = 2.5;

/** A contact, where it rests as seen from the level that the body stands on mostly, and how far over that level it lies, metres. */
interface Standing {
  readonly contact: Contact;
  readonly rest: RestPoint;
  readonly level: number;
}

/** A foot stands by itself for at least so long if it carries the body, seconds. */
const CARRIES = 0.06;

/** Where contacts rest, with the steps and boxes that some of them are on taken out. Only what carries the body by itself for a while can be on one: a foot held in the air never does. */
function levelled(soles: readonly Sole[], contacts: readonly Contact[], fps: number, travel: Float64Array | null): Standing[] {
  const points = restPoints(soles, contacts, travel);
  const rests = points.map((p) => p.rest);
  const levels = levelsOf(rests, fitGround(rests));
  const legOf = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, sole.leg.limb] as const)));
  const carries = (contact: Contact) => {
    const others = contacts.filter((c) => legOf.get(c.point) !== legOf.get(contact.point));
    let alone = 0;
    for (let f = contact.start; f <= contact.end; f++) if (!others.some((c) => f >= c.start && f <= c.end)) alone++;
    return alone >= CARRIES * fps;
  };
  return points.map(({ contact, rest }, i) => {
    const level = levels[i] !== 0 && carries(contact) ? levels[i] : 0;
    return { contact, level, rest: { ...rest, point: [rest.point[0], rest.point[1] - level, rest.point[2]] } };
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

function restPoints(soles: readonly Sole[], contacts: readonly Contact[], travel: Float64Array | null): { contact: Contact; rest: RestPoint }[] {
  const courses = soleCourses(soles);
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
    const heights = Float64Array.from({ length: to - from + 1 }, (_, i) => Math.abs(course[(from + i) * 3 + 1] - point[1]));
    return [{ contact, rest: { part: contact.point, point, weight: Math.sqrt(contact.end - contact.start + 1), stirs: 1.4826 * median(heights) } }];
  });
}
