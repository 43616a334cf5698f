import { type Clip, copyClip } from "./clip/clip.ts";
import { activePatches, type Evaluation } from "./evaluate.ts";
import { type Goal, reachBody } from "./kinematics/bodyReach.ts";
import { PoseFrame } from "./kinematics/poseFrame.ts";
import { conjugateQuatFlat, multiplyQuatFlat } from "./math/quat.ts";
import type { Motion } from "./motion.ts";
import { applyPiece, patchKind } from "./patches/index.ts";
import { pieceOf, standingLimbs } from "./pose/editMotion.ts";
import type { Work } from "./work.ts";

/**
 * One frame of a work while a patch of it is being changed, without evaluating the rest: a motion of that single frame, or null where only
 * the whole can tell (patches that look at other frames were changed, several at once, or frames were cut).
 * The changed patch and local ones after it are computed exactly; what other patches did at this frame when the work was last evaluated
 * is carried over as differences; feet that stand are brought back to where they stood.
 */
export function previewFrame(evaluation: Evaluation, work: Work, frame: number): Motion | null {
  const { base, stages, result } = evaluation;
  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  if (work.livePlant !== evaluation.work.livePlant || !same(work.contacts, evaluation.work.contacts) || !same(work.body, evaluation.work.body)) return null;
  const active = activePatches(work.patches);
  const frameCount = base.clip.frameCount;
  if ([...stages.map((s) => s.motion), result].some((motion) => motion.clip.frameCount !== frameCount) || frame >= frameCount) return null;
  let old = base;
  let piece: Motion | null = null;
  let k = 0;
  for (const patch of active) {
    const stage = stages[k];
    const known = stage?.patch.id === patch.id;
    const unchanged = known && same(stage.patch, patch);
    const local = patchKind(patch.kind)?.local === true;
    if (unchanged) {
      if (piece) piece = local ? applyPiece(piece, patch, frame, frameCount) : carried(piece, old, stage.motion, frame);
      old = stage.motion;
      k++;
      continue;
    }
    if (piece || !local) return null;
    piece = applyPiece(pieceOf(old, frame), patch, frame, frameCount);
    if (known) {
      old = stage.motion;
      k++;
    } else if (active.length !== stages.length + 1) return null;
  }
  if (k !== stages.length) return null;
  const last = carried(piece ?? pieceOf(old, frame), old, result, frame);
  return work.livePlant ? stood(last, result, frame) : last;
}

/** The piece changed as `from` was changed to `to` at the frame: rotations in their joints' own frames, positions by difference. */
function carried(piece: Motion, from: Motion, to: Motion, frame: number): Motion {
  if (from.clip === to.clip) return { ...piece, plant: to.plant };
  const clip = copyClip(piece.clip);
  const n = clip.jointCount * 4;
  const q = new Float64Array(4);
  for (let o = 0; o < n; o += 4) {
    const f = frame * n + o;
    if ([0, 1, 2, 3].every((i) => from.clip.rotations[f + i] === to.clip.rotations[f + i])) continue;
    conjugateQuatFlat(q, 0, from.clip.rotations, f);
    multiplyQuatFlat(q, 0, q, 0, to.clip.rotations, f);
    multiplyQuatFlat(clip.rotations, o, clip.rotations, o, q, 0);
  }
  const p = clip.positions.length;
  for (let i = 0; i < p; i++) clip.positions[i] += to.clip.positions[frame * p + i] - from.clip.positions[frame * p + i];
  return { ...piece, clip, plant: to.plant };
}

/** The piece with its standing feet where they stand in the last result. */
function stood(piece: Motion, result: Motion, frame: number): Motion {
  const limbs = standingLimbs(result)(frame).filter((stand) => stand.weight === 1);
  if (limbs.length === 0) return piece;
  const { skeleton, rig } = piece;
  const was = new PoseFrame(skeleton, result.clip);
  was.load(result.clip, frame);
  const now = new PoseFrame(skeleton, piece.clip);
  now.load(piece.clip, 0);
  const goals = limbs.map(({ limb }): Goal => {
    const { end } = rig.limbs[limb];
    return {
      joint: end,
      local: null,
      position: was.worldPositions.slice(end * 3, end * 3 + 3),
      orientation: was.worldRotations.slice(end * 4, end * 4 + 4),
      rank: "keep",
      extent: Number.POSITIVE_INFINITY,
    };
  });
  reachBody(now, rig, goals);
  const clip: Clip = copyClip(piece.clip);
  now.store(clip, 0, null);
  return { ...piece, clip };
}
