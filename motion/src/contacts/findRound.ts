import type { Sole } from "../character/soles.ts";
import type { Clip } from "../clip/clip.ts";
import type { GroundFit } from "../ground/fitGround.ts";
import { axisOf } from "../signal/filters.ts";
import { median } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { exactCourse, exactIn } from "./exactCourse.ts";
import { downOn, flattest, heelUp } from "./footTurned.ts";
import type { Heave } from "./heave.ts";
import { legAway } from "./legAway.ts";
import { slipEnds } from "./ownSlip.ts";
import { type Away, calmingFor, plainAway, refineSpan, restlessness, segmentContacts, smoothedNoise, smoothTrack } from "./segment.ts";
import { tiltAt } from "./sharedHeights.ts";
import { splitAtSteps } from "./smallSteps.ts";
import { soleCourses } from "./soleCourses.ts";
import { type PartSpans, toldEnds } from "./toldEnds.ts";

/** What earlier rounds have shown, against which a round looks. */
export interface Known {
  /** [frame][2] metres, and what heaves the body: taken out of the courses */
  readonly travel: Float64Array;
  /** what of that no model holds, but is followed from frame to frame, m/s in the mean */
  readonly followed: number;
  readonly heave: Heave;
  readonly fit: GroundFit | undefined;
  /** how far over the usual level each part's surface lies, [frame] */
  readonly lifts: ReadonlyMap<string, Float64Array>;
  /** height at which the body goes by and by, [frame] metres */
  readonly climb: Float64Array;
  /** courses [frame][3] of the joints that carry a leg's end, from that joint up */
  readonly carriersOf: (end: number) => readonly Float64Array[];
}

/** How a round looks: below which share of the swing speed a part may rest; on the last, by which courses of steadied legs (null: they do not tremble) its ends are told. */
export interface Look {
  readonly speedShare: number;
  readonly refine: boolean;
  readonly steadyCourses: ReadonlyMap<string, Float64Array> | null;
}

