import type { Sole, SolePoint } from "../character/soles.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { median, solve3 } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";
import { middlePoint } from "./segment.ts";

/** Spread of the point's true place about the one from proportions along the sole, and across it: where it lies on a ground that is known, and where how thick the sole is is only guessed (1 σ, metres). */
const ALONG_SIGMA = 0.04;
const DEPTH_SIGMA = { known: 0.003, guessed: 0.008 } as const;
/** Least and greatest spread of one frame's evidence, metres, and how many independent frames a span counts for. */
const FRAME_SIGMA: readonly [number, number] = [0.0004, 0.003];
const FRAMES_A_SPAN = 6;
/** No point moves further than this from its anatomical place, metres. */
const FURTHEST = 0.05;
/** A foot may have been rolling on its heel for this long before the span that was found for it, seconds. */
const ROLLS_BEFORE = 0.12;
/** Frames on which the point is further off than this do not belong to the span: metres at first, then less by this share a round, down to so many middle distances. */
const NEAR = 0.012;
const NEARER = 0.72;
const LEAST_NEAR = 0.002;
const NEAR_MIDDLES = 5;
const ROUNDS = 9;
/** A place that another round moves by less than this stays, metres. */
const SETTLED = 1e-7;
/** More spans than these tell no more: of a long clip so many are asked, spread evenly over it. */
const MOST_SPANS = 36;

/**
 * Moves the estimated points of a sole to where the foot really rolls: the place p, fixed in the foot, that stays most still over the part's
 * spans. With ankle course A(f) (travel error and heave removed) and foot rotation R(f), A + R·p is constant in a span, so
 * (R − mean R)·p = −(A − mean A); least squares over all spans and what comes right before them, re-weighted by how far each frame is from
 * where the point rests, and held by a prior at the anatomical place. Of a foot of which it is `guessed` how thick its sole is (no ground is believed), how it rolls tells that too.
 */
export function calibrateSole(
  sole: Sole,
  contacts: readonly Contact[],
  travel: Float64Array,
  heave: Float64Array,
  fps: number,
  thickness: keyof typeof DEPTH_SIGMA = "known",
): Sole {
  const points = sole.points.map((point): SolePoint => {
    // A foot rolls about a joint where there is one.
    if (point.modelled) return point;
    const spans = seenSpans(sole, contacts, point.id, travel, heave, fps);
    if (spans.length === 0) return point;
    const rolled = rolledAbout(sole, thickness === "known" ? underUsualSole(sole, point) : point, spans, DEPTH_SIGMA.guessed);
    const besides = Math.abs(depthOf(sole, rolled.local) - depthOf(sole, point.local));
    const sure = thickness === "guessed" ? rolled.deep < SURE_DEPTH * DEPTH_SIGMA.guessed : besides > Math.max(DEPTH_SIGMA.known, SURE_BESIDES * rolled.deep);
    if (rolled.middle < EXACTLY && sure) return { ...point, local: rolled.local, rolls: rolled.middle, rolledAt: rolled.local };
    const { local, middle } = rolledAbout(sole, point, spans, DEPTH_SIGMA.known);
    return { ...point, local, rolls: middle };
  });
  return { ...sole, points };
}

/** How deep a place lies in the foot, metres. */
const depthOf = ({ upLocal }: Sole, local: Place) => -(upLocal[0] * local[0] + upLocal[1] * local[1] + upLocal[2] * local[2]);

/** An estimated point as deep as it would lie by usual proportions, whatever the clip's own zero says. */
function underUsualSole(sole: Sole, point: SolePoint): SolePoint {
  const toe = sole.points.find((p) => p.modelled);
  if (!toe) return point;
  const down = depthOf(sole, toe.local) + sole.expected - depthOf(sole, point.local);
  return { ...point, local: [0, 1, 2].map((i) => point.local[i] - down * sole.upLocal[i]) as unknown as Place };
}

/** A foot that keeps stiller than this on what it rolls about, metres, shows how deep that lies: where a leg trembles it turns and moves its foot together, as if it rolled about something higher. */
const EXACTLY = 0.0005;
/** … if that leaves so much of what was open, at most. */
const SURE_DEPTH = 0.25;
/** … or, where the ground is known, if it is so many deviations beside it: the clip is too high or too low by less than shows in its joints. */
const SURE_BESIDES = 4;

function seenSpans(sole: Sole, contacts: readonly Contact[], id: string, travel: Float64Array, heave: Float64Array, fps: number): SeenSpan[] {
  const spans = contacts
    .filter((c) => c.point === id)
    .map((c): [number, number, number] => [Math.max(0, c.start - Math.round(ROLLS_BEFORE * fps)), c.start, c.end]);
  const step = Math.max(1, spans.length / MOST_SPANS);
  return Array.from({ length: Math.ceil(spans.length / step) }, (_, i) => seenOver(sole, spans[Math.floor(i * step)], travel, heave));
}

function rolledAbout(sole: Sole, point: SolePoint, spans: readonly SeenSpan[], depthSigma: number): Round {
  const prior = priorMatrix(sole.upLocal, depthSigma);
  let now: Round = { local: point.local, near: NEAR, middle: FRAME_SIGMA[1], deep: depthSigma };
  for (let round = 0; round < ROUNDS; round++) {
    const next = stillest(prior, sole.upLocal, point.local, now, spans);
    const settled = next.near === now.near && Math.hypot(...next.local.map((v, i) => v - now.local[i])) < SETTLED;
    now = next;
    if (settled) break;
  }
  return now;
}

