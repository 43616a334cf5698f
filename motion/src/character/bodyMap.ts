import type { Clip } from "../clip/clip.ts";
import { ancestry, restWorld, type Skeleton } from "../skeleton/skeleton.ts";
import { findLimbPairs, isBelow, type LimbPair, longestChain, readTopology, says, sideOf, splitLimb, type Topology } from "./limbPairs.ts";
import { FINGERS, NECK_ROLES, type Role, SIDES, type Side, SPINE_ROLES, TAIL } from "./roles.ts";
import { type Across, type Direction, sidesByName, sidesByPlace } from "./sides.ts";
import { meanDirection, type StanceSamples, sampleStances } from "./stance.ts";
import { hanimRoles } from "./vocabularies.ts";

export interface BodyGuess {
  readonly role: Role;
  readonly joint: number;
  /** 0..1 */
  readonly confidence: number;
  /** why, in words for a person */
  readonly reason: string;
}

/** Which joint is which part. `roles` is what everything reads; `guesses` says why. */
export interface BodyMap {
  readonly plan: "biped" | "quadruped";
  readonly roles: Readonly<Partial<Record<Role, number>>>;
  readonly guesses: readonly BodyGuess[];
}

/** A person's corrections: role → joint name, or null for "no such part". */
export type BodyOverrides = Readonly<Partial<Record<Role, string | null>>>;

/**
 * Finds the parts of a body from topology (pairs of like limbs, the spine between them), names in many styles, proportions and the
 * stance in the clip. Every guess carries its reason. Joints it cannot place (spare joints, props) get no role. `up` is the index of
 * the vertical axis of the skeleton's frame (1, +Y, but for files not yet turned).
 */
export function mapBody(skeleton: Skeleton, clip: Clip, overrides: BodyOverrides = {}, up: 1 | 2 = 1): BodyMap {
  const topology = readTopology(skeleton);
  const samples = sampleStances(skeleton, clip);
  const pairs = findLimbPairs(topology, skeleton);
  const guesses = new Map<Role, BodyGuess>();
  const put = (role: Role, joint: number, confidence: number, reason: string) => {
    if (joint >= 0 && !guesses.has(role)) guesses.set(role, { role, joint, confidence, reason });
  };

  const legs = pickLegs(topology, pairs);
  const arms = pickArms(topology, skeleton, pairs, legs);
  let plan: BodyMap["plan"] = "biped";
  if (legs) {
    plan = arms && !builtUpright(skeleton, legs, arms, up) && standsOnFour(topology, samples, legs, arms, up) ? "quadruped" : "biped";
    const hips = legs.attach;
    put("hips", hips, says(topology, hips, ["hips"]) ? 0.98 : 0.8, says(topology, hips, ["hips"]) ? "named so, and both legs leave it" : "both legs leave it");
    // A four-legged body faces the way from its hips to its fore legs, whatever its hooves do.
    const facing = plan === "quadruped" && arms ? meanDirection(samples, legs.attach, arms.attach) : null;
    const across = putLimbs(topology, skeleton, samples, legs, "leg", facing, null, up, put);
    if (arms) putLimbs(topology, skeleton, samples, arms, "arm", facing, across, up, put);
    putTrunk(topology, skeleton, legs, arms, plan === "quadruped" ? "the fore legs leave it" : "the arms leave it", put);
    if (plan === "biped") putFingers(topology, skeleton, guesses, put);
  }
  const hanim = skeleton.said ? null : hanimRoles(skeleton.names);
  const said = skeleton.said ?? (hanim && { by: "H-Anim's names", roles: hanim });
  for (const [role, joint] of Object.entries(said?.roles ?? {}) as [Role, number][]) {
    guesses.delete(role);
    put(role, joint, 1, `the file says so, in ${said?.by}`);
  }
  for (const [role, name] of Object.entries(overrides) as [Role, string | null][]) {
    guesses.delete(role);
    const joint = name === null ? -1 : skeleton.names.indexOf(name);
    put(role, joint, 1, "set by hand");
  }
  const roles: Partial<Record<Role, number>> = {};
  for (const { role, joint } of guesses.values()) roles[role] = joint;
  return { plan, roles, guesses: [...guesses.values()] };
}

type Put = (role: Role, joint: number, confidence: number, reason: string) => void;

const LEG_PARTS = ["thigh", "shin", "foot", "toe"] as const;
const ARM_PARTS = ["collar", "upperArm", "forearm", "hand", "thumb", "index", "middle"] as const;

function nameScore(topology: Topology, pair: LimbPair, parts: readonly (typeof LEG_PARTS | typeof ARM_PARTS)[number][]): number {
  let score = 0;
  for (const chain of pair.chains) for (const joint of chain) if (says(topology, joint, parts)) score++;
  return score;
}

/** 1 where a pair's names say that it is the hind one, −1 the fore one, 0 where they say neither. */
function regionOf(topology: Topology, pair: LimbPair): number {
  const said = pair.chains.flat().map((joint) => topology.hints[joint].region);
  return Math.sign(said.filter((r) => r === "hind").length - said.filter((r) => r === "fore").length);
}

