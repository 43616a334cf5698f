import type { FootSkin } from "../character/footSkin.ts";
import { type Clip, readPosition, readRotation } from "../clip/clip.ts";
import { type Ground, groundHeight } from "../ground/ground.ts";
import { positionSlots } from "../kinematics/forward.ts";
import { conjugateQuatFlat, expQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { jointsBetween, type Skeleton } from "../skeleton/skeleton.ts";
import { toeBendNeeded } from "./bendToes.ts";
import type { EndTargets } from "./footTargets.ts";
import { leastTurn } from "./leastTurn.ts";

/** Skin that is less deep is out of the ground, metres. */
const SKIMS = 0.0003;
/** Places this far over the ground have no say in how a foot is turned, metres. */
const HIGH_OVER = 0.012;

/** A foot as its targets have it, a frame at a time, and how deep its skin is in the ground. */
export class FootPose {
  /** how deep the deepest place of the foot, and of its toe, is, metres; 0 or less: none is in the ground */
  footDepth = 0;
  toeDepth = 0;
  private readonly place = new Float64Array(3);
  private readonly turned = new Float64Array(4);
  /** the toe's place and rotation in the foot's frame, and its rotation bent */
  private readonly toeAt = new Float64Array(3);
  private readonly toeTurn = new Float64Array(4);
  private readonly bent = new Float64Array(4);
  private readonly depth: Float64Array;
  private readonly asked: Float64Array;
  /** around the places of the foot, and of the toe, those of both in either: [middle, half size] */
  private readonly footBox: Float64Array;
  private readonly toeBox: Float64Array;
  private readonly between: readonly number[];
  private readonly slots: Int16Array;
  private readonly level: number | null;
  private readonly q = new Float64Array(4);
  private readonly v = new Float64Array(3);
  private readonly u = new Float64Array(3);
  private readonly rows = new Float64Array(9);
  private readonly toeRows = new Float64Array(9);

  /** `clip` says how the toe is turned in the foot; what is deeper than `inside`, metres, is inside something. */
  constructor(
    private readonly foot: FootSkin,
    private readonly targets: EndTargets,
    private readonly skeleton: Skeleton,
    private readonly clip: Clip,
    private readonly ground: Ground,
    private readonly inside: number,
  ) {
    const count = foot.places.shares.length;
    this.depth = new Float64Array(count);
    this.asked = new Float64Array(count * 3);
    const { ofFoot, ofToe, shares } = foot.places;
    this.footBox = boxOf(
      ofFoot,
      shares.map((share) => 1 - share),
    );
    this.toeBox = boxOf(ofToe, shares);
    this.between = foot.toe < 0 ? [] : jointsBetween(skeleton, foot.toe, foot.foot);
    this.slots = positionSlots(clip);
    this.level = ground.shapes.length === 0 && ground.slopeX === 0 && ground.slopeZ === 0 ? ground.height : null;
  }

  /** Can anything of the foot be near the ground at a frame? */
  near(f: number): boolean {
    const { positions: p } = this.targets;
    const o = f * 3;
    return this.ground.shapes.length > 0 || p[o + 1] - groundHeight(this.ground, p[o], p[o + 2]) <= this.foot.reach;
  }

  /** Takes up a frame. */
  load(f: number): void {
    const { place, turned, toeAt, toeTurn, q, v, slots } = this;
    const { positions, rotations } = this.targets;
    for (let c = 0; c < 3; c++) place[c] = positions[f * 3 + c];
    for (let c = 0; c < 4; c++) turned[c] = rotations[f * 4 + c];
    toeAt.fill(0);
    toeTurn[0] = toeTurn[1] = toeTurn[2] = 0;
    toeTurn[3] = 1;
    for (const joint of this.between) {
      if (slots[joint] >= 0) readPosition(this.clip, slots[joint], f, v, 0);
      else for (let c = 0; c < 3; c++) v[c] = this.skeleton.offsets[joint * 3 + c];
      rotateVecFlat(v, 0, toeTurn, 0, v, 0);
      for (let c = 0; c < 3; c++) toeAt[c] += v[c];
      readRotation(this.clip, joint, f, q, 0);
      multiplyQuatFlat(toeTurn, 0, toeTurn, 0, q, 0);
    }
    this.bent.set(toeTurn);
  }

  /** Bends the toes by a rotation in their own frame, for what is measured next. */
  bend(by: Float64Array): void {
    multiplyQuatFlat(this.bent, 0, this.toeTurn, 0, by, 0);
  }

  /** Measures how deep every place is; places of a foot that is inside something count as out of the ground. */
  measure(): void {
    this.readRows();
    if (this.level === null) this.measureAnywhere();
    else this.measureLevel(this.level);
    const inside = Math.max(this.footDepth, this.toeDepth) > this.inside;
    if (inside) this.footDepth = this.toeDepth = 0;
  }

  /** On level ground heights are enough. */
  private measureLevel(level: number): void {
    const { mixed, toes, shares, ofFoot, ofToe } = this.foot.places;
    const { rows, toeRows, toeAt, depth } = this;
    const under = level - SKIMS - this.place[1];
    const x = rows[3];
    const y = rows[4];
    const z = rows[5];
    const tx = toeRows[3];
    const ty = toeRows[4];
    const tz = toeRows[5];
    const toeUp = x * toeAt[0] + y * toeAt[1] + z * toeAt[2];
    // A place of both is between where foot and toe would have it: a swinging foot is over the ground with the boxes around either.
    const high = Math.max(under - lowest(this.footBox, x, y, z), under - toeUp - lowest(this.toeBox, tx, ty, tz));
    if (high <= 0) {
      this.footDepth = this.toeDepth = high;
      return;
    }
    let foot = Number.NEGATIVE_INFINITY;
    let toe = Number.NEGATIVE_INFINITY;
    let o = 0;
    for (let i = 0; i < mixed; i++, o += 3) {
      const deep = under - (x * ofFoot[o] + y * ofFoot[o + 1] + z * ofFoot[o + 2]);
      depth[i] = deep;
      if (deep > foot) foot = deep;
    }
    for (let i = mixed; i < toes; i++, o += 3) {
      const share = shares[i];
      const deep = under - (x * ofFoot[o] + y * ofFoot[o + 1] + z * ofFoot[o + 2] + share * toeUp + tx * ofToe[o] + ty * ofToe[o + 1] + tz * ofToe[o + 2]);
      depth[i] = deep;
      if (share < 0.5) foot = deep > foot ? deep : foot;
      else if (deep > toe) toe = deep;
    }
    const onToe = under - toeUp;
    for (let i = toes; i < depth.length; i++, o += 3) {
      const deep = onToe - (tx * ofToe[o] + ty * ofToe[o + 1] + tz * ofToe[o + 2]);
      depth[i] = deep;
      if (deep > toe) toe = deep;
    }
    this.footDepth = foot;
    this.toeDepth = toe;
  }

  private measureAnywhere(): void {
    const { shares } = this.foot.places;
    const { depth, ground, v } = this;
    this.footDepth = this.toeDepth = Number.NEGATIVE_INFINITY;
    for (let i = 0; i < depth.length; i++) {
      this.worldOf(i);
      depth[i] = groundHeight(ground, v[0], v[2]) - v[1] - SKIMS;
      if (shares[i] < 0.5) this.footDepth = Math.max(this.footDepth, depth[i]);
      else this.toeDepth = Math.max(this.toeDepth, depth[i]);
    }
  }

  /** The turn that brings what was measured (of a hoof, or of the foot without its toes) out of the ground, as leastTurn has it. */
  turnNeeded(out: Float64Array): void {
    const { depth, asked, v, u } = this;
    const { hoof, places } = this.foot;
    this.pivot(u);
    let count = 0;
    for (let i = 0; i < depth.length; i++) {
      if (places.shares[i] >= 0.5 !== hoof || depth[i] < -HIGH_OVER) continue;
      this.worldOf(i);
      asked[count * 3] = v[0] - u[0];
      asked[count * 3 + 1] = v[2] - u[2];
      asked[count * 3 + 2] = depth[i];
      count++;
    }
    leastTurn(out, asked, count);
  }

  /** Turns the foot at a frame by a rotation vector along x and z: about its ball, at the height of the heel so far as it stands on that (0..1). */
  turn(f: number, x: number, z: number, onHeel: number): void {
    const { foot, targets, v, u, q, place, turned } = this;
    this.load(f);
    expQuatFlat(q, 0, [x, 0, z], 0);
    this.pivot(u);
    if (foot.heel && onHeel > 0) {
      rotateVecFlat(v, 0, turned, 0, foot.heel, 0);
      u[1] += onHeel * (place[1] + v[1] - u[1]);
    }
    for (let c = 0; c < 3; c++) v[c] = place[c] - u[c];
    rotateVecFlat(v, 0, q, 0, v, 0);
    for (let c = 0; c < 3; c++) targets.positions[f * 3 + c] = u[c] + v[c];
    multiplyQuatFlat(targets.rotations, f * 4, q, 0, targets.rotations, f * 4);
  }

  /** A turn of the hoof at a frame by a rotation vector along the world's x and z, in the hoof's own frame: out[o..o+4). */
  hoofTurn(out: Float64Array, f: number, x: number, z: number): void {
    const { q } = this;
    this.load(f);
    const own = multiplyQuatFlat(new Float64Array(4), 0, this.turned, 0, this.toeTurn, 0);
    conjugateQuatFlat(q, 0, own, 0);
    multiplyQuatFlat(q, 0, q, 0, expQuatFlat(new Float64Array(4), 0, [x, 0, z], 0), 0);
    multiplyQuatFlat(out, f * 4, q, 0, own, 0);
  }

  /** Where the tip of the toe is in the world, bent as it is: out[o..o+3). */
  tipAt(out: Float64Array, o: number): void {
    const { foot, place, turned, bent, toeAt, v } = this;
    if (!foot.tip) return;
    rotateVecFlat(v, 0, bent, 0, foot.tip, 0);
    for (let c = 0; c < 3; c++) v[c] += toeAt[c];
    rotateVecFlat(v, 0, turned, 0, v, 0);
    for (let c = 0; c < 3; c++) out[o + c] = place[c] + v[c];
  }

  /** How far the toes have to be bent, radians. */
  bendNeeded(): number {
    const { foot, place, turned, toeAt, toeTurn, q, v } = this;
    if (!foot.bend) return 0;
    rotateVecFlat(v, 0, turned, 0, toeAt, 0);
    for (let c = 0; c < 3; c++) v[c] += place[c];
    multiplyQuatFlat(q, 0, turned, 0, toeTurn, 0);
    return toeBendNeeded(foot.bend, v, q, this.ground, this.inside);
  }

  /** Where the foot turns: its ball in the world, or its hoof's joint. */
  private pivot(out: Float64Array): void {
    const { foot, place, turned, toeAt } = this;
    rotateVecFlat(out, 0, turned, 0, foot.hoof ? toeAt : foot.ball, 0);
    for (let c = 0; c < 3; c++) out[c] += place[c];
  }

  /** The rotations of foot and toe in the world, as rows. */
  private readRows(): void {
    const { rows, toeRows, turned, bent, q } = this;
    rowsOf(rows, turned);
    multiplyQuatFlat(q, 0, turned, 0, bent, 0);
    rowsOf(toeRows, q);
  }

  /** A place in the world, into v. */
  private worldOf(i: number): void {
    const { shares, ofFoot, ofToe } = this.foot.places;
    const { v, place, rows, toeRows, toeAt } = this;
    const o = i * 3;
    const share = shares[i];
    const x = ofFoot[o] + share * toeAt[0];
    const y = ofFoot[o + 1] + share * toeAt[1];
    const z = ofFoot[o + 2] + share * toeAt[2];
    for (let c = 0, r = 0; c < 3; c++, r += 3)
      v[c] =
        place[c] + (rows[r] * x + rows[r + 1] * y + rows[r + 2] * z) + (toeRows[r] * ofToe[o] + toeRows[r + 1] * ofToe[o + 1] + toeRows[r + 2] * ofToe[o + 2]);
  }
}

/** A box around places [place][3] that are weighted by their shares, without those that have none: its middle and half its size. */
function boxOf(places: Float64Array, shares: Float64Array): Float64Array {
  const out = new Float64Array(6);
  if (!shares.some((share) => share > 0)) return out;
  for (let c = 0; c < 3; c++) {
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    shares.forEach((share, i) => {
      if (share === 0) return;
      low = Math.min(low, places[i * 3 + c] / share);
      high = Math.max(high, places[i * 3 + c] / share);
    });
    out[c] = (low + high) / 2;
    out[3 + c] = (high - low) / 2;
  }
  return out;
}

/** The least of what a box's places come to along a direction. */
function lowest(box: Float64Array, x: number, y: number, z: number): number {
  return x * box[0] + y * box[1] + z * box[2] - (Math.abs(x) * box[3] + Math.abs(y) * box[4] + Math.abs(z) * box[5]);
}

/** A unit quaternion as the rows of its matrix. */
function rowsOf(out: Float64Array, q: Float64Array): void {
  const x = q[0];
  const y = q[1];
  const z = q[2];
  const w = q[3];
  out[0] = 1 - 2 * (y * y + z * z);
  out[1] = 2 * (x * y - w * z);
  out[2] = 2 * (x * z + w * y);
  out[3] = 2 * (x * y + w * z);
  out[4] = 1 - 2 * (x * x + z * z);
  out[5] = 2 * (y * z - w * x);
  out[6] = 2 * (x * z - w * y);
  out[7] = 2 * (y * z + w * x);
  out[8] = 1 - 2 * (x * x + y * y);
}
