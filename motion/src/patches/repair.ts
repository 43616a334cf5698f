import { z } from "zod";
import { partOf } from "../character/parts.ts";
import { ClipDraft, flatTrack } from "../clip/clip.ts";
import { duration } from "../documents/fields.ts";
import type { Patch } from "../documents/patch.ts";
import { secondsOf, settingsUpgrade } from "../documents/steps.ts";
import { multiplyQuatFlat, normalizeQuatFlat, quatAngleFlat, slerpQuatFlat } from "../math/quat.ts";
import type { Motion } from "../motion.ts";
import { mendJumps } from "../signal/mendJumps.ts";
import { popSpikes } from "../signal/pops.ts";
import { LEAST_JUMP_SHARE } from "../signal/positionSpikes.ts";
import { rotationLane, smoothLane } from "../signal/smoothRotation.ts";
import { definePatch, type PatchContext, type TreatedFinding } from "./kind.ts";

const schema = z.strictObject({
  pops: z.boolean(),
  flips: z.boolean(),
  jumps: z.boolean(),
  popDegrees: z.number().min(1).max(90),
  smooth: z.number().min(0).max(1),
  /** half-width of the smoothing */
  smoothOver: duration(1),
  bridge: z.boolean(),
});
type RepairSettings = z.infer<typeof schema>;

export const repairPatch = definePatch<RepairSettings>({
  kind: "repair",
  title: "Repair",
  group: "correct",
  description: "Mends one-frame pops, angle flips, places that jump, jitter and broken stretches on chosen joints.",
  schema,
  defaults: { pops: true, flips: true, jumps: false, popDegrees: 8, smooth: 0, smoothOver: 4 / 30, bridge: false },
  masked: true,
  treats: { kinds: ["pop", "flip", "jump", "jitter"], propose: proposeRepair },
  fields: {
    pops: { label: "Mend one-frame pops" },
    flips: { label: "Mend angle flips" },
    jumps: { label: "Mend places that jump", help: "One frame goes between its neighbours; a step that stays is spread over the frames around" },
    popDegrees: { label: "A pop stands out by", unit: "°", step: 1, help: "Smaller jumps against the frames around are left alone" },
    smooth: { label: "Smooth jitter", unit: "%", factor: 100, step: 0.05 },
    smoothOver: { label: "Smooth over ±", unit: "f", step: 1, inFrames: true },
    bridge: { label: "Replace the stretch by a bridge", help: "The range is thrown away and led across from its first to its last frame" },
  },
  fromFrames: settingsUpgrade({ smoothInFrames: (v, fps) => ({ smoothOver: secondsOf(v, fps) }) }),
  sees(settings, fps) {
    if (settings.bridge) return "whole";
    const flips = settings.flips ? LONGEST_FLIP + 1 : 0;
    const pops = settings.pops ? POP_REACH : 0;
    const jumps = settings.jumps ? jumpFrames(settings, fps) + POP_REACH : 0;
    const smooth = settings.smooth > 0 ? halfFrames(settings, fps) : 0;
    const frames = Math.max(flips + pops + smooth, jumps);
    return { before: frames / fps, after: frames / fps };
  },
  /** Order: bridge, else flips and pops, then smoothing. A joint's frames outside range and ramps, and joints off the mask, keep their bits. */
  apply(motion: Motion, settings: RepairSettings, context: PatchContext): Motion {
    const { clip } = motion;
    const { jointCount, frameCount } = clip;
    const from = context.weights.findIndex((w) => w > 0);
    const to = context.weights.findLastIndex((w) => w > 0);
    if (from < 0) return motion;
    const draft = ClipDraft.of(clip);
    const q = new Float64Array(4);
    for (let joint = 0; joint < jointCount; joint++) {
      if (context.joints && !context.joints.has(joint)) continue;
      const lane = rotationLane(clip, joint);
      const mended = lane.slice();
      if (settings.bridge) bridge(mended, context.start, context.end, frameCount);
      else {
        if (settings.flips) mendFlips(mended, from, to, frameCount);
        if (settings.pops) mendPops(mended, from, to, frameCount, (settings.popDegrees * Math.PI) / 180);
      }
      if (settings.smooth > 0) smoothLane(mended, frameCount, halfFrames(settings, clip.fps), settings.smooth);
      for (let f = from; f <= to; f++) {
        if (context.weights[f] === 0 || quatAngleFlat(mended, f * 4, lane, f * 4) < 1e-7) continue;
        slerpQuatFlat(q, 0, lane, f * 4, mended, f * 4, context.weights[f]);
        draft.setRotation(joint, f, q);
      }
    }
    if (settings.jumps && !settings.bridge) mendPlaces(draft, motion, settings, context, from, to);
    return { ...motion, clip: draft.done() };
  },
});

/** Mends the places of joints that have any; frames and joints that are not meant keep their bits. */
function mendPlaces(draft: ClipDraft, { clip, character }: Motion, settings: RepairSettings, context: PatchContext, from: number, to: number): void {
  const p = new Float64Array(3);
  clip.positionJoints.forEach((joint, slot) => {
    if (context.joints && !context.joints.has(joint)) return;
    const course = flatTrack(clip.positions[slot], 3);
    const mended = course.slice();
    mendJumps(mended, clip.frameCount, from, to, LEAST_JUMP_SHARE * character.height, jumpFrames(settings, clip.fps));
    for (let f = from; f <= to; f++) {
      const weight = context.weights[f];
      if (weight === 0 || [0, 1, 2].every((i) => mended[f * 3 + i] === course[f * 3 + i])) continue;
      for (let i = 0; i < 3; i++) p[i] = course[f * 3 + i] + weight * (mended[f * 3 + i] - course[f * 3 + i]);
      draft.setPosition(slot, f, p);
    }
  });
}

