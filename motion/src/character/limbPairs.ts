import { boneLength, childrenOf, type Skeleton } from "../skeleton/skeleton.ts";
import { type NameHint, type NamePart, readName } from "./names.ts";

/** Two chains of like lengths that leave the same joint: legs, arms, fore legs. Chains run from the branching outwards. */
export interface LimbPair {
  readonly attach: number;
  readonly chains: readonly [readonly number[], readonly number[]];
  readonly length: number;
}

/** What topology alone says of a skeleton. */
export interface Topology {
  readonly children: number[][];
  readonly depth: number[];
  /** longest way from each joint to the end of its subtree, metres, tips included */
  readonly reach: Float64Array;
  readonly hints: readonly NameHint[];
}

export function readTopology(skeleton: Skeleton): Topology {
  const count = skeleton.names.length;
  const hints = skeleton.names.map(readName);
  const all = childrenOf(skeleton);
  // Joints that only share in a bone's twist are no branching: a forearm with two of them is no hand.
  const helps = new Uint8Array(count);
  for (let j = count - 1; j >= 0; j--) helps[j] = hints[j].parts.includes("twist") && all[j].every((child) => helps[child] === 1) ? 1 : 0;
  const children = all.map((list) => list.filter((child) => helps[child] === 0));
  const depth: number[] = [];
  const reach = new Float64Array(count);
  for (let j = 0; j < count; j++) depth.push(skeleton.parents[j] < 0 ? 0 : depth[skeleton.parents[j]] + 1);
  for (const { joint, offset } of skeleton.tips) reach[joint] = Math.max(reach[joint], Math.hypot(...offset));
  for (let j = count - 1; j >= 0; j--) {
    const parent = skeleton.parents[j];
    if (parent >= 0 && helps[j] === 0) reach[parent] = Math.max(reach[parent], reach[j] + boneLength(skeleton, j));
  }
  return { children, depth, reach, hints };
}

/** The longest chain from `joint` to a leaf; on a tie the child with more below it by name (a middle finger, not a thumb). */
export function longestChain(topology: Topology, skeleton: Skeleton, joint: number): number[] {
  const chain = [joint];
  for (let j = joint; topology.children[j].length > 0; ) {
    let best = topology.children[j][0];
    for (const child of topology.children[j]) {
      const weight = (c: number) => boneLength(skeleton, c) + topology.reach[c] - (says(topology, c, ["twist", "end", "other"]) ? 1e6 : 0);
      if (weight(child) > weight(best) + 1e-9) best = child;
    }
    chain.push(best);
    j = best;
  }
  return chain;
}

export function says(topology: Topology, joint: number, parts: readonly NamePart[]): boolean {
  return topology.hints[joint].parts.some((part) => parts.includes(part));
}

/** Length along a chain including the way from the attach joint and the tip, metres. */
function chainLength(topology: Topology, skeleton: Skeleton, first: number): number {
  return boneLength(skeleton, first) + topology.reach[first];
}

/** All pairs of limb-like chains, longest first; chains inside another pair's chain (fingers) are left out. */
export function findLimbPairs(topology: Topology, skeleton: Skeleton): LimbPair[] {
  const pairs: LimbPair[] = [];
  topology.children.forEach((list, attach) => {
    for (let a = 0; a < list.length; a++) {
      for (let b = a + 1; b < list.length; b++) {
        const la = chainLength(topology, skeleton, list[a]);
        const lb = chainLength(topology, skeleton, list[b]);
        if (!(la > 0 && lb > 0) || Math.abs(la - lb) > 0.2 * Math.max(la, lb)) continue;
        const ca = longestChain(topology, skeleton, list[a]);
        const cb = longestChain(topology, skeleton, list[b]);
        if (ca.length < 3 || cb.length < 3) continue;
        if (!mirrors(topology, skeleton, ca, cb)) continue;
        pairs.push({ attach, chains: [ca, cb], length: (la + lb) / 2 });
      }
    }
  });
  pairs.sort((p, q) => q.length - p.length);
  const longest = pairs[0]?.length ?? 0;
  const kept: LimbPair[] = [];
  for (const pair of pairs) {
    if (pair.length < 0.3 * longest) continue;
    const inside = kept.some((other) => other.chains.some((chain) => isBelow(skeleton, pair.attach, chain[0])));
    const taken = kept.some((other) => other.chains.some((chain) => pair.chains.some((own) => own[0] === chain[0])));
    if (!inside && !taken) kept.push(pair);
  }
  return kept;
}

/** Are two chains each other's mirror image: opposite sides by name, or no sides at all and bones of like lengths in order? */
function mirrors(topology: Topology, skeleton: Skeleton, a: readonly number[], b: readonly number[]): boolean {
  const sideA = sideOf(topology, a);
  const sideB = sideOf(topology, b);
  if (sideA !== undefined || sideB !== undefined) {
    // A limb is sided from its first joint on; a spine that runs out into one arm is not a limb.
    return sideA !== undefined && sideB !== undefined && sideA !== sideB && topology.hints[a[0]].side === sideA && topology.hints[b[0]].side === sideB;
  }
  let difference = 0;
  let total = 0;
  for (let i = 0; i < Math.max(a.length, b.length); i++) {
    const la = i < a.length ? boneLength(skeleton, a[i]) : 0;
    const lb = i < b.length ? boneLength(skeleton, b[i]) : 0;
    difference += Math.abs(la - lb);
    total += la + lb;
  }
  return difference < 0.15 * total;
}

/** The side most names of a chain agree on. */
export function sideOf(topology: Topology, chain: readonly number[]): "left" | "right" | undefined {
  let balance = 0;
  for (const joint of chain) {
    const side = topology.hints[joint].side;
    balance += side === "left" ? 1 : side === "right" ? -1 : 0;
  }
  return balance > 0 ? "left" : balance < 0 ? "right" : undefined;
}