export function findRound(
  clip: Clip,
  soles: readonly Sole[],
  named: (id: string) => number,
  { travel, followed, heave, fit, lifts, climb, carriersOf }: Known,
  { speedShare, refine, steadyCourses }: Look,
): Contact[] {
  const { frameCount: n, fps } = clip;
  const parts: PartSpans[] = [];
  const courses = soleCourses(soles);
  // A heave is known to within a part of itself.
  const moved = { out: Math.max(2, Math.round(MOST_OUT * fps)), in: Math.max(2, Math.round(MOST_IN * fps)) };
  const heaved = Math.sqrt(heave.course.reduce((sum, v) => sum + v * v, 0) / n);
  const slack = Math.min(HEAVE_LEFT * heaved, Math.max(HEAVE_LEAST * heaved, HEAVE_SIGMA * heave.left));
  for (const sole of soles) {
    const { legLength } = sole;
    for (const { id, modelled, rolls } of sole.points) {
      const raw = courses.get(id);
      if (!raw) continue;
      const rest = fit?.heights.get(id);
      const slopes = fit ?? { slopeX: 0, slopeZ: 0 };
      const part = modelled ? "toe" : "heel";
      const lift = lifts.get(id);
      const levelledCourse = (of: Float64Array) => {
        const track = of.slice();
        for (let f = 0; f < n; f++) {
          track[f * 3] -= travel[f * 2];
          track[f * 3 + 2] -= travel[f * 2 + 1];
          track[f * 3 + 1] -=
            heave.course[f] + slopes.slopeX * track[f * 3] + slopes.slopeZ * track[f * 3 + 2] + tiltAt(heave.tilt, track[f * 3], track[f * 3 + 2]);
        }
        return track;
      };
      const track = levelledCourse(raw);
      const height = rest === undefined ? null : axisOf(track, 1, 3);
      if (height && rest !== undefined) for (let f = 0; f < n; f++) height[f] -= (lift?.[f] ?? 0) + rest;
      const calm = calmingFor(track, n, fps);
      const found = segmentContacts({ track, height, climb, frameCount: n, fps, legLength, speedShare, calm });
      const spans = refine ? found.flatMap((span) => splitAtSteps(track, span, fps, legLength, calm)) : found;
      // A quick clean course looks like a noisy one; how much it stirs where it rests says which it is.
      const noise =
        refine && spans.length > 0
          ? Math.min(calm.noise, STIR_SIGMA * median(spans.map((span) => restlessness(track, span, plainAway(track, slack)))))
          : calm.noise;
      const left = smoothedNoise(noise, calm.cutoff, fps);
      const least = REST_TOLERANCE * (legLength / 0.9);
      const calmed = refine && noise > STEADY ? steadyCourses?.get(id) : undefined;
      const course = calmed ? levelledCourse(calmed) : refine && noise > STEADY ? smoothTrack(track, n, fps, calm.cutoff) : track;
      const away = calmed ? legAway(course, slack, raw, carriersOf(sole.leg.end), noise) : plainAway(course, slack);
      // Steadied legs lag behind a quick foot: where it rests as it came, and nearer than chance has it, it has not left.
      const asItCame = plainAway(track, slack);
      const leaves: Away = calmed ? (f, rest) => Math.min(away(f, rest), AS_IT_CAME * asItCame(f, rest)) : away;
      const sigmas = calmed ? ENDS_BY_LEG : ENDS;
      // A few frames say little of how much a part stirs: at least as much as in most of its spans.
      const usual = calmed ? median(spans.map((span) => restlessness(course, span, away))) : left;
      const exactly =
        refine && modelled ? exactCourse(spans, { raw, put: heaved < UNHEAVED && followed < UNFOLLOWED ? [track] : [], legLength, most: least }) : null;
      const whole = spans.filter(([a, b]) => a > 0 && b < n - 1);
      const stirsInWhole = refine && whole.length >= ENOUGH_WHOLE ? median(whole.map((span) => restlessness(course, span, away))) : Number.POSITIVE_INFINITY;
      const flat = refine ? flattest(sole, whole, part, slopes) : null;
      const kept: (readonly [number, number])[] = [];
      spans.forEach((span, i) => {
        const bounds = [i > 0 ? spans[i - 1][1] + 2 : 0, i + 1 < spans.length ? spans[i + 1][0] - 2 : n - 1] as const;
        const cut = modelled && (span[0] === 0 || span[1] === n - 1);
        const stirs = refine ? Math.min(restlessness(course, span, away), cut ? MOST_STIRS * Math.max(least, stirsInWhole) : Number.POSITIVE_INFINITY) : 0;
        const grow = Math.max(least, sigmas.grow * Math.max(usual, stirs));
        const trim = Math.max(least, sigmas.trim * Math.max(usual, stirs));
        const tolerance = {
          grow,
          trim,
          landing: modelled ? 0 : LANDING_TOLERANCE * (legLength / 0.9) * Math.min(1, (rolls ?? 1) / NO_ROLL),
          ends: calmed ? ENDS_SIGMA * noise : 0,
        };
        const slips = refine && modelled && !calmed ? slipEnds(course, span, bounds, { tolerance: least, legLength, fps }) : null;
        const rests = !refine
          ? span
          : exactly && exactIn(exactly, span)
            ? refineSpan(exactly.course, span, bounds, { ...tolerance, grow: exactly.within, trim: exactly.within }, moved, plainAway(exactly.course, 0))
            : refineSpan(course, span, bounds, tolerance, moved, away, leaves);
        const seen = slips && rests ? ([Math.min(slips[0], rests[0]), Math.max(slips[1], rests[1])] as const) : (slips ?? rests);
        const refined = seen && flat !== null ? downOn(sole, seen, part, flat, fps, slopes) : seen;
        if (!refined) return;
        // So little of it is left that it is no stand, but where a foot crept by.
        if (refine && refined[0] > 0 && refined[1] < n - 1 && refined[1] - refined[0] + 1 < LEAST_LEFT * fps) return;
        if (!modelled && heelUp(sole, refined, slopes) > HEEL_IN_AIR * (legLength / 0.9)) return;
        kept.push(refined);
      });
      // Ends of clean courses tell themselves.
      const soft = refine && kept.length > 0 && median(kept.map((span) => restlessness(course, span, away))) > SOFT * least;
      const hidden = refine && (!modelled || calmed !== undefined || ENDS.trim * left > CLEARLY_NOISY * least);
      parts.push({ sole, id, spans: kept, course: track, noise, hidden, soft });
    }
  }
  return [...toldEnds(parts, fps, moved)].flatMap(([point, spans]) =>
    spans.map(
      ({ start, end, doubtful }): Contact => ({
        point,
        joint: named(point),
        start,
        end,
        on: "ground",
        anchor: { mode: "settle", point: null },
        rampIn: null,
        rampOut: null,
        origin: "found",
        ...((doubtful[0] > 0 || doubtful[1] > 0) && { doubtful }),
      }),
    ),
  );
}

