import { pointLabel } from "../character/contactPoints.ts";
import { legLengthOf } from "../character/legLength.ts";
import { type Role, roleLabel } from "../character/roles.ts";
import { jointTracks } from "../contacts/tracks.ts";
import type { Motion } from "../motion.ts";
import { lowPass } from "../signal/filters.ts";
import { quantile } from "../signal/robust.ts";

/** A moment that a beat would stand well on. */
export interface Accent {
  /** seconds */
  readonly at: number;
  /** what happens there, in a person's words */
  readonly reason: string;
  readonly kind: "contact" | "speed" | "turn";
  /** 0..1: how much it stands out among those of its kind */
  readonly weight: number;
}

/** Parts whose speed and turning make accents. */
const WATCHED: readonly Role[] = ["hips", "head", "leftHand", "rightHand", "leftFoot", "rightFoot"];
/** What shakes quicker than this makes no accent, hertz. */
const CUT_OFF = 5;
/** Accents nearer than this are one, seconds: contacts before the rest, the stronger before the weaker. */
const APART = 0.1;
/** A peak of speed stands out when it is so many times the usual, and at least so fast, leg lengths a second. */
const OUTSTANDING = 1.35;
const FAST = 1.2;
/** The same of a change of direction: leg lengths a second, per second. */
const SHARP = 14;
/** Most that are proposed. */
const MOST = 200;

/**
 * Moments on which beats would stand well, in order: where something lands or lifts, where a part is fastest against the hips, and where its way bends most
 * sharply. Each with its reason.
 */
export function accentsOf(motion: Motion): Accent[] {
  const { clip, character } = motion;
  const { fps, frameCount } = clip;
  const found: Accent[] = [];
  for (const { point, start, end } of motion.contacts) {
    const label = pointLabel(point);
    if (start > 0) found.push({ at: start / fps, reason: `${label} lands`, kind: "contact", weight: 1 });
    if (end < frameCount - 1) found.push({ at: end / fps, reason: `${label} lifts`, kind: "contact", weight: 0.5 });
  }
  found.push(...movements(motion, legLengthOf(character)));
  const rank = (a: Accent) => (a.kind === "contact" ? 2 : 0) + a.weight;
  const kept: Accent[] = [];
  for (const accent of found.sort((a, b) => rank(b) - rank(a) || a.at - b.at)) {
    if (kept.length < MOST && kept.every((k) => Math.abs(k.at - accent.at) >= APART)) kept.push(accent);
  }
  return kept.sort((a, b) => a.at - b.at);
}

function movements(motion: Motion, leg: number): Accent[] {
  const { character, clip } = motion;
  const { fps, frameCount: n } = clip;
  if (n < 8) return [];
  const hipsJoint = character.rig.hips;
  const parts = WATCHED.flatMap((role) => {
    const joint = character.body.roles[role];
    return joint === undefined ? [] : [{ role, joint }];
  });
  const [hips, ...tracks] = jointTracks(character.skeleton, clip, [hipsJoint, ...parts.map((p) => p.joint)]);
  return parts.flatMap(({ role, joint }, k) => {
    const own = joint === hipsJoint;
    const smooth = [0, 1, 2].map((i) => {
      const values = Float64Array.from({ length: n }, (_, f) => tracks[k].positions[f * 3 + i] - (own ? 0 : hips.positions[f * 3 + i]));
      return lowPass(values, n, 0, 1, fps, CUT_OFF);
    });
    const velocity = (f: number, i: number) =>
      ((smooth[i][Math.min(n - 1, f + 1)] - smooth[i][Math.max(0, f - 1)]) * fps) / (Math.min(n - 1, f + 1) - Math.max(0, f - 1));
    const speed = Float64Array.from({ length: n }, (_, f) => Math.hypot(velocity(f, 0), velocity(f, 1), velocity(f, 2)));
    const bend = Float64Array.from({ length: n }, (_, f) => {
      if (f < 2 || f > n - 3) return 0;
      return Math.hypot(...[0, 1, 2].map((i) => ((velocity(f + 1, i) - velocity(f - 1, i)) * fps) / 2));
    });
    const label = roleLabel(role, character.body.plan);
    const [is, changes] = own ? ["are", "change"] : ["is", "changes"];
    return [
      ...peaks(speed, FAST * leg, fps).map(({ f, weight }): Accent => ({ at: f / fps, reason: `${label} ${is} fastest`, kind: "speed", weight })),
      ...peaks(bend, SHARP * leg, fps).map(({ f, weight }): Accent => ({ at: f / fps, reason: `${label} ${changes} direction`, kind: "turn", weight })),
    ];
  });
}

/** Peaks that stand out from the usual and are no smaller than `least`; weight is their share of the largest. */
function peaks(values: Float64Array, least: number, fps: number): { f: number; weight: number }[] {
  const usual = quantile(values, 0.75);
  const floor = Math.max(least, OUTSTANDING * usual);
  const around = Math.max(1, Math.round(APART * fps));
  const out: { f: number; weight: number }[] = [];
  const top = values.reduce((a, b) => Math.max(a, b), 0);
  for (let f = 1; f + 1 < values.length; f++) {
    if (values[f] < floor) continue;
    let highest = true;
    for (let g = Math.max(0, f - around); g <= Math.min(values.length - 1, f + around) && highest; g++)
      highest = values[g] < values[f] || (values[g] === values[f] && g >= f);
    if (highest) out.push({ f, weight: 0.9 * (values[f] / top) });
  }
  return out;
}
