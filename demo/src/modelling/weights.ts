import { restWorld, type Skeleton } from "@stride/motion";
import type { Surface } from "./surface.ts";

/** How a surface hangs on joints: four a vertex, summing to 1. */
export interface Weights {
  /** [vertex][4] joints, and how much each moves it */
  readonly joints: Uint16Array;
  readonly shares: Float32Array;
}

/** A bone's pull falls with this power of the distance. */
const FALL = 5;
/** Nearer than this no bone pulls more, metres. */
const NEAREST = 0.012;
/** Beyond the ankle the shin's pull falls to a third within this, metres. */
const PAST_ANKLE = 0.015;
/** How far across the middle a side's bones still pull, metres. */
const ACROSS = 0.02;
/** Rounds in which every vertex takes half of what its neighbours have, and the distance at which one has half a say, metres: a flat sole has few vertices, far apart. */
const ROUNDS = 6;
const HALF_SAY = 0.012;

/** Weights by the distance to bones (from a joint to those under it, or to its tip), sides kept apart, smoothed along the surface. Only joints whose name fits take part. */
export function weightsOf(skeleton: Skeleton, { positions, indices }: Surface, names: RegExp): Weights {
  const { positions: places } = restWorld(skeleton);
  const at = (joint: number) => [places[joint * 3], places[joint * 3 + 1], places[joint * 3 + 2]];
  const bones = skeleton.names.flatMap((name, joint) => {
    if (!names.test(name)) return [];
    const from = at(joint);
    const below = skeleton.names.flatMap((_, child) => (skeleton.parents[child] === joint && !branchesOff(skeleton, child) ? [at(child)] : []));
    const tips = skeleton.tips.filter((t) => t.joint === joint).map((t) => t.offset.map((v, i) => from[i] + v));
    const ends = [...below, ...tips, ...(TOES.test(name) ? [toeEnd(from, positions)] : [])];
    const side = name.startsWith("Left") ? 1 : name.startsWith("Right") ? -1 : 0;
    const ankle = skeleton.names.some((other, child) => skeleton.parents[child] === joint && /(Foot|Hoof)$/.test(other));
    return (ends.length > 0 ? ends : [from]).map((to) => ({ joint, from, to, side, ankle }));
  });
  const count = positions.length / 3;
  const n = skeleton.names.length;
  let pull = new Float32Array(count * n);
  for (let v = 0; v < count; v++) {
    const p = [positions[v * 3], positions[v * 3 + 1], positions[v * 3 + 2]];
    for (const { joint, from, to, side, ankle } of bones) {
      const own = side === 0 ? 1 : smooth((side * p[0] + ACROSS) / (2 * ACROSS));
      if (own === 0) continue;
      // A heel hangs on the foot, though the shin ends as near to it.
      const past = ankle ? Math.exp(-Math.max(0, pastEnd(p, from, to)) / PAST_ANKLE) : 1;
      const w = (own * past) / (toSegment(p, from, to) + NEAREST) ** FALL;
      pull[v * n + joint] = Math.max(pull[v * n + joint], w);
    }
    normalize(pull, v * n, n);
  }
  const neighbours = neighboursOf(indices, count);
  for (let round = 0; round < ROUNDS; round++) {
    const next = new Float32Array(pull.length);
    for (let v = 0; v < count; v++) {
      const around = neighbours[v];
      const says = around.map((u) => {
        const away = Math.hypot(positions[u * 3] - positions[v * 3], positions[u * 3 + 1] - positions[v * 3 + 1], positions[u * 3 + 2] - positions[v * 3 + 2]);
        return 1 / (1 + (away / HALF_SAY) ** 2);
      });
      const total = says.reduce((sum, say) => sum + say, around.length);
      for (let j = 0; j < n; j++) {
        let sum = around.length * pull[v * n + j];
        around.forEach((u, i) => {
          sum += says[i] * pull[u * n + j];
        });
        next[v * n + j] = around.length > 0 ? sum / total : pull[v * n + j];
      }
    }
    pull = next;
  }
  const joints = new Uint16Array(count * 4);
  const shares = new Float32Array(count * 4);
  for (let v = 0; v < count; v++) {
    const most = Array.from({ length: n }, (_, j) => j)
      .sort((a, b) => pull[v * n + b] - pull[v * n + a])
      .slice(0, 4);
    const sum = most.reduce((total, j) => total + pull[v * n + j], 0);
    most.forEach((j, k) => {
      joints[v * 4 + k] = pull[v * n + j] > 0 ? j : most[0];
      shares[v * 4 + k] = pull[v * n + j] / sum;
    });
  }
  return { joints, shares };
}

/** Joints without a tip whose bone goes on forward: toes and hooves; and how far around one its surface is looked for, metres. */
const TOES = /(Toe|Hoof)$/;
const AROUND = 0.13;

/** Where a toe ends: as far forward as the surface around it goes, at the joint's own height. */
function toeEnd([x, y, z]: readonly number[], positions: ArrayLike<number>): number[] {
  let front = z;
  for (let o = 0; o < positions.length; o += 3)
    if (Math.hypot(positions[o] - x, positions[o + 1] - y, positions[o + 2] - z) < AROUND) front = Math.max(front, positions[o + 2]);
  return [x, y, front];
}

/** Limbs branch off trunk and hips: the way to where they begin is no bone of these. */
function branchesOff(skeleton: Skeleton, joint: number): boolean {
  const parent = skeleton.names[skeleton.parents[joint]];
  return /^(Left|Right)/.test(skeleton.names[joint]) && !/^(Left|Right)/.test(parent);
}

function toSegment(p: readonly number[], a: readonly number[], b: readonly number[]): number {
  const ab = b.map((v, i) => v - a[i]);
  const l2 = ab.reduce((sum, v) => sum + v * v, 0);
  const u = l2 === 0 ? 0 : Math.max(0, Math.min(1, ab.reduce((sum, v, i) => sum + v * (p[i] - a[i]), 0) / l2));
  return Math.hypot(...p.map((v, i) => v - a[i] - u * ab[i]));
}

/** How far a place is beyond the end of a bone, along it; below zero before it. */
function pastEnd(p: readonly number[], a: readonly number[], b: readonly number[]): number {
  const ab = b.map((v, i) => v - a[i]);
  return ab.reduce((sum, v, i) => sum + v * (p[i] - b[i]), 0) / (Math.hypot(...ab) || 1);
}

const smooth = (u: number) => {
  const t = Math.max(0, Math.min(1, u));
  return t * t * (3 - 2 * t);
};

function normalize(values: Float32Array, o: number, n: number): void {
  let sum = 0;
  for (let i = 0; i < n; i++) sum += values[o + i];
  if (sum > 0) for (let i = 0; i < n; i++) values[o + i] /= sum;
}

function neighboursOf(indices: Uint32Array, count: number): number[][] {
  const sets = Array.from({ length: count }, () => new Set<number>());
  for (let t = 0; t < indices.length; t += 3)
    for (let k = 0; k < 3; k++) {
      sets[indices[t + k]].add(indices[t + ((k + 1) % 3)]);
      sets[indices[t + ((k + 1) % 3)]].add(indices[t + k]);
    }
  return sets.map((set) => [...set]);
}