type Place = readonly [number, number, number];

/** Where the point is taken to be, how far off its resting place a frame may be, and how far off those are in the middle that were not too far: metres. */
interface Round {
  readonly local: Place;
  readonly near: number;
  readonly middle: number;
  /** how uncertain it is how deep the point lies, metres (1 σ) */
  readonly deep: number;
}

/** A span with the frames right before it: of each its foot's rotation as a matrix, row by row, and its place, [frame][12]; and from which of them on it is the span. */
interface SeenSpan {
  readonly rows: Float64Array;
  readonly start: number;
}

function seenOver({ track }: Sole, [from, start, end]: readonly [number, number, number], travel: Float64Array, heave: Float64Array): SeenSpan {
  const { positions, rotations } = track;
  const rows = new Float64Array((end - from + 1) * 12);
  const column = new Float64Array(3);
  const axes = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ];
  for (let i = 0; i <= end - from; i++) {
    const f = from + i;
    for (let c = 0; c < 3; c++) {
      rotateVecFlat(column, 0, rotations, f * 4, axes[c], 0);
      for (let r = 0; r < 3; r++) rows[i * 12 + r * 3 + c] = column[r];
    }
    rows[i * 12 + 9] = positions[f * 3] - travel[f * 2];
    rows[i * 12 + 10] = positions[f * 3 + 1] - heave[f];
    rows[i * 12 + 11] = positions[f * 3 + 2] - travel[f * 2 + 1];
  }
  return { rows, start: start - from };
}

/** One round: the stillest place, with frames weighted by how far the point is from its resting place on them. */
function stillest(prior: readonly number[], up: Place, anatomical: Place, before: Round, spans: readonly SeenSpan[]): Round {
  const { local: now, near } = before;
  const sigma = Math.max(FRAME_SIGMA[0], Math.min(FRAME_SIGMA[1], before.middle));
  const offs = new Float64Array(spans.reduce((sum, { rows }) => sum + rows.length / 12, 0));
  let inside = 0;
  const m = [0, 0, 0];
  const a = prior.slice();
  const b = [0, 1, 2].map((i) => a[i * 3] * anatomical[0] + a[i * 3 + 1] * anatomical[1] + a[i * 3 + 2] * anatomical[2]);
  for (const { rows, start } of spans) {
    const n = rows.length / 12;
    const places = new Float64Array(n * 3);
    for (let o = 0, row = 0; o < n * 3; o += 3, row += 12) {
      places[o] = rows[row] * now[0] + rows[row + 1] * now[1] + rows[row + 2] * now[2] + rows[row + 9];
      places[o + 1] = rows[row + 3] * now[0] + rows[row + 4] * now[1] + rows[row + 5] * now[2] + rows[row + 10];
      places[o + 2] = rows[row + 6] * now[0] + rows[row + 7] * now[1] + rows[row + 8] * now[2] + rows[row + 11];
    }
    const rest = middlePoint(places, start, n - 1);
    const weights = new Float64Array(n);
    let total = 0;
    for (let i = 0; i < n; i++) {
      const [dx, dy, dz] = [places[i * 3] - rest[0], places[i * 3 + 1] - rest[1], places[i * 3 + 2] - rest[2]];
      const off = Math.sqrt(dx * dx + dy * dy + dz * dz) / near;
      if (off >= 1) continue;
      offs[inside++] = off * near;
      weights[i] = (1 - off * off) ** 2;
      total += weights[i];
    }
    if (total < 2) continue;
    const mean = new Float64Array(12);
    for (let i = 0; i < n; i++) if (weights[i] > 0) for (let k = 0; k < 12; k++) mean[k] += (weights[i] * rows[i * 12 + k]) / total;
    const evidence = Math.min(n, FRAMES_A_SPAN) / (total * sigma ** 2);
    for (let i = 0; i < n; i++) {
      if (weights[i] === 0) continue;
      const w = weights[i] * evidence;
      for (let r = 0; r < 3; r++) {
        for (let c = 0; c < 3; c++) m[c] = rows[i * 12 + r * 3 + c] - mean[r * 3 + c];
        const d = mean[9 + r] - rows[i * 12 + 9 + r];
        for (let p = 0; p < 3; p++) {
          for (let q = 0; q < 3; q++) a[p * 3 + q] += m[p] * m[q] * w;
          b[p] += m[p] * d * w;
        }
      }
    }
  }
  const solved = solve3(a, b);
  const uncertain = solve3(a, [...up]);
  if (!solved || !uncertain || inside === 0) return before;
  const moved = Math.hypot(solved[0] - anatomical[0], solved[1] - anatomical[1], solved[2] - anatomical[2]);
  const keep = Math.min(1, FURTHEST / Math.max(1e-9, moved));
  const middle = median(offs.subarray(0, inside));
  return {
    local: [0, 1, 2].map((i) => anatomical[i] + keep * (solved[i] - anatomical[i])) as unknown as Place,
    near: Math.min(NEAR, Math.max(LEAST_NEAR, NEAR_MIDDLES * middle, NEARER * near)),
    middle,
    deep: Math.sqrt(up.reduce((sum, u, i) => sum + u * uncertain[i], 0)),
  };
}

/** Inverse covariance of the prior: tight along the sole's normal, loose in its plane. */
function priorMatrix(up: Place, depth: number): number[] {
  const loose = 1 / ALONG_SIGMA ** 2;
  const tight = 1 / depth ** 2;
  return [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => (r === c ? loose : 0) + (tight - loose) * up[r] * up[c]));
}
