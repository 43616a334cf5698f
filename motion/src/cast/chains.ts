import type { Character } from "../character/character.ts";
import { ancestry, restWorld, type Skeleton } from "../skeleton/skeleton.ts";

/** A joint that has no single partner: between two of the other body's, `share` of the way to the second. */
export interface Between {
  readonly first: number;
  readonly second: number;
  readonly share: number;
}

/**
 * Spines and necks of another number of joints: each joint of this body's chain stands, by its share of the chain's length at rest, between two joints of the other's, and turns as what lies
 * there does. Hips, chest and head keep their own partners; chains of one number do too.
 */
export function betweenJoints(target: Character, source: Character): Map<number, Between> {
  const out = new Map<number, Between>();
  for (const [here, there] of [
    [spineOf(target), spineOf(source)],
    [neckOf(target), neckOf(source)],
  ]) {
    if (here.length === there.length || here.length < 3 || there.length < 2) continue;
    const [own, other] = [sharesAlong(target.skeleton, here), sharesAlong(source.skeleton, there)];
    for (let i = 1; i < here.length - 1; i++) {
      let k = 0;
      while (k < there.length - 2 && other[k + 1] < own[i]) k++;
      const span = other[k + 1] - other[k];
      out.set(here[i], { first: there[k], second: there[k + 1], share: span > 0 ? Math.max(0, Math.min(1, (own[i] - other[k]) / span)) : 0 });
    }
  }
  return out;
}

/** Hips to chest, both in it. */
function spineOf({ skeleton, rig }: Character): number[] {
  return pathDown(skeleton, rig.hips, rig.chest);
}

/** Chest to head, both in it. */
function neckOf({ skeleton, rig }: Character): number[] {
  return pathDown(skeleton, rig.chest, rig.head);
}

function pathDown(skeleton: Skeleton, from: number, to: number): number[] {
  if (from < 0 || to < 0) return [];
  const up = ancestry(skeleton, to);
  const path = [...up].reverse();
  const at = path.indexOf(from);
  return at < 0 ? [] : path.slice(at);
}

/** How far along the chain each of its joints is at rest, 0..1. */
function sharesAlong(skeleton: Skeleton, chain: readonly number[]): number[] {
  const { positions: p } = restWorld(skeleton);
  const at = [0];
  for (let i = 1; i < chain.length; i++) {
    const [a, b] = [chain[i - 1] * 3, chain[i] * 3];
    at.push(at[i - 1] + Math.hypot(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]));
  }
  const whole = at[at.length - 1] || 1;
  return at.map((v) => v / whole);
}