/** A heel that is so much higher than its toe while it rests is in the air, metres for a leg of 0.9 m: the foot is on its toes. */
const HEEL_IN_AIR = 0.06;
/** The most that a span's end is moved outwards, and inwards, seconds. */
const MOST_OUT = 0.09;
const MOST_IN = 0.2;
/** Trimmed to less than this a span is none, seconds. */
const LEAST_LEFT = 0.04;
/** A resting part's noise is at most this many times what it stirs by in the middle half of its spans, few frames as those may be. */
const STIR_SIGMA = 4;
/** What the clip's ends leave of a span may be no more than a part on its way: it does not stir more than so many times what it does in whole spans, if there are so many of them. */
const MOST_STIRS = 4;
const ENOUGH_WHOLE = 2;
/** How far a resting part of a clean clip may be from its place, metres for a leg of 0.9 m. */
const REST_TOLERANCE = 0.00015;
/** What heaves a body by less than this in the mean, metres, or is followed of its travel, m/s, leaves nothing in a course. */
const UNHEAVED = 0.00002;
const UNFOLLOWED = 0.0005;
/** A part that stirs by more than this share of that has been smoothed, or is led astray by what is left of something: when exactly it comes and goes it does not show by itself. */
const SOFT = 0.1;
/** Where tolerances are so many times those of a clean clip, noise hides when a part comes and goes. */
const CLEARLY_NOISY = 10;
/** At the clip's ends, where smoothing has frames on one side only, a resting part is within so many deviations of its noise. */
const ENDS_SIGMA = 4;
/** A course with less noise than this is taken as it is, metres: smoothing would blur when it comes to rest. */
const STEADY = 0.0002;

/** An estimated point is off the place that the foot rolls about as it lands: it never comes to rest as exactly as a joint does, metres. */
const LANDING_TOLERANCE = 0.001;
/** … but for one that keeps stiller than this: the foot comes down flat and does not roll at all, metres. */
const NO_ROLL = 5e-7;
/** What may be left of a heave that was taken out of a course, as a share of it, and what is left at least where one part rests alone, which fits itself. */
const HEAVE_LEFT = 0.35;
const HEAVE_LEAST = 0.01;
/** … and in deviations of what parts that rest together still differ by. */
const HEAVE_SIGMA = 3;
/** A span grows by frames within so many deviations of its noise, and is trimmed of those beyond so many: one frame of a quick swing too many pulls a foot by centimetres, one too few by nothing. */
const ENDS = { grow: 1, trim: 2.2 };
/** … where the trembling leg itself is the measure, which shows sooner what has left. */
const ENDS_BY_LEG = { grow: 3, trim: 5.5 };

/** What a course that trembles shows as it came counts as so many times as far off as what is steadied. */
const AS_IT_CAME = 2.5;
