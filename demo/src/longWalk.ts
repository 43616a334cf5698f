import { type Clip, ClipDraft, readPosition, type Skeleton } from "@stride/motion";
import { performBiped } from "./biped.ts";
import { buildBiped } from "./characters.ts";
import { gaitPlan, straight } from "./plans.ts";

const GAIT = {
  stepLength: 0.68,
  stepTime: 0.54,
  stance: 0.61,
  width: 0.17,
  strikePitch: 0.3,
  liftPitch: 0.7,
  clearance: 0.04,
  bob: 0.012,
  shift: 0.4,
};
/** Frames a second of the long walks. */
export const LONG_WALK_FPS = 120;
/** By how much the walk is too fast for its feet: every contact then has something to hold. */
const SKATES = 0.06;

/** A body and what it does. */
export interface Walk {
  readonly skeleton: Skeleton;
  readonly clip: Clip;
}

/** A skating walk of so many frames at 120 a second, for measuring speed: of 52 joints with fingers, of 22 without. */
export function skatingWalk(frames: number, { fingers }: { readonly fingers: boolean }): Walk {
  const { skeleton, ...body } = buildBiped("bench", "Bench", { height: 1.72, breadth: 1, fingers, toes: true });
  const plan = gaitPlan({ ...GAIT, name: "walk", fps: LONG_WALK_FPS, seed: 1, seconds: (frames - 1) / LONG_WALK_FPS, path: straight });
  const { clip } = performBiped({ skeleton, ...body }, plan);
  const draft = ClipDraft.of(clip);
  const place = new Float64Array(3);
  for (let f = 0; f < frames; f++) {
    readPosition(clip, 0, f, place, 0);
    place[2] *= 1 + SKATES;
    draft.setPosition(0, f, place);
  }
  return { skeleton, clip: draft.done() };
}
