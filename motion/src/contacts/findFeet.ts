import type { Character } from "../character/character.ts";
import { type ContactPoint, legsOf } from "../character/contactPoints.ts";
import { buildSole } from "../character/soles.ts";
import type { Clip } from "../clip/clip.ts";
import { fitGround, type GroundFit } from "../ground/fitGround.ts";
import { type Ground, LEVEL_GROUND, planeGround } from "../ground/ground.ts";
import { quinticStep } from "../math/ramp.ts";
import { axisOf, runningMean } from "../signal/filters.ts";
import { withoutSpikes } from "../signal/spikes.ts";
import { steadiedClip } from "../signal/steadyClip.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { calibrateSole } from "./calibrate.ts";
import { type Contact, sortContacts } from "./contact.ts";
import { carriedOverSpikes } from "./edgeSpikes.ts";
import { findRound } from "./findRound.ts";
import { type Heave, NO_TILT } from "./heave.ts";
import { legSpikes, unseenFrames } from "./legSpikes.ts";
import { showsTravel } from "./pointTracks.ts";
import { liftOf, settleSoles } from "./settleSoles.ts";
import { soleCourses } from "./soleCourses.ts";
import { heaveOver, levelled, standsUnder, underBody } from "./standing.ts";
import { carriersIn, jointTrack } from "./tracks.ts";
import { travelDisplacement, travelError, WANDER } from "./travel.ts";

