import { ClipDraft, cropClip, readPosition, readRotation, rotationBetween } from "./clip/clip.ts";
import { activePatches, type Patch } from "./documents/patch.ts";
import type { Work } from "./documents/work.ts";
import type { Evaluation, Stage } from "./evaluate.ts";
import { type Goal, reachBody } from "./kinematics/bodyReach.ts";
import { PoseFrame } from "./kinematics/poseFrame.ts";
import { conjugateQuatFlat, multiplyQuatFlat } from "./math/quat.ts";
import type { Motion } from "./motion.ts";
import { applyPiece, applyWindow, kindOf, patchKind } from "./patches/index.ts";
import { pieceOf } from "./piece.ts";
import { standingLimbs } from "./pose/editMotion.ts";
import type { OtherClips } from "./sources.ts";
import { carriedAlong } from "./time/carriedAlong.ts";
import { frameOf, inputAt, isIdentity } from "./time/warp.ts";

/** Frames of a motion, both ends inclusive. */
type Window = readonly [number, number];

/** The widest stretch that is computed for one frame; where a kind sees more the whole is as quick. */
const WIDEST = 96;

/** What happens to a piece on its way up: computed anew, carried over as what the patch did before, or taken out at another moment. */
type Step =
  | { readonly how: "apply"; readonly patch: Patch; readonly known: Motion; readonly input: Window; readonly output: Window }
  | { readonly how: "read"; readonly piece: Motion; readonly input: Window; readonly output: Window }
  | { readonly how: "carry"; readonly from: Motion; readonly stage: Stage; readonly input: Window; readonly output: Window }
  | { readonly how: "pick"; readonly stage: Stage; readonly input: Window; readonly output: Window };

/**
 * One frame of a work while a patch of it is being changed, without evaluating the rest: a motion of that single frame, or null where only
 * the whole can tell (the changed patch sees the whole of its input and has to read it anew, several were changed at once, or moments between
 * frames are shown). The changed patch, and others above it that see only so far, are computed exactly on the stretch that they see; what the rest
 * did when the work was last evaluated is carried over as differences; feet that stand are brought back to where they stood.
 */
export function previewFrame(evaluation: Evaluation, work: Work, frame: number): Motion | null {
  const { base, stages, result } = evaluation;
  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  if (work.livePlant !== evaluation.work.livePlant || !same(work.contacts, evaluation.work.contacts) || !same(work.body, evaluation.work.body)) return null;
  const active = activePatches(work.patches);
  if (frame < result.clip.frameCount && onlyTimesChanged(evaluation, work, same)) return pieceOf(result, frame, frame);
  const changed = changedPatch(active, stages, same);
  if (changed === null || frame >= result.clip.frameCount) return null;
  // Over a change of body differences of poses mean nothing.
  if (stages.some(({ motion }, i) => (changed === "none" || i >= changed) && motion.character !== inputOf(stages, base, i).character)) return null;
  const steps = changed === "none" ? [] : planSteps(active, stages, base, changed, frame, evaluation.others);
  if (!steps) return null;
  const lastMotion = stages.at(-1)?.motion ?? base;
  let piece = pieceOf(inputOf(stages, base, changed === "none" ? stages.length : changed), ...(steps[0]?.input ?? ([frame, frame] as const)));
  for (const step of steps) piece = advance(piece, step);
  const last = carried(piece, lastMotion, result, [frame, frame]);
  return work.livePlant ? stood(last, result, frame) : last;
}

/**
 * Is all that was changed when the motion shows its moments, what stands over it gone along? Then a moment looks as it did, and the frame that showed it stands for the
 * one that will.
 */
function onlyTimesChanged(evaluation: Evaluation, work: Work, same: (a: unknown, b: unknown) => boolean): boolean {
  const before = evaluation.work;
  const at = work.patches.findIndex((patch, i) => !same(patch, before.patches[i]));
  const patch = work.patches[at];
  if (!patch || patch.id !== before.patches[at]?.id || patch.kind !== before.patches[at].kind) return false;
  const kind = patchKind(patch.kind);
  if (!kind?.warps || kind.makes || patch.parts !== null) return false;
  const { fps, frameCount } = evaluation.base.clip;
  const alone = { ...before, patches: before.patches.map((p, i) => (i === at ? patch : p)) };
  return same(carriedAlong(before, alone, { seconds: (frameCount - 1) / fps, fps }).patches, work.patches);
}

function inputOf(stages: readonly Stage[], base: Motion, k: number): Motion {
  return k === 0 ? base : stages[k - 1].motion;
}

/** The one active patch that differs from what was evaluated, or is new; "none" when all are as they were, null where more than that changed. */
function changedPatch(active: readonly Patch[], stages: readonly Stage[], same: (a: unknown, b: unknown) => boolean): number | "none" | null {
  const first = active.findIndex((patch, i) => !same(patch, stages[i]?.patch));
  if (first < 0) return active.length === stages.length ? "none" : null;
  const isNew = active.length === stages.length + 1;
  if (!isNew && (active.length !== stages.length || active[first].id !== stages[first].patch.id)) return null;
  return active.slice(first + 1).every((patch, i) => same(patch, stages[first + i + (isNew ? 0 : 1)]?.patch)) ? first : null;
}