/** Legs: named so, else the long pair nearest to the root. */
function pickLegs(topology: Topology, pairs: readonly LimbPair[]): LimbPair | undefined {
  return best(pairs, (pair) => {
    const named = Math.sign(nameScore(topology, pair, LEG_PARTS) - nameScore(topology, pair, ARM_PARTS));
    return 20 * regionOf(topology, pair) + 10 * named - topology.depth[pair.attach] + pair.length / (pairs[0].length || 1);
  });
}

/** Arms or fore legs: the longest other pair, not below the legs. */
function pickArms(topology: Topology, skeleton: Skeleton, pairs: readonly LimbPair[], legs: LimbPair | undefined): LimbPair | undefined {
  const others = pairs.filter((pair) => pair !== legs && !legs?.chains.some((chain) => isBelow(skeleton, pair.attach, chain[0])));
  return best(others, (pair) => -20 * regionOf(topology, pair) + Math.sign(nameScore(topology, pair, ARM_PARTS)) * 10 + pair.length / (others[0].length || 1));
}

function best<T>(items: readonly T[], score: (item: T) => number): T | undefined {
  let top: T | undefined;
  let topScore = Number.NEGATIVE_INFINITY;
  for (const item of items) {
    const value = score(item);
    if (value > topScore) {
      topScore = value;
      top = item;
    }
  }
  return top;
}

/** Within 30° of the vertical. */
const UPRIGHT = 0.87;

/** Does a body at rest stand as people do, whatever it does in the clip: its back upright over its legs? One that lies, or is on its hands and toes, has a level back as well. */
function builtUpright(skeleton: Skeleton, legs: LimbPair, arms: LimbPair, up: 1 | 2): boolean {
  const { positions } = restWorld(skeleton);
  const rise = (from: number, to: number) => {
    const way = [0, 1, 2].map((i) => positions[to * 3 + i] - positions[from * 3 + i]);
    return way[up] / (Math.hypot(...way) || 1);
  };
  return rise(legs.attach, arms.attach) > UPRIGHT && legs.chains.every((chain) => rise(chain[chain.length - 1], legs.attach) > UPRIGHT);
}

/** Do the fore limbs' ends rest as low as the hind ones', under a level back? Names of hands or hooves settle it first. */
function standsOnFour(topology: Topology, samples: StanceSamples, legs: LimbPair, arms: LimbPair, up: 1 | 2): boolean {
  const names = arms.chains.flat();
  if (names.some((joint) => says(topology, joint, ["thumb", "index", "middle"]))) return false;
  const end = (pair: LimbPair, side: 0 | 1) => pair.chains[side][pair.chains[side].length - 1];
  const legHeight = meanDirection(samples, end(legs, 0), legs.attach)[up] + meanDirection(samples, end(legs, 1), legs.attach)[up];
  const armHeight = meanDirection(samples, end(arms, 0), legs.attach)[up] + meanDirection(samples, end(arms, 1), legs.attach)[up];
  const back = meanDirection(samples, legs.attach, arms.attach);
  const level = Math.abs(back[up]) < 0.7 * Math.hypot(...back);
  return level && armHeight > 0.6 * legHeight;
}

function putLimbs(
  topology: Topology,
  skeleton: Skeleton,
  samples: StanceSamples,
  pair: LimbPair,
  kind: "leg" | "arm",
  facing: Direction | null,
  across: Across | null,
  up: 1 | 2,
  put: Put,
): Across | null {
  const heightOf = facing && ((joint: number) => meanDirection(samples, pair.attach, joint)[up]);
  const parts = pair.chains.map((chain) => splitLimb(topology, skeleton, chain, kind, heightOf));
  const [first, second] = parts;
  if (!first || !second) return null;
  const named = sideOf(topology, pair.chains[0]);
  const sides = named === undefined ? sidesByPlace(samples, [first, second], across, facing, up) : sidesByName(named);
  parts.forEach((part, i) => {
    if (!part) return;
    const side: Side = sides.order[i];
    const confidence = Math.min(0.98, 0.62 + 0.3 * part.named + (named === undefined ? 0 : 0.06));
    const why = `${part.named > 0.99 ? "named so; " : part.named > 0 ? "partly named so; " : ""}place in ${kind === "leg" ? (facing ? "a hind leg" : "a leg") : facing ? "a fore leg" : "an arm"} of two long bones, ${sides.reason}`;
    const names = kind === "leg" ? (["Thigh", "Shin", "Foot", "Toe"] as const) : (["UpperArm", "Forearm", "Hand", "HandEnd"] as const);
    put(`${side}${names[0]}`, part.upper, confidence, why);
    put(`${side}${names[1]}`, part.lower, confidence, why);
    put(`${side}${names[2]}`, part.end, confidence, why);
    if (kind === "leg" || facing) put(`${side}${names[3]}`, part.tip, confidence * 0.95, `next joint after the ${facing ? "cannon" : names[2].toLowerCase()}`);
    if (kind === "arm") {
      const collar = skeleton.parents[part.upper];
      if (collar >= 0 && pair.chains[i].includes(collar))
        put(`${side}Collar`, collar, confidence * 0.95, facing ? "joint between chest and fore leg" : "joint between chest and upper arm");
    }
  });
  const [left, right] = sides.order[0] === "left" ? [first, second] : [second, first];
  return { left: left.upper, right: right.upper };
}

