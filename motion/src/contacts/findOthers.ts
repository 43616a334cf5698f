import type { Character } from "../character/character.ts";
import type { ContactPoint } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { median } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { calmingFor, middlePoint, refineSpan, restlessness, segmentContacts, smoothedNoise, smoothTrack } from "./segment.ts";
import { jointTrack, pointTrack } from "./tracks.ts";

/** A part of the body lies on the ground when it rests no higher over it than this, metres for a leg of 0.9 m: where its surface is, is an estimate. */
const LIES_WITHIN = 0.07;
/** Rest on the ground, and rest on something in the air, that is shorter than this is not believed, seconds. */
const LIES_FOR = 0.25;
const HOLDS_FOR = 0.5;
/** A part may stir by this much where it lies, metres, and may take this long to come to rest, seconds. */
const STILL = 0.002;
const SETTLES = 0.6;
/** A hand holds on to something when it stays within this (1 σ, metres) while the hips move by that much. */
const HOLDS_WITHIN = 0.004;
const HIPS_MOVE = 0.06;
/** Share of its quickest movement nearby below which a part may be resting. */
const SPEED_SHARE = 0.1;

/**
 * Contacts of the parts that do not bear the body as a rule (palms, knees, elbows, back, seat, head): where they lie on the ground, still, and where a
 * hand stays in one place in the air while the body moves, which it can only do by holding on to something. With each point the height over
 * the ground at which it lies. `height` is the body's, metres.
 */
export function findOthers(character: Character, clip: Clip, ground: Ground): { contacts: Contact[]; clearances: Map<string, number> } {
  const contacts: Contact[] = [];
  const clearances = new Map<string, number>();
  const { skeleton, body, height } = character;
  const { frameCount: n, fps } = clip;
  const legLength = 0.49 * height;
  const scale = legLength / 0.9;
  const hips = jointTrack(skeleton, clip, body.roles.hips ?? 0).positions;
  for (const point of character.contactPoints) {
    if (point.bears) continue;
    const course = pointTrack(jointTrack(skeleton, clip, point.joint), [...point.local]);
    const over = Float64Array.from({ length: n }, (_, f) => course[f * 3 + 1] - groundHeight(ground, course[f * 3], course[f * 3 + 2]));
    const near = over.some((h) => h < LIES_WITHIN * scale);
    const mayHold = point.limb >= 0 && body.plan === "biped";
    if (!near && !mayHold) continue;
    const calm = calmingFor(course, n, fps);
    const smooth = smoothTrack(course, n, fps, calm.cutoff);
    const left = smoothedNoise(calm.noise, calm.cutoff, fps);
    // As far as height goes: anywhere near the ground is as good as on it, and for a hand anywhere at all.
    const lying = Float64Array.from(over, (h) => Math.max(0, h - LIES_WITHIN * scale));
    const spansOn = (heights: Float64Array, seconds: number) =>
      segmentContacts({ track: course, height: heights, frameCount: n, fps, legLength, speedShare: SPEED_SHARE, calm }).flatMap((span) => {
        const stirs = restlessness(smooth, span, 0);
        // A body comes to rest by and by, rolling and rocking: only what is still at the end of that lies.
        const still = Math.max(STILL, left, stirs);
        const tolerance = { grow: still, trim: 2.2 * still, landing: 0, heave: 0 };
        const refined = refineSpan(smooth, span, [0, n - 1], tolerance, Math.max(2, Math.round(SETTLES * fps)));
        return refined && refined[1] - refined[0] >= seconds * fps ? [{ span: refined, stirs }] : [];
      });
    const ground_ = near ? spansOn(lying, LIES_FOR) : [];
    const heights: number[] = [];
    for (const { span } of ground_) {
      const rest = middlePoint(course, ...span);
      heights.push(rest[1] - groundHeight(ground, rest[0], rest[2]));
      contacts.push(contactOf(point, span, "ground"));
    }
    if (heights.length > 0) clearances.set(point.id, median(heights));
    if (!mayHold) continue;
    for (const { span, stirs } of spansOn(new Float64Array(n), HOLDS_FOR)) {
      if (stirs > HOLDS_WITHIN || hipsTravel(hips, span) < HIPS_MOVE || ground_.some((g) => g.span[0] <= span[1] && g.span[1] >= span[0])) continue;
      contacts.push(contactOf(point, span, "place"));
    }
  }
  return { contacts, clearances };
}

function contactOf(point: ContactPoint, [start, end]: readonly [number, number], on: "ground" | "place"): Contact {
  return { point: point.id, joint: point.named, start, end, on, anchor: { mode: "settle", point: null }, rampIn: null, rampOut: null, origin: "found" };
}

/** How far apart the hips' places within a span lie at most, by the box around them, metres. */
function hipsTravel(hips: Float64Array, [start, end]: readonly [number, number]): number {
  return Math.hypot(
    ...[0, 1, 2].map((axis) => {
      let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
      for (let f = start; f <= end; f++) {
        low = Math.min(low, hips[f * 3 + axis]);
        high = Math.max(high, hips[f * 3 + axis]);
      }
      return high - low;
    }),
  );
}