/** The steps from the changed patch up to the result's frame, worked out from the top down. */
function planSteps(active: readonly Patch[], stages: readonly Stage[], base: Motion, changed: number, frame: number, others: OtherClips): Step[] | null {
  const isNew = active.length === stages.length + 1;
  const steps: Step[] = [];
  let output: Window = [frame, frame];
  for (let i = active.length - 1; i >= changed; i--) {
    const patch = active[i];
    const kind = kindOf(patch);
    const stage = i === changed && isNew ? null : stages[isNew ? i - 1 : i];
    const from = inputOf(stages, base, isNew && i > changed ? i - 1 : i);
    const { fps, frameCount } = from.clip;
    const sees = kind.sees(patch.settings, fps);
    if (i === changed && (sees === "whole" || !kind.ranged)) {
      const piece = isNew || kind.warps ? null : applyWindow(from, patch, output, others);
      if (!piece) return null;
      steps.unshift({ how: "read", piece, input: output, output });
      continue;
    }
    if (stage && !isIdentity(stage.warp)) {
      const [a, b] = output.map((f) => frameOf(inputAt(stage.warp, f / fps), fps));
      if (!Number.isInteger(a) || b - a !== output[1] - output[0]) return null;
      steps.unshift({ how: "pick", stage, input: [a, b], output });
      output = [a, b];
    } else if (sees === "whole") {
      if (!stage) return null;
      steps.unshift({ how: "carry", from, stage, input: output, output });
    } else {
      const input: Window = [Math.max(0, output[0] - Math.ceil(sees.before * fps)), Math.min(frameCount - 1, output[1] + Math.ceil(sees.after * fps))];
      if (input[1] - input[0] >= WIDEST) return null;
      steps.unshift({ how: "apply", patch, known: from, input, output });
      output = input;
    }
  }
  return steps;
}

function advance(piece: Motion, step: Step): Motion {
  const { input, output } = step;
  // Only the moments themselves change: contacts and plants are those of the stage.
  if (step.how === "pick") return { ...pieceOf(step.stage.motion, ...output), clip: piece.clip };
  if (step.how === "read") return step.piece;
  if (step.how === "carry") return carried(piece, step.from, step.stage.motion, output);
  const made = applyPiece(piece, step.patch, input[0], step.known.clip.frameCount, step.known);
  return input[0] === output[0] && input[1] === output[1] ? made : pieceOf(made, output[0] - input[0], output[1] - input[0]);
}

/** The piece changed as `from` was changed to `to` over a window: rotations in their joints' own frames, positions by difference. */
function carried(piece: Motion, from: Motion, to: Motion, window: Window): Motion {
  const around = { contacts: pieceOf(to, ...window).contacts, plants: pieceOf(to, ...window).plants, ground: to.ground };
  if (from.clip === to.clip) return { ...piece, ...around };
  const draft = ClipDraft.of(piece.clip);
  const [a, b, q] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  for (let f = window[0]; f <= window[1]; f++) {
    const at = f - window[0];
    for (let j = 0; j < piece.clip.jointCount; j++) {
      if (rotationBetween(from.clip, f, to.clip, f, j) === 0) continue;
      readRotation(from.clip, j, f, a, 0);
      readRotation(to.clip, j, f, b, 0);
      conjugateQuatFlat(a, 0, a, 0);
      multiplyQuatFlat(a, 0, a, 0, b, 0);
      readRotation(piece.clip, j, at, q, 0);
      multiplyQuatFlat(q, 0, q, 0, a, 0);
      draft.setRotation(j, at, q);
    }
    for (let s = 0; s < piece.clip.positionJoints.length; s++) {
      readPosition(from.clip, s, f, a, 0);
      readPosition(to.clip, s, f, b, 0);
      readPosition(piece.clip, s, at, q, 0);
      draft.setPosition(s, at, [q[0] + b[0] - a[0], q[1] + b[1] - a[1], q[2] + b[2] - a[2]]);
    }
  }
  return { ...piece, ...around, clip: draft.done() };
}

/** The piece (of one frame) with its standing feet where they stand in the last result. */
function stood(piece: Motion, result: Motion, frame: number): Motion {
  const limbs = standingLimbs(result)(frame).filter((stand) => stand.weight === 1);
  if (limbs.length === 0) return piece;
  const { skeleton, rig } = piece.character;
  const was = new PoseFrame(skeleton, result.clip);
  was.load(result.clip, frame);
  const now = new PoseFrame(skeleton, piece.clip);
  now.load(cropClip(piece.clip, 0, 0), 0);
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
  const draft = ClipDraft.of(piece.clip);
  now.store(draft, 0, null);
  return { ...piece, clip: draft.done() };
}