/** The feet's contacts, the ground under them, and their points as this clip shows them rolling and resting. */
export interface FeetFound {
  readonly points: readonly ContactPoint[];
  readonly contacts: readonly Contact[];
  /** level displacement [frame][2] by which the body's travel is wrong as they show it, metres */
  readonly travel: Float64Array;
  /** what heaves the body as they show it, [frame] metres */
  readonly heave: Float64Array;
  /** those of them that the body is over, and where they rest */
  readonly under: readonly { readonly contact: Contact; readonly place: readonly [number, number, number] }[];
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
  const clip = withoutSpikes(source, legSpikes(character, source));
  if (legs.length === 0 || clip.frameCount < 3) {
    const travel = new Float64Array(clip.frameCount * 2);
    return { points: character.contactPoints, contacts: [], under: [], travel, heave: stillBody(clip.frameCount).course, ground: LEVEL_GROUND };
  }
  const hips = jointTrack(skeleton, clip, body.roles.hips ?? 0).positions;
  let soles = legs.map((leg) => buildSole(skeleton, clip, leg, unseenFrames(character, source, leg), hips));
  const named = (id: string) => character.contactPoints.find((p) => p.id === id)?.named ?? 0;
  const climb = runningMean(axisOf(hips, 1, 3), Math.round(CLIMBS_OVER * clip.fps));
  const feet = { hips, frameCount: clip.frameCount, fps: clip.fps };
  const carriersOf = carriersIn(skeleton, clip);
  const steadied = steadiedClip(clip, legJoints(character));
  let fit: GroundFit | undefined;
  let ground = LEVEL_GROUND;
  let contacts: Contact[] = [];
  let travel: Float64Array = new Float64Array(clip.frameCount * 2);
  let followed = 0;
  let heave = stillBody(clip.frameCount);
  let ramp: Float64Array = new Float64Array(clip.frameCount);
  let lifts: ReadonlyMap<string, Float64Array> = new Map();
  SPEED_SHARES.forEach((speedShare, round) => {
    pause();
    const last = round === SPEED_SHARES.length - 1;
    // Where trembling legs come to rest is seen better once their joints have been steadied, each as far as it bears it.
    const steady = last ? steadied : clip;
    const steadyCourses = steady === clip ? null : soleCourses(soles.map((sole) => ({ ...sole, track: jointTrack(skeleton, steady, sole.leg.end) })));
    contacts = findRound(clip, soles, named, { travel, followed, heave, fit, lifts, climb, carriersOf }, { speedShare, refine: last, steadyCourses });
    if (last) contacts = carriedOverSpikes(character, { came: source, mended: clip }, contacts);
    const carrying = underBody({ ...feet, soles }, contacts);
    const courses = soleCourses(soles);
    const error = travelError(carrying, (id) => (showsTravel(character.contactPoints, id) ? courses.get(id) : undefined), hips, clip.fps, {
      sought: true,
      ...(steadied !== clip && {
        legs: {
          carriersOf: (id) => carriersOf(soles.find((sole) => sole.points.some((p) => p.id === id))?.leg.end ?? -1),
          slope: [fit?.slopeX ?? 0, fit?.slopeZ ?? 0],
        },
      }),
    });
    travel = travelDisplacement(error, hips, clip.fps, WANDER.sought);
    followed = Math.sqrt(error.rest.reduce((sum, v) => sum + v * v, 0) / clip.frameCount);
    if (contacts.length === 0) return;
    // Estimated points first go where the ground is, then to where the foot is stillest: seen with the travel put right, as all that is looked for next.
    const rests = (...known: [path: Float64Array | null, heave?: Float64Array]) => levelled({ ...feet, soles }, carrying, ...known).map((s) => s.rest);
    let settled = settleSoles(soles, rests(travel, heave.course));
    soles = settled.soles;
    const anatomical = soles;
    const thickness = settled.off === 0 ? "known" : "guessed";
    for (let k = 0; k < CALIBRATIONS && round === 1; k++) {
      // What heaves the body is seen wrongly by heels that are not where the foot rolls, and the other way round: in turns.
      if (k > 0) heave = heaveOver({ ...feet, soles }, carrying, travel).heave;
      soles = anatomical.map((sole) => calibrateSole(sole, carrying, travel, heave.course, clip.fps, thickness));
      settled = settleSoles(soles, rests(travel, heave.course));
      soles = settled.soles;
    }
    if (last) {
      // The clip's own ground is what it stands on as it comes; what stands on a step has a place of its own.
      const standing = levelled({ ...feet, soles }, carrying, null, slight(ramp));
      const asItComes = standing.map((s) => s.rest);
      const raised = new Set(standing.filter((s) => Math.abs(s.over) > (A_STEP * s.legLength) / 0.9).map((s) => s.contact));
      contacts = contacts.map((contact) => (raised.has(contact) ? { ...contact, on: "place" as const } : contact));
      const plane = fitGround(asItComes);
      ground = planeGround(settled.off - liftOf(asItComes, plane), plane.slopeX, plane.slopeZ);
      return;
    }
    ({ fit, lifts, heave, ramp } = heaveOver({ ...feet, soles }, carrying, travel));
  });
  const calibrated = new Map(soles.flatMap((sole) => sole.points.map((p) => [p.id, p] as const)));
  return {
    points: character.contactPoints.map((p) => {
      const found = calibrated.get(p.id);
      return found ? { ...p, local: found.local, clearance: found.clearance } : p;
    }),
    ground,
    contacts: sortContacts(contacts),
    travel,
    heave: heave.course,
    under: standsUnder({ ...feet, soles }, contacts),
  };
}

/** A body climbs or comes down as the mean of its hips over this long to either side does, seconds: about a stride. */
const CLIMBS_OVER = 0.55;

/** What rises or sinks a clip by less than this to either side of its middle, metres, is a fault of the body's; by twice as much it may as well be a slope, as which it comes. */
const SLIGHT_RISE = 0.03;

function slight(ramp: Float64Array): Float64Array {
  const share = 1 - quinticStep(Math.abs(ramp[0]) / SLIGHT_RISE - 1);
  return ramp.map((v) => share * v);
}

/** Stands that are that much over the others are on something of their own, metres for a leg of 0.9 m. */
const A_STEP = 0.015;

/** A body that nothing heaves, as far as is known. */
const stillBody = (frameCount: number): Heave => ({ course: new Float64Array(frameCount), tilt: NO_TILT, left: 0 });

/** Joints that carry what bears the body, root first. */
export function legJoints({ skeleton, contactPoints }: Character): Set<number> {
  return new Set(contactPoints.flatMap((point) => (point.bears ? ancestry(skeleton, point.named) : [])));
}