export function isBelow(skeleton: Skeleton, joint: number, ancestor: number): boolean {
  for (let j = joint; j >= 0; j = skeleton.parents[j]) if (j === ancestor) return true;
  return false;
}

export interface LimbParts {
  readonly upper: number;
  readonly lower: number;
  readonly end: number;
  /** toe, or the joint of a hand or hoof that goes on; −1 when the chain stops at `end` */
  readonly tip: number;
  /** share of the three main joints whose names agree, 0..1 */
  readonly named: number;
}

/**
 * Which joints of a chain are thigh, shin, foot (or upper arm, forearm, hand): the choice that agrees best with the names and with
 * proportion (two long segments of like length, a short remainder). Dummies, collars and twist joints in between fall out. `heightOf` is given
 * for a four-legged body (mean heights, metres): there each segment is one bone, the remainder may be long, and the leg rests on its lowest joint.
 */
export function splitLimb(
  topology: Topology,
  skeleton: Skeleton,
  chain: readonly number[],
  kind: "leg" | "arm",
  heightOf: ((joint: number) => number) | null = null,
): LimbParts | undefined {
  const wanted: readonly (readonly NamePart[])[] = kind === "leg" ? [["thigh"], ["shin"], ["foot"]] : [["upperArm"], ["forearm"], ["hand"]];
  const along = [0];
  for (let i = 1; i < chain.length; i++) along.push(along[i - 1] + boneLength(skeleton, chain[i]));
  const total = along[chain.length - 1] + topology.reach[chain[chain.length - 1]];
  const score = (index: number, parts: readonly NamePart[]): number => {
    const said = topology.hints[chain[index]].parts;
    if (said.length === 0) return 0;
    if (said[0] === parts[0]) return 3;
    if (said.includes(parts[0])) return 2;
    return -3;
  };
  let best: LimbParts | undefined;
  let bestScore = Number.NEGATIVE_INFINITY;
  for (let a = 0; a < chain.length - 2; a++) {
    for (let b = a + 1; b < chain.length - 1; b++) {
      for (let c = b + 1; c < chain.length; c++) {
        const l1 = along[b] - along[a];
        const l2 = along[c] - along[b];
        if (!(l1 > 0.08 * total && l2 > 0.08 * total)) continue;
        // A hand is where the fingers branch: nothing beyond it is the end of the limb.
        if (chain.slice(0, c).some((joint) => topology.children[joint].length > 2)) continue;
        if (heightOf && !(oneBone(topology, skeleton, chain, a, b) && oneBone(topology, skeleton, chain, b, c))) continue;
        const rest = total - along[c];
        const names = [score(a, wanted[0]), score(b, wanted[1]), score(c, wanted[2])];
        const fit =
          names[0] +
          names[1] +
          names[2] -
          6 * Math.abs(Math.log(l1 / l2)) +
          (8 * (l1 + l2)) / total -
          TURNS * (turned(skeleton, chain, a, b) + turned(skeleton, chain, b, c)) -
          (heightOf ? 0 : (6 * Math.max(0, rest - 0.35 * (l1 + l2))) / total) -
          0.4 * a;
        if (fit > bestScore) {
          bestScore = fit;
          best = {
            upper: chain[a],
            lower: chain[b],
            end: chain[c],
            tip: heightOf ? lowestJoint(chain, c, l1 + l2, heightOf) : tipJoint(topology, skeleton, chain, c, kind),
            named: names.filter((s) => s > 0).length / 3,
          };
        }
      }
    }
  }
  return best;
}

/** What a segment costs that turns on its way at rest, as a foot turns off its shin: a long foot is no part of a shin. */
const TURNS = 12;

/** How much shorter the straight way between two joints of a chain is, at rest, than the way along it, as a share of that. */
function turned(skeleton: Skeleton, chain: readonly number[], from: number, to: number): number {
  const sum = [0, 0, 0];
  let along = 0;
  for (const joint of chain.slice(from + 1, to + 1)) {
    for (let i = 0; i < 3; i++) sum[i] += skeleton.offsets[joint * 3 + i];
    along += boneLength(skeleton, joint);
  }
  return along > 0 ? 1 - Math.hypot(...sum) / along : 0;
}

/** Is there nothing of a limb's own between two joints of its chain? */
function oneBone(topology: Topology, skeleton: Skeleton, chain: readonly number[], from: number, to: number): boolean {
  return chain.slice(from + 1, to).every((joint) => says(topology, joint, ["twist"]) || boneLength(skeleton, joint) < 1e-6);
}

/** How far over the lowest joint of a leg another may lie and still be the one that it stands on, as a share of the leg. */
const AS_LOW = 0.025;

/** The joint behind `end` on which a four-legged body's leg rests: the first that lies as low as any; −1 where that is the end itself. */
function lowestJoint(chain: readonly number[], end: number, length: number, heightOf: (joint: number) => number): number {
  const lowest = Math.min(...chain.slice(end).map(heightOf));
  const at = chain.findIndex((joint, i) => i >= end && heightOf(joint) < lowest + AS_LOW * length);
  return at > end ? chain[at] : -1;
}

function tipJoint(topology: Topology, skeleton: Skeleton, chain: readonly number[], end: number, kind: "leg" | "arm"): number {
  for (let i = end + 1; i < chain.length; i++) {
    if (says(topology, chain[i], ["twist", "other"])) continue;
    if (boneLength(skeleton, chain[i]) < 1e-6 && i + 1 < chain.length) continue;
    return kind === "leg" && says(topology, chain[i], ["end"]) && i !== end + 1 ? -1 : chain[i];
  }
  return -1;
}
