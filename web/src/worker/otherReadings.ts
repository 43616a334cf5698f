import {
  carriedOnto,
  clocksOf,
  type Evaluation,
  findSeams,
  frameOf,
  type JoinSettings,
  landingsOf,
  type Motion,
  momentsBetween,
  type Patch,
  patchKind,
  quatAngleFlat,
  type SettleSettings,
  type SuppliedSources,
  seamFigures,
} from "@stride/motion";
import { frameAt } from "./readings.ts";
import type { PartDifference, SeamView, SettleView } from "./views.ts";

/** Seams that are proposed. */
const MOST_SEAMS = 4;

export function seamView(received: Motion, patch: Patch, sources: SuppliedSources): SeamView | null {
  const settings = { ...patchKind("join")?.defaults, ...patch.settings } as JoinSettings;
  const source = settings.clip && sources.find(settings.clip);
  if (!source) return null;
  const other = carriedOnto(source, received).motion;
  const seconds = (m: Motion) => (m.clip.frameCount - 1) / m.clip.fps;
  const overlap = settings.how === "crossfade" ? settings.overlap : 0;
  const leave = Math.min(seconds(received), settings.leave ?? seconds(received));
  return {
    // The first is left off at the end of the overlap.
    seams: findSeams(received, other, overlap, MOST_SEAMS).map((s) => ({ ...s, leave: s.leave + overlap })),
    now: seamFigures(received, other, leave - overlap, settings.from ?? 0, overlap),
    seconds: seconds(other),
    received: seconds(received),
  };
}

/** Turns smaller than this are none, degrees; and ways, centimetres. */
const SAME_DEGREES = 0.01;
const SAME_CM = 0.01;

export function settleView({ received, made }: { received: Motion; made: Motion }, patch: Patch, evaluation: Evaluation, frame: number): SettleView {
  const settings = { ...patchKind("settle")?.defaults, ...patch.settings } as SettleSettings;
  const { fps } = received.clip;
  const landings = landingsOf(received, settings, fps) ?? [];
  // What it comes to is the last frame that it makes; out of it, the first.
  const end = settings.direction === "into" ? made.clip.frameCount - 1 : 0;
  const target = settings.target ? frameAt(made, end) : null;
  const clocks = clocksOf(evaluation);
  const at = evaluation.stages.findIndex((s) => s.patch.id === patch.id);
  const own = frameOf(momentsBetween(clocks, clocks.warps.length, at + 1, frame / clocks.fps)[0] ?? 0, fps);
  const now = frameAt(made, own);
  const differences: PartDifference[] = [];
  const { rig, skeleton } = made.character;
  if (target) {
    skeleton.names.forEach((_, joint) => {
      const degrees = (quatAngleFlat(now.rotations, joint * 4, target.rotations, joint * 4) * 180) / Math.PI;
      const [a, b] = [now.worldPositions, target.worldPositions];
      const cm = joint === rig.hips ? 100 * Math.hypot(...[0, 1, 2].map((i) => a[joint * 3 + i] - b[joint * 3 + i])) : 0;
      if (degrees > SAME_DEGREES || cm > SAME_CM) differences.push({ joint, degrees, cm });
    });
    differences.sort((p, q) => q.degrees + q.cm - p.degrees - p.cm);
  }
  return {
    landings,
    target: target && { frame, positions: target.worldPositions.slice(), rotations: target.worldRotations.slice() },
    differences,
  };
}
