import type { RigidMove } from "../clip/roots.ts";
import { moveBody } from "../clip/roots.ts";
import { carryAnchors } from "../contacts/carryAnchors.ts";
import { sortContacts } from "../contacts/contact.ts";
import { commonHeave } from "../contacts/heave.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { middlePoint } from "../contacts/segment.ts";
import { travelDisplacement, travelError, WANDER, withoutTravel } from "../contacts/travel.ts";
import { settingsUpgrade } from "../documents/steps.ts";
import { fitGround, type RestPoint } from "../ground/fitGround.ts";
import { type Ground, groundTilt, planeGround } from "../ground/ground.ts";
import type { Motion } from "../motion.ts";
import { placeAnchors } from "../plants/anchors.ts";
import { layFlat } from "../plants/layFlat.ts";
import { limbEnds } from "../plants/plants.ts";
import { PLANT_DEFAULTS, type PlantSettings, plantSettingsSchema } from "../plants/settings.ts";
import { solvePlants } from "../plants/solve.ts";
import { mendLegs, steadyLegs } from "../plants/steady.ts";
import { definePatch, type PatchContext } from "./kind.ts";

/** The rate that ramps of version 1 were counted at: at other rates they lasted as long. */
const RAMP_RATE_1 = 30;

export const plantPatch = definePatch<PlantSettings>({
  kind: "plant",
  title: "Plant feet",
  description: "Takes the travel's error out of the root, then holds every contact still where it rests.",
  schema: plantSettingsSchema,
  defaults: PLANT_DEFAULTS,
  masked: false,
  once: true,
  treats: { kinds: ["travel", "slide", "float", "sink", "stretch"], propose: () => ({}) },
  fields: {
    travelStrength: {
      label: "Travel follows the feet",
      unit: "%",
      factor: 100,
      step: 0.01,
      help: "How much of the root's wrong travel is taken out before any leg is bent",
    },
    travelAfter: {
      label: "Behind a stretch, travel",
      choices: { carry: "goes on", spread: "is as it was" },
      onlyWithRange: true,
      help: "Over a stretch of the clip: the body goes on from where the stretch has brought it, or the correction is spread over the stretch and gone at its end",
    },
    steadyLegs: {
      label: "Steady trembling legs",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "Legs and hips that tremble (over 0.1° of noise) are smoothed first; clean ones are left as they are",
    },
    hipsMayDropCm: { label: "Hips may drop", unit: "cm", step: 0.5, help: "The most the hips come down so that a leg reaches" },
    softKneeDegrees: { label: "Soft knee from", unit: "°", step: 1, help: "Knees are not taken straighter than this where the hips can help" },
    layFlat: {
      label: "Lay feet flat",
      unit: "%",
      factor: 100,
      step: 0.05,
      help: "How far a foot that stands tilted is turned onto the ground before it is held; a contact may say otherwise",
    },
    landingRamp: { label: "Landing ramp", unit: "f", step: 1, inFrames: true, help: "Time before a landing over which the foot comes to its place" },
    liftRamp: { label: "Lift ramp", unit: "f", step: 1, inFrames: true, help: "Time after a lift over which the foot returns to its own course" },
    rests: {
      label: "Rests",
      choices: { settle: "settles" },
      help: "Where a foot is held: where it settles, or where it is on its span's first or last frame",
    },
  },
  fromFrames: settingsUpgrade({
    landingRampInFrames: (v) => ({ landingRamp: typeof v === "number" ? v / RAMP_RATE_1 : v }),
    liftRampInFrames: (v) => ({ liftRamp: typeof v === "number" ? v / RAMP_RATE_1 : v }),
  }),
  sees: () => "whole",
  apply(motion: Motion, settings: PlantSettings, context: PatchContext): Motion {
    const touched = motion.contacts.filter((c) => c.end >= context.start && c.start <= context.end);
    const mended = mendLegs(motion, settings.steadyLegs, context.weights);
    const steadied = steadyLegs(mended, settings.steadyLegs, context.weights);
    // Read off the legs before they are steadied: smoothing would take a share of the speed along.
    const { moves, ground } = travelMoves(mended, settings, context);
    const moveAt = (f: number) => moves?.[Math.max(0, Math.min(moves.length - 1, f))] ?? null;
    const { skeleton } = motion.character;
    const ends = limbEnds(motion.character, motion.points);
    const flat = layFlat({ ...motion, contacts: touched }, steadied.clip, ends, settings, context.weights);
    const corrected = moves ? moveBody(skeleton, flat, moveAt) : flat;
    const untouched = carryAnchors(
      motion.contacts.filter((c) => !touched.includes(c)),
      moveAt,
    );
    const tracks = new PointTracks(skeleton, corrected, motion.points);
    const anchored = placeAnchors(touched, tracks, ends, ground, settings);
    const planted: Motion = {
      ...motion,
      ground,
      clip: corrected,
      contacts: sortContacts([...untouched, ...anchored]),
      plants: [...motion.plants, { settings, weights: context.weights }],
    };
    // What earlier plants hold and nothing has changed since is solved already.
    const settled = motion.settled && (moves ? moveBody(skeleton, motion.settled, moveAt) : motion.settled);
    const clip = solvePlants(planted, settled && { settled, also: context.weights }, context.pause);
    return { ...planted, clip, settled: clip };
  },
});