function putTrunk(topology: Topology, skeleton: Skeleton, legs: LimbPair, arms: LimbPair | undefined, ofChest: string, put: Put): void {
  const hips = legs.attach;
  const limbStarts = new Set([...legs.chains, ...(arms?.chains ?? [])].map((chain) => chain[0]));
  const chest = arms?.attach ?? -1;
  if (chest >= 0 && chest !== hips) {
    const down = new Set(ancestry(skeleton, hips));
    const path = ancestry(skeleton, chest)
      .filter((joint) => !down.has(joint))
      .reverse();
    path.forEach((joint, i) => {
      const last = i === path.length - 1;
      const ok = says(topology, joint, ["spine", "chest"]);
      const role: Role = last && path.length > 1 ? "chest" : SPINE_ROLES[Math.min(i, SPINE_ROLES.length - 1)];
      put(role, joint, ok ? 0.95 : 0.75, `${ok ? "named so, and " : ""}${last ? ofChest : "lies between hips and chest"}`);
    });
  }
  const neckBase = chest >= 0 ? chest : hips;
  const free = topology.children[neckBase].filter((child) => !limbStarts.has(child) && !says(topology, child, ["tail", "other", "thigh"]));
  const neck = best(
    free.filter((child) => chest >= 0 || says(topology, child, ["spine", "neck", "chest"])),
    (child) => topology.reach[child] + (subtreeSays(topology, child, "head") ? 1e6 : 0),
  );
  if (neck !== undefined) putNeck(topology, neck, put);
  // A tail leaves the hips, or a joint above them that carries nothing else of the body.
  const tail = [hips, ...ancestry(skeleton, hips)]
    .flatMap((joint) => topology.children[joint])
    .find(
      (child) =>
        !limbStarts.has(child) &&
        !isBelow(skeleton, hips, child) &&
        !isBelow(skeleton, chest, child) &&
        (says(topology, child, ["tail"]) || (chest >= 0 && longestChain(topology, skeleton, child).length >= 3 && !topology.hints[child].parts.length)),
    );
  if (tail !== undefined) {
    longestChain(topology, skeleton, tail).forEach((joint, i) => {
      if (i < TAIL.length)
        put(TAIL[i], joint, says(topology, joint, ["tail"]) ? 0.95 : 0.55, says(topology, joint, ["tail"]) ? "named so" : "a chain behind the hips");
    });
  }
}

function subtreeSays(topology: Topology, joint: number, part: "head"): boolean {
  return says(topology, joint, [part]) || topology.children[joint].some((child) => subtreeSays(topology, child, part));
}

function putNeck(topology: Topology, first: number, put: Put): void {
  // Down to the joint named head; without one, the chain's last joint that is not an end.
  const chain = [first];
  for (let j = first; !says(topology, j, ["head"]); ) {
    const next = best(topology.children[j], (child) => topology.reach[child] + (subtreeSays(topology, child, "head") ? 1e6 : 0));
    if (next === undefined || says(topology, next, ["end", "other"])) break;
    chain.push(next);
    j = next;
    if (chain.length > 8) break;
  }
  const head = chain[chain.length - 1];
  const named = says(topology, head, ["head"]);
  put("head", head, named ? 0.97 : 0.65, named ? "named so, above the chest" : "end of the chain above the chest");
  chain.slice(0, -1).forEach((joint, i) => {
    const ok = says(topology, joint, ["neck"]);
    if (i < NECK_ROLES.length) put(NECK_ROLES[i], joint, ok ? 0.95 : 0.7, ok ? "named so" : "lies between chest and head");
  });
}

function putFingers(topology: Topology, skeleton: Skeleton, guesses: ReadonlyMap<Role, BodyGuess>, put: Put): void {
  for (const side of SIDES) {
    const hand = guesses.get(`${side}Hand`)?.joint;
    if (hand === undefined) continue;
    const starts: number[] = [];
    const walk = (joint: number) => {
      for (const child of topology.children[joint]) {
        if (says(topology, child, ["end", "twist", "other"])) continue;
        if (says(topology, child, ["thumb", "index", "middle", "ring", "little"]) || topology.children[joint].length > 2) starts.push(child);
        else walk(child);
      }
    };
    walk(hand);
    for (const finger of FINGERS) {
      const part = finger.toLowerCase() as Lowercase<typeof finger>;
      const start = starts.find((joint) => topology.hints[joint].parts[0] === part && !guesses.has(`${side}${finger}`));
      if (start === undefined) continue;
      const chain = longestChain(topology, skeleton, start).filter((joint) => !says(topology, joint, ["end"]));
      ([`${side}${finger}`, `${side}${finger}2`, `${side}${finger}3`] as const).forEach((role, i) => {
        if (chain[i] !== undefined) put(role, chain[i], 0.9, "named so, below the hand");
      });
    }
  }
}