/** A step is spread over so many frames on either side. */
function jumpFrames(settings: RepairSettings, fps: number): number {
  return 2 * halfFrames(settings, fps);
}

/** Frames on either side that tell a pop from a quick turn. */
const POP_REACH = 6;

function halfFrames(settings: RepairSettings, fps: number): number {
  return Math.max(1, Math.round(settings.smoothOver * fps));
}

/** Frames of lead-in and lead-out of a proposed repair: a pop's neighbours, what tells a flip from a turn, what a step is spread over; trembling is where it is. */
const MARGIN = { pop: 1, flip: 8, jump: 12, jitter: 0 } as const;

/** A repair of the joint and the stretch that a finding names. */
function proposeRepair(finding: TreatedFinding, motion: Motion): Partial<Patch> {
  const { fps, frameCount } = motion.clip;
  const kind = finding.kind as keyof typeof MARGIN;
  const settings =
    kind === "pop"
      ? { pops: true, flips: false, jumps: false, popDegrees: Math.max(1, Math.floor(finding.value / 3)) }
      : kind === "flip" || kind === "jump"
        ? { pops: false, flips: kind === "flip", jumps: kind === "jump" }
        : { pops: false, flips: false, jumps: false, smooth: 1, smoothOver: Math.max(3, Math.round(0.13 * fps)) / fps };
  return {
    settings,
    range: { start: Math.max(0, finding.startFrame - MARGIN[kind]) / fps, end: Math.min(frameCount - 1, finding.endFrame + MARGIN[kind]) / fps },
    parts: finding.joint < 0 ? null : [partOf(motion.character, finding.joint)],
  };
}

/** Frames that stand out alone against their neighbours are put between them. */
function mendPops(lane: Float64Array, from: number, to: number, frameCount: number, least: number): void {
  for (const f of popSpikes(lane, frameCount, least)) {
    if (f < from || f > to) continue;
    slerpQuatFlat(lane, f * 4, lane, f * 4 - 4, lane, f * 4 + 4, 0.5);
  }
}

/** Half turns that come and go within a few frames: from one to `LONGEST_FLIP` frames that lie over 90° off on both sides. */
const LONGEST_FLIP = 6;

function mendFlips(lane: Float64Array, from: number, to: number, frameCount: number): void {
  for (let f = Math.max(1, from); f <= Math.min(to, frameCount - 2); f++) {
    if (quatAngleFlat(lane, f * 4 - 4, lane, f * 4) < Math.PI / 2) continue;
    for (let length = 1; length <= LONGEST_FLIP && f + length < frameCount; length++) {
      const after = f + length;
      if (quatAngleFlat(lane, after * 4 - 4, lane, after * 4) < Math.PI / 2 || quatAngleFlat(lane, f * 4 - 4, lane, after * 4) > Math.PI / 4) continue;
      for (let g = f; g < after; g++) slerpQuatFlat(lane, g * 4, lane, f * 4 - 4, lane, after * 4, (g - f + 1) / (length + 1));
      f = after;
      break;
    }
  }
}

/** Leads from the frame before the stretch to the frame after it, with the speeds found there (cubic in rotation, by double slerp). */
function bridge(lane: Float64Array, start: number, end: number, frameCount: number): void {
  const a = Math.max(0, start - 1);
  const b = Math.min(frameCount - 1, end + 1);
  // Nothing on either side to lead across from: what is there stays.
  if (b <= a) return;
  const q0 = lane.slice(a * 4, a * 4 + 4);
  const q1 = lane.slice(b * 4, b * 4 + 4);
  const before = lane.slice(Math.max(0, a - 1) * 4, Math.max(0, a - 1) * 4 + 4);
  const after = lane.slice(Math.min(frameCount - 1, b + 1) * 4, Math.min(frameCount - 1, b + 1) * 4 + 4);
  const out = new Float64Array(8);
  for (let f = start; f <= end; f++) {
    const t = (f - a) / (b - a);
    // Each end goes on at its own speed; the two are blended by a smooth step.
    extrapolate(out, 0, before, q0, f - a, t);
    extrapolate(out, 4, after, q1, b - f, 1 - t);
    slerpQuatFlat(lane, f * 4, out, 0, out, 4, t * t * (3 - 2 * t));
  }
}

/** q·(from⁻¹·q)^(frames, slowing down): where the rotation would go from `q` on, coming from `from` one frame earlier. */
function extrapolate(dst: Float64Array, d: number, from: Float64Array, q: Float64Array, frames: number, t: number): void {
  const step = Float64Array.of(-from[0], -from[1], -from[2], from[3]);
  multiplyQuatFlat(step, 0, step, 0, q, 0);
  const reach = frames * (1 - t) * (1 - t);
  const identity = [0, 0, 0, 1];
  const whole = Math.floor(reach);
  dst.set(q, d);
  for (let i = 0; i < whole; i++) multiplyQuatFlat(dst, d, dst, d, step, 0);
  slerpQuatFlat(step, 0, identity, 0, step, 0, reach - whole);
  multiplyQuatFlat(dst, d, dst, d, step, 0);
  normalizeQuatFlat(dst, d);
}