/** Where contacts on the ground rest once a path [frame][2] is taken out of the body's. */
function restsWithout(motion: Motion, tracks: PointTracks, path: Float64Array): RestPoint[] {
  return motion.contacts.flatMap(({ point, on, start, end }): RestPoint[] => {
    const course = on === "ground" ? tracks.bearing(point) : undefined;
    if (!course) return [];
    const [x, y, z] = middlePoint(withoutTravel(course.subarray(start * 3, (end + 1) * 3), path.subarray(start * 2)), 0, end - start);
    return [{ part: "ground", point: [x, y - (tracks.point(point)?.clearance ?? 0), z], weight: 1, stirs: 0 }];
  });
}

/** The plane under such places, a slope taken for one beyond so many standard errors; the motion's own ground where they are too few, or shapes stand on it. */
function planeUnder({ ground }: Motion, rests: readonly RestPoint[], sure?: number): Ground {
  if (ground.shapes.length > 0 || rests.length < LEAST_RESTS) return ground;
  const { slopeX, slopeZ, heights } = fitGround(rests, sure);
  return planeGround(heights.get("ground") ?? 0, slopeX, slopeZ);
}

/** Fewer places than this say nothing of a slope. */
const LEAST_RESTS = 4;

/**
 * The moves [frame] that take the movement of planted parts out of the body's level path, and what heaves all of them out of its height; null where there is none to take; and the ground under them. Over a stretch they
 * begin with nothing; what they have come to at its end goes on behind it, or (spread) is given back evenly over the stretch. The correction
 * fades in and out with the weights by its speed, never by its size, so that no ramp moves the body.
 */
function travelMoves(motion: Motion, settings: PlantSettings, context: PatchContext): { readonly moves: RigidMove[] | null; readonly ground: Ground } {
  if (settings.travelStrength === 0 || !motion.points.some((p) => p.bears)) return { moves: null, ground: motion.ground };
  const { skeleton, body } = motion.character;
  const { frameCount, fps } = motion.clip;
  const tracks = new PointTracks(skeleton, motion.clip, motion.points);
  // The hips' course, not the root's: some skeletons have a root that stays at the origin.
  const hips = tracks.joint(body.roles.hips ?? 0).positions;
  const error = travelDisplacement(travelError(motion.contacts, tracks.bearing, hips, fps), hips, fps, WANDER.moved);
  const { weights, whole } = context;
  const even = whole && weights.every((w) => w === weights[0]);
  const path = new Float64Array(frameCount * 2);
  for (let i = 0; i < path.length; i++) {
    const f = i >> 1;
    path[i] = even ? weights[0] * error[i] : f === 0 ? 0 : path[i - 2] + ((weights[f] + weights[f - 1]) / 2) * (error[i] - error[i - 2]);
  }
  if (!even && settings.travelAfter === "spread") spread(path, weights);
  for (let i = 0; i < path.length; i++) path[i] *= settings.travelStrength;
  const rests = restsWithout(motion, tracks, path);
  // What slopes is as much steeper as the way over it has become shorter.
  const ground = groundTilt(motion.ground) === 0 ? motion.ground : planeUnder(motion, rests);
  const clearanceOf = (id: string) => tracks.point(id)?.clearance ?? 0;
  const known = new Map<string, Float64Array | undefined>();
  const corrected = (id: string) => {
    if (!known.has(id)) {
      const course = tracks.bearing(id);
      known.set(id, course && withoutTravel(course, path));
    }
    return known.get(id);
  };
  const heave = commonHeave(motion.contacts, corrected, clearanceOf, planeUnder(motion, rests, 0), frameCount, fps);
  const moves = Array.from({ length: frameCount }, (_, f) => ({
    shift: [-path[f * 2], -settings.travelStrength * weights[f] * heave[f], -path[f * 2 + 1]],
    turn: null,
  }));
  return { moves, ground };
}

/** Takes the path's end out of it again, in step with the weights. */
function spread(path: Float64Array, weights: Float64Array): void {
  const total = weights.reduce((sum, w) => sum + w, 0);
  const [endX, endZ] = path.slice(-2);
  let passed = 0;
  weights.forEach((w, f) => {
    passed += w;
    const share = total > 0 ? passed / total : 0;
    path[f * 2] -= share * endX;
    path[f * 2 + 1] -= share * endZ;
  });
}
