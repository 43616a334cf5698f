import type { Clip } from "../clip/clip.ts";
import { moveBody } from "../clip/roots.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { rigidFit } from "../kinematics/rigidFit.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { runningMean } from "../signal/filters.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { fadeBetween } from "./fade.ts";
import { rampFrames, settingsAt } from "./plants.ts";
import { type SolveScope, scopeMarks } from "./scope.ts";

/** Displacements below this are none, metres. */
const STILL = 1e-7;

/** Half-width of the running means that calm what moves a body onto a place that was found, seconds. */
const CALM_SECONDS = 0.08;

function calmWithin(shift: Float64Array, start: number, end: number, half: number): void {
  for (let axis = 0; axis < 3; axis++) {
    const values = Float64Array.from({ length: end - start + 1 }, (_, i) => shift[(start + i) * 3 + axis]);
    runningMean(runningMean(values, half), half).forEach((v, i) => {
      shift[(start + i) * 3 + axis] = v;
    });
  }
}

/**
 * Holds contacts of parts that no limb carries (back, seat, head, knees, elbows) by the body's own place and turn: it goes where
 * its points have to be as one piece, so that no pose changes. Displacements fade outside the spans as a foot's do.
 */
export function holdBody(motion: Motion, contacts: readonly Contact[], weights: Float64Array, scope: SolveScope | null): Clip {
  const { clip, character } = motion;
  const byBody = motion.points.filter((p) => p.limb < 0 && contacts.some((c) => c.point === p.id));
  if (byBody.length === 0) return clip;
  const { skeleton } = character;
  const n = clip.frameCount;
  const tracks = new PointTracks(skeleton, clip, motion.points);
  const marks = scopeMarks(scope, clip, [...new Set(byBody.flatMap((p) => ancestry(skeleton, p.joint)))]);
  const shifts = byBody.map((point) => {
    const course = tracks.course(point.id) as Float64Array;
    const own = contacts.filter((c) => c.point === point.id).sort((a, b) => a.start - b.start);
    const shift = new Float64Array(n * 3);
    const anchor = new Float64Array(3);
    for (const contact of own) {
      for (let f = contact.start; f <= Math.min(n - 1, contact.end); f++) {
        anchor.set(contact.anchor.point as readonly [number, number, number]);
        if (typeof contact.on === "object") {
          const under = tracks.joint(contact.on.joint);
          rotateVecFlat(anchor, 0, under.rotations, f * 4, anchor, 0);
          for (let i = 0; i < 3; i++) anchor[i] += under.positions[f * 3 + i];
        }
        for (let i = 0; i < 3; i++) shift[f * 3 + i] = anchor[i] - course[f * 3 + i];
      }
    }
    // Where a trunk lies was found, not said: its own trembling is no reason to shake the body against it.
    for (const contact of own)
      if (contact.origin === "found") calmWithin(shift, contact.start, Math.min(n - 1, contact.end), Math.round(CALM_SECONDS * clip.fps));
    const spans = own.map((c) => {
      const ramps = rampFrames(settingsAt(motion.plants, Math.round((c.start + c.end) / 2)), clip.fps);
      return { start: c.start, end: Math.min(n - 1, c.end), rampIn: c.rampIn ?? ramps.landing, rampOut: c.rampOut ?? ramps.lift };
    });
    fadeBetween(shift, n, spans);
    const rests = new Uint8Array(n);
    const said = new Uint8Array(n);
    for (const c of own) (c.origin === "set" ? said : rests).fill(1, c.start, c.end + 1);
    return { course, shift, rests, said };
  });
  return moveBody(skeleton, clip, (f) => {
    if (weights[f] === 0 || marks?.[f] === 0) return null;
    const moved = shifts.filter(({ shift }) => Math.hypot(shift[f * 3], shift[f * 3 + 1], shift[f * 3 + 2]) * weights[f] > STILL);
    if (moved.length === 0) return null;
    const off = [0, 0, 0];
    // What stays where it is holds as well as what has to move.
    const held = shifts.filter((s) => moved.includes(s) || s.rests[f] || s.said[f]);
    const places = held.map(({ course }) => course.subarray(f * 3, f * 3 + 3));
    const targets = held.map(({ shift }, k) => places[k].map((v, i) => v + weights[f] * shift[f * 3 + i]));
    const { turn, from, to } = rigidFit(places, targets);
    // Where a person said how it rests, it does exactly; what a rigid body cannot do besides is left to what was found.
    const said = held.flatMap(({ said }, k) => (said[f] ? [k] : []));
    for (const k of said) {
      const at = rotateVecFlat(
        new Float64Array(3),
        0,
        turn,
        0,
        [0, 1, 2].map((i) => places[k][i] - from[i]),
        0,
      );
      for (let i = 0; i < 3; i++) off[i] += (targets[k][i] - to[i] - at[i]) / said.length;
    }
    const back = rotateVecFlat(
      new Float64Array(3),
      0,
      conjugateQuatFlat(new Float64Array(4), 0, turn, 0),
      0,
      to.map((v, i) => v + off[i]),
      0,
    );
    return { shift: [0, 1, 2].map((i) => back[i] - from[i]), turn: held.length > 1 ? turn : null };
  });
}
