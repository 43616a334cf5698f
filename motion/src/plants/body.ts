import { type Clip, ClipDraft } from "../clip/clip.ts";
import type { Contact } from "../contacts/contact.ts";
import { PointTracks } from "../contacts/pointTracks.ts";
import { FREE, type Freedom, type Goal, reachBody } from "../kinematics/bodyReach.ts";
import { PoseFrame } from "../kinematics/poseFrame.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { runningMean } from "../signal/filters.ts";
import { ancestry } from "../skeleton/skeleton.ts";
import { fadeBetween } from "./fade.ts";
import { rampFrames, settingsAt } from "./plants.ts";
import { type SolveScope, scopeMarks } from "./scope.ts";

/** The body's place gives way readily, its turn less: one part alone is brought to its place without turning the body much. */
const RIGID: Freedom = { ...FREE, move: [1, 1, 1], hipsTurn: [0.12, 0.12, 0.12] };
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
 * Holds contacts of parts that no limb carries (back, seat, head, knees, elbows) by the body's own place and turn: the hips with all that
 * hangs on them go where their points have to be, rigidly, so that no pose changes. Displacements fade outside the spans as a foot's do.
 */
export function holdBody(motion: Motion, contacts: readonly Contact[], weights: Float64Array, scope: SolveScope | null): Clip {
  const { clip, character } = motion;
  const byBody = motion.points.filter((p) => p.limb < 0 && contacts.some((c) => c.point === p.id));
  if (byBody.length === 0) return clip;
  const { skeleton, rig } = character;
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
    return { point, course, shift };
  });
  const draft = ClipDraft.of(clip);
  const frame = new PoseFrame(skeleton, clip);
  const inverse = new Float64Array(4);
  const local = new Float64Array(3);
  for (let f = 0; f < n; f++) {
    if (weights[f] === 0 || marks?.[f] === 0) continue;
    const moved = shifts.filter(({ shift }) => Math.hypot(shift[f * 3], shift[f * 3 + 1], shift[f * 3 + 2]) * weights[f] > STILL);
    if (moved.length === 0) continue;
    frame.load(clip, f);
    conjugateQuatFlat(inverse, 0, frame.worldRotations, rig.hips * 4);
    const goals = moved.map(({ course, shift }): Goal => {
      // The point as the hips see it: it moves with them as one piece.
      for (let i = 0; i < 3; i++) local[i] = course[f * 3 + i] - frame.worldPositions[rig.hips * 3 + i];
      rotateVecFlat(local, 0, inverse, 0, local, 0);
      return {
        joint: rig.hips,
        local: local.slice(),
        position: [0, 1, 2].map((i) => course[f * 3 + i] + weights[f] * shift[f * 3 + i]),
        orientation: null,
        rank: "keep",
        extent: 0,
      };
    });
    reachBody(frame, rig, goals, RIGID);
    frame.store(draft, f, null);
  }
  return draft.done();
}
