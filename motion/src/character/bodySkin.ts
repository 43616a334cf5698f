import { conjugateQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { BodyMap } from "./bodyMap.ts";
import type { Character } from "./character.ts";
import { type RestSurface, restSurface } from "./onSkin.ts";
import { type Role, SIDES } from "./roles.ts";
import type { Skin, SkinPart } from "./skin.ts";
import type { Volume } from "./volumes.ts";

/** How far apart the places of a surface that are kept lie, share of the body's height. */
const GRAIN = 0.014;
/** A surface that faces its own axis more than this is the inside of a shell (cosine). */
const INWARD = -0.3;
/** Places are looked at in lumps of so many grains. */
const LUMP = 4;
/** What carries less than this of a place is left to the others. */
const LITTLE = 0.02;
/** A triangle is looked at in no more rows than this. */
const MOST_ROWS = 40;

/** Surface that one joint carries most, and with it one other, or none (−1). */
export interface SkinPatch {
  readonly joint: number;
  readonly other: number;
  /** [4] how the other's frame is turned in the joint's, at rest */
  readonly between: Float64Array;
  /** [place][3] in the joint's frame at rest, metres; places that lie beside each other follow each other */
  readonly rest: Float64Array;
  /** a ball around all places: middle and radius in the joint's frame, metres */
  readonly ball: Float64Array;
  /** [place] how far it is from there at most where the other joint is turned by half a turn, metres */
  readonly slack: Float64Array;
  /** the number of its first place among those of the whole skin */
  readonly start: number;
  /** lumps of them: [lump + 1] the first place of each and the last's end, [lump][middle, radius] in the joint's frame, [lump] the most slack in it, metres */
  readonly lumps: { readonly first: Int32Array; readonly balls: Float64Array; readonly slack: Float64Array };
}

/** The surface of trunk, head and thighs as places with normals, as their joints carry them. */
export interface BodySkin {
  /** metres between neighbours, about */
  readonly grain: number;
  readonly patches: readonly SkinPatch[];
  /** the joints that carry them */
  readonly joints: readonly number[];
  /** carriers, place after place: [place + 1] where a place's begin, and the last's end; [carrier] joint and weight, [carrier][3] place (metres) and normal in the joint's frame */
  readonly carriers: {
    readonly first: Int32Array;
    readonly joint: Int32Array;
    readonly weight: Float64Array;
    readonly local: Float64Array;
    readonly normal: Float64Array;
  };
}

const read = new WeakMap<BodyMap, BodySkin | null>();

/** The surface that hands may touch, of a body on two legs with a skin; null without one. Read once for a body. */
export function bodySkin(character: Character): BodySkin | null {
  const { skin } = character.details;
  if (!skin || character.body.plan !== "biped") return null;
  const known = read.get(character.body);
  if (known !== undefined) return known;
  const own = new Reading(character, skin).all();
  read.set(character.body, own);
  return own;
}

const TOUCHED: readonly Role[] = [
  "hips",
  "spine",
  "spine2",
  "spine3",
  "spine4",
  "spine5",
  "chest",
  "neck",
  "neck2",
  "neck3",
  "head",
  "leftThigh",
  "rightThigh",
];

/** A place of the surface, in the world at rest, and what carries it. */
interface Place {
  readonly at: readonly number[];
  readonly normal: readonly number[];
  readonly shares: ReadonlyMap<number, Share>;
}

/** What a joint has of a place: how much, and where, in the world at rest. The corners of a long triangle are carried each by its own joints. */
interface Share {
  readonly weight: number;
  readonly at: readonly number[];
}

class Reading {
  private readonly surface: RestSurface;
  /** [joint] the joint that it goes with: one of those touched, or a shin (whose seam bends with the knee); −1 of arms and feet */
  private readonly goesWith: readonly number[];
  private readonly touched: ReadonlySet<number>;
  private readonly volumes = new Map<number, Volume>();
  private readonly back = new Map<number, Float64Array>();
  private readonly grain: number;
  private readonly kept = { first: [] as number[], joint: [] as number[], weight: [] as number[], local: [] as number[], normal: [] as number[] };

  constructor(
    { skeleton, body, height, volumes }: Character,
    private readonly skin: Skin,
  ) {
    this.surface = restSurface(skeleton, skin);
    this.grain = GRAIN * height;
    const joints = (roles: readonly Role[]) => new Set(roles.flatMap((role) => body.roles[role] ?? []));
    this.touched = joints(TOUCHED);
    const shins = joints(SIDES.map((side): Role => `${side}Shin`));
    const ends = joints(SIDES.flatMap((side): Role[] => [`${side}Collar`, `${side}UpperArm`, `${side}Foot`]));
    this.goesWith = skeleton.names.map((_, joint) => {
      for (let j = joint; j >= 0; j = skeleton.parents[j]) {
        if (ends.has(j)) return -1;
        if (this.touched.has(j) || shins.has(j)) return j;
      }
      return -1;
    });
    for (const joint of [...this.touched, ...shins]) {
      this.back.set(joint, conjugateQuatFlat(new Float64Array(4), 0, this.surface.world.rotations, joint * 4) as Float64Array);
      // Of several on one joint the widest is the trunk's own.
      const [widest] = volumes.filter((v) => v.joint === joint).sort((a, b) => b.size[0] - a.size[0]);
      if (widest) this.volumes.set(joint, widest);
    }
  }

  all(): BodySkin | null {
    const patches = [...this.places()].flatMap(([joint, places]) => this.patchesOf(joint, places));
    if (patches.length === 0) return null;
    const { first, joint, weight, local, normal } = this.kept;
    const carriers = {
      first: Int32Array.from([...first, joint.length]),
      joint: Int32Array.from(joint),
      weight: Float64Array.from(weight),
      local: Float64Array.from(local),
      normal: Float64Array.from(normal),
    };
    return { grain: this.grain, patches, joints: [...new Set(joint)], carriers };
  }

  /** One place a grain of each joint's surface, where it faces away from the joint's axis. */
  private places(): Map<number, Place[]> {
    const out = new Map<number, Place[]>();
    const seen = new Set<string>();
    let before = 0;
    for (const part of this.skin.parts) {
      for (let t = 0; t + 2 < part.indices.length; t += 3) {
        const corners = [0, 1, 2].map((k) => part.indices[t + k]);
        const owners = corners.map((v) => this.goesWith[this.surface.joints[before + v]]);
        const owner = owners[0];
        if (!owners.every((joint) => this.touched.has(joint))) continue;
        const volume = this.volumes.get(owner);
        if (!volume) continue;
        const own = out.get(owner) ?? [];
        out.set(owner, own);
        this.ofTriangle(part, before, corners, volume, seen, own);
      }
      before += part.positions.length / 3;
    }
    return out;
  }

  private ofTriangle(part: SkinPart, before: number, corners: readonly number[], volume: Volume, seen: Set<string>, out: Place[]): void {
    const [a, b, c] = corners.map((v) => Array.from(this.surface.positions.subarray((before + v) * 3, (before + v) * 3 + 3)));
    const [u, v] = [b, c].map((end) => end.map((value, i) => value - a[i]));
    const across = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const area = Math.hypot(...across);
    if (area === 0) return;
    const normal = across.map((value) => value / area);
    const middle = a.map((value, i) => value + (u[i] + v[i]) / 3);
    if (!this.facesAway(volume, middle, normal)) return;
    const longest = Math.max(Math.hypot(...u), Math.hypot(...v), Math.hypot(...u.map((value, i) => value - v[i])));
    const rows = Math.min(MOST_ROWS, Math.max(1, Math.ceil(longest / this.grain)));
    // Middles of rows² small triangles would do; those that stand upright say enough.
    for (let i = 0; i < rows; i++)
      for (let k = 0; k < rows - i; k++) {
        const [p, q] = [(i + 1 / 3) / rows, (k + 1 / 3) / rows];
        const at = a.map((value, n) => value + p * u[n] + q * v[n]);
        const key = `${volume.joint} ${at.map((value) => Math.round(value / this.grain)).join()}`;
        if (seen.has(key)) continue;
        seen.add(key);
        out.push({ at, normal, shares: this.sharesOf(part, corners, [a, b, c], [1 - p - q, p, q]) });
      }
  }

  private facesAway(volume: Volume, at: readonly number[], normal: readonly number[]): boolean {
    const turn = conjugateQuatFlat(new Float64Array(4), 0, [...volume.turn], 0);
    const place = this.frameOf(volume.joint, at).map((v, c) => v - volume.origin[c]);
    const [across, along, deep] = rotateVecFlat(new Float64Array(3), 0, turn, 0, place, 0);
    const [x, y, z] = rotateVecFlat(new Float64Array(3), 0, turn, 0, this.turnedBack(volume.joint, normal), 0);
    const beyond = along - Math.max(0, Math.min(volume.size[1], along));
    return across * x + beyond * y + deep * z >= INWARD * Math.hypot(across, deep, beyond);
  }

  /** How much each followed joint carries of a place of a triangle (they sum to 1), and where on average its corners are in that joint's frame. What arms have in it goes with the others. */
  private sharesOf(
    { weights, binds }: SkinPart,
    corners: readonly number[],
    places: readonly (readonly number[])[],
    parts: readonly number[],
  ): Map<number, Share> {
    const shares = new Map<number, { weight: number; readonly at: number[] }>();
    let sum = 0;
    corners.forEach((v, i) => {
      for (let k = v * 4; k < v * 4 + 4; k++) {
        const joint = this.goesWith[this.skin.joints[binds[k]]];
        const weight = parts[i] * weights[k];
        if (joint < 0 || weight === 0) continue;
        const share = shares.get(joint) ?? { weight: 0, at: [0, 0, 0] };
        shares.set(joint, share);
        share.weight += weight;
        for (let c = 0; c < 3; c++) share.at[c] += weight * places[i][c];
        sum += weight;
      }
    });
    const most = [...shares].filter(([, { weight }]) => weight >= LITTLE * sum);
    const all = most.reduce((total, [, { weight }]) => total + weight, 0);
    return new Map(most.map(([joint, { weight, at }]) => [joint, { weight: weight / all, at: at.map((value) => value / weight) }]));
  }

  /** Places of one joint, by the other joint that carries most of each. */
  private patchesOf(joint: number, places: readonly Place[]): SkinPatch[] {
    const byOther = new Map<number, Place[]>();
    for (const place of places) {
      let [other, most] = [-1, 0];
      for (const [by, { weight }] of place.shares) if (by !== joint && weight > most) [other, most] = [by, weight];
      byOther.set(other, [...(byOther.get(other) ?? []), place]);
    }
    return [...byOther].map(([other, own]) => this.patch(joint, other, own));
  }

  private patch(joint: number, other: number, unsorted: readonly Place[]): SkinPatch {
    const lumpOf = ({ at }: Place) =>
      this.frameOf(joint, at)
        .map((v) => Math.floor(v / (LUMP * this.grain)))
        .join();
    const lumps = new Map<string, Place[]>();
    for (const place of unsorted) {
      const key = lumpOf(place);
      const list = lumps.get(key);
      if (list) list.push(place);
      else lumps.set(key, [place]);
    }
    const places = [...lumps.values()].flat();
    const [rest, slack] = [new Float64Array(places.length * 3), new Float64Array(places.length)];
    const start = this.kept.first.length;
    places.forEach(({ at, normal, shares }, i) => {
      this.kept.first.push(this.kept.joint.length);
      const own = this.frameOf(joint, at);
      rest.set(own, i * 3);
      for (const [by, { weight, at: place }] of shares) {
        const local = this.frameOf(by, place);
        this.kept.joint.push(by);
        this.kept.weight.push(weight);
        this.kept.local.push(...local);
        this.kept.normal.push(...this.turnedBack(by, normal));
        if (by !== joint) slack[i] += 2 * weight * Math.min(Math.hypot(...own), Math.hypot(...local));
      }
    });
    const { rotations } = this.surface.world;
    const between = new Float64Array(4);
    if (other >= 0) multiplyQuatFlat(between, 0, this.back.get(joint) as Float64Array, 0, rotations, other * 4);
    const [whole, parts] = [[places.length], [...lumps.values()].map((list) => list.length)].map((counts) => lumpsOf(counts, rest, slack));
    const ball = whole.balls;
    ball[3] += whole.slack[0];
    return { joint, other, between, ball, start, rest, slack, lumps: parts };
  }

  private frameOf(joint: number, at: readonly number[]): number[] {
    const { positions } = this.surface.world;
    return this.turnedBack(
      joint,
      at.map((v, c) => v - positions[joint * 3 + c]),
    );
  }

  private turnedBack(joint: number, v: readonly number[]): number[] {
    return Array.from(rotateVecFlat(new Float64Array(3), 0, this.back.get(joint) as Float64Array, 0, v, 0));
  }
}

/** Balls around lumps of places, so many in each. */
function lumpsOf(counts: readonly number[], rest: Float64Array, slack: Float64Array): SkinPatch["lumps"] {
  const out = { first: new Int32Array(counts.length + 1), balls: new Float64Array(counts.length * 4), slack: new Float64Array(counts.length) };
  counts.forEach((count, lump) => {
    const start = out.first[lump];
    const own = Array.from({ length: count }, (_, i) => start + i);
    const middle = [0, 1, 2].map((c) => own.reduce((sum, i) => sum + rest[i * 3 + c], 0) / count);
    const radius = Math.max(...own.map((i) => Math.hypot(...middle.map((v, c) => v - rest[i * 3 + c]))));
    out.balls.set([...middle, radius], lump * 4);
    out.slack[lump] = Math.max(...own.map((i) => slack[i]));
    out.first[lump + 1] = start + count;
  });
  return out;
}
