import type { Sole } from "../character/soles.ts";
import { rotateVecFlat } from "../math/quat.ts";
import { solve3 } from "../signal/robust.ts";
import type { Contact } from "./contact.ts";

/** Spread of the point's true place about the one from proportions: along the sole, and across it (1 σ, metres). */
const ALONG_SIGMA = 0.025;
const DEPTH_SIGMA = 0.003;
/** Spread of one frame's evidence, metres, and how many independent frames a span counts for. */
const FRAME_SIGMA = 0.004;
const FRAMES_A_SPAN = 4;
/** No point moves further than this from its anatomical place, metres. */
const FURTHEST = 0.035;

/**
 * Moves the points of a sole to where the foot really rolls: the place p, fixed in the foot, that stays most still over the part's
 * spans. With ankle course A(f) (travel error removed) and foot rotation R(f), A + R·p is constant in a span, so
 * (R − mean R)·p = −(A − mean A); least squares over all spans, held by a prior at the anatomical place.
 */
export function calibrateSole(sole: Sole, contacts: readonly Contact[], travel: Float64Array): Sole {
  const { positions, rotations } = sole.track;
  const points = sole.points.map(({ id, local }) => {
    const a = priorMatrix(sole.upLocal);
    const b = [0, 1, 2].map((i) => a[i * 3] * local[0] + a[i * 3 + 1] * local[1] + a[i * 3 + 2] * local[2]);
    const evidence = 1 / FRAME_SIGMA ** 2;
    const column = new Float64Array(3);
    for (const contact of contacts) {
      if (contact.point !== id) continue;
      const n = contact.end - contact.start + 1;
      const weight = (evidence * Math.min(n, FRAMES_A_SPAN)) / n;
      const rows = new Float64Array(n * 12);
      const mean = new Float64Array(12);
      for (let i = 0; i < n; i++) {
        const f = contact.start + i;
        for (let c = 0; c < 3; c++) {
          rotateVecFlat(column, 0, rotations, f * 4, [c === 0 ? 1 : 0, c === 1 ? 1 : 0, c === 2 ? 1 : 0], 0);
          for (let r = 0; r < 3; r++) rows[i * 12 + r * 3 + c] = column[r];
        }
        rows[i * 12 + 9] = positions[f * 3] - travel[f * 2];
        rows[i * 12 + 10] = positions[f * 3 + 1];
        rows[i * 12 + 11] = positions[f * 3 + 2] - travel[f * 2 + 1];
        for (let k = 0; k < 12; k++) mean[k] += rows[i * 12 + k] / n;
      }
      for (let i = 0; i < n; i++) {
        for (let r = 0; r < 3; r++) {
          const m = [0, 1, 2].map((c) => rows[i * 12 + r * 3 + c] - mean[r * 3 + c]);
          const d = -(rows[i * 12 + 9 + r] - mean[9 + r]);
          for (let p = 0; p < 3; p++) {
            for (let q = 0; q < 3; q++) a[p * 3 + q] += m[p] * m[q] * weight;
            b[p] += m[p] * d * weight;
          }
        }
      }
    }
    const solved = solve3(a, b);
    if (!solved) return { id, local };
    const moved = Math.hypot(solved[0] - local[0], solved[1] - local[1], solved[2] - local[2]);
    const keep = Math.min(1, FURTHEST / Math.max(1e-9, moved));
    return { id, local: [0, 1, 2].map((i) => local[i] + keep * (solved[i] - local[i])) as [number, number, number] };
  });
  return { ...sole, points };
}

/** Gives the same part of left and right the same depth below its ankle: a body's two soles are alike, and floors level across it. */
export function evenDepths(soles: readonly Sole[]): Sole[] {
  const kind = (id: string) => id.replace(/^(left|right)/, "");
  const depth = (sole: Sole, local: readonly number[]) => local[0] * sole.upLocal[0] + local[1] * sole.upLocal[1] + local[2] * sole.upLocal[2];
  return soles.map((sole) => ({
    ...sole,
    points: sole.points.map(({ id, local }) => {
      const alike = soles.flatMap((s) => s.points.filter((p) => kind(p.id) === kind(id)).map((p) => depth(s, p.local)));
      const lift = alike.reduce((a, b) => a + b, 0) / alike.length - depth(sole, local);
      return { id, local: [0, 1, 2].map((i) => local[i] + lift * sole.upLocal[i]) as unknown as [number, number, number] };
    }),
  }));
}

/** Inverse covariance of the prior: tight along the sole's normal, loose in its plane. */
function priorMatrix(up: readonly [number, number, number]): number[] {
  const loose = 1 / ALONG_SIGMA ** 2;
  const tight = 1 / DEPTH_SIGMA ** 2;
  return [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => (r === c ? loose : 0) + (tight - loose) * up[r] * up[c]));
}
