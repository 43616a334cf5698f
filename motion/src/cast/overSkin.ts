import type { BodySkin, SkinPatch } from "../character/bodySkin.ts";
import type { Posed } from "./someJoints.ts";

/** How fast places count less for the way out the further off they are, grains; below this power of 1/e they do not. */
const SPREAD = 0.6;
const COUNTS = 5;
/** Each place stands for a disc of so many grains' radius. */
const DISC = 0.4;
/** A place is inside where it is straight behind what is near it: mean of the cosines, and what it is off by at most to be sure of it. Aside of a rim, where arms and shins go on, it is not. */
const BEHIND = -0.5;
const SURE = 0.3;
/** A seam is looked at as if bent so much more: its joints need not turn about one point (sine of half the angle). */
const BENT = 0.05;

/** How far a place is from a surface, metres, below zero inside; and the way out of it there (shorter than 1 where several ways lead out). */
export interface OverSurface {
  distance: number;
  readonly way: Float64Array;
}

/**
 * The skin of a body in a pose, as seen from one place after another. Its places are discs with normals n; the distance of x is that to the nearest disc, and the way out the mean of the discs'
 * normals, each weighing e^(−(d² − least²)/h²). After surface splats (Pfister et al., "Surfels", 2000) and moving least squares (Kolluri, "Provably good moving least squares", 2008), with the
 * nearest disc as the unit of weight so that it holds further off as well.
 */
export class OverSkin {
  /** [joint][12] the pose's rotation by rows, and place; which looks they are of */
  private readonly matrices: Float64Array;
  private readonly posedAt: Int32Array;
  private looks = 0;
  private posed: Posed | null = null;
  /** places and normals as the pose has them, [place][6], and which look each is of */
  private readonly placed: Float64Array;
  private readonly placedAt: Int32Array;
  /** the numbers of places that are near, how near they are at least, and their discs' squared distances */
  private readonly seen: Int32Array;
  private readonly atLeast: Float64Array;
  private readonly off: Float64Array;
  private count = 0;
  private readonly zero = new Float64Array(3);
  private nearest = 0;
  private counts = 0;
  /** where it was last looked from */
  private readonly from = new Float64Array(3);

  constructor(private readonly skin: BodySkin) {
    const count = skin.patches.reduce((sum, patch) => sum + patch.slack.length, 0);
    const joints = 1 + Math.max(...skin.joints, ...skin.patches.map((patch) => patch.joint));
    this.matrices = new Float64Array(joints * 12);
    this.posedAt = new Int32Array(joints).fill(-1);
    this.placed = new Float64Array(count * 6);
    this.placedAt = new Int32Array(count).fill(-1);
    this.seen = new Int32Array(count);
    this.atLeast = new Float64Array(count);
    this.off = new Float64Array(count);
  }

  /** Takes a pose: what is asked from then on is asked of the body in it. */
  pose(posed: Posed): this {
    this.posed = posed;
    this.count = 0;
    this.looks++;
    return this;
  }

  /** How far a place of the world is from the skin: false where that is further than `within`, metres. */
  over(dst: OverSurface, place: ArrayLike<number>, within: number): boolean {
    this.count = 0;
    this.isNearest(within);
    for (const patch of this.skin.patches) this.look(patch, place);
    // Once some are where the pose has them, others are seen to be further off: first what may be nearest.
    let best = 0;
    for (let i = 1; i < this.count; i++) if (this.atLeast[i] < this.atLeast[best]) best = i;
    if (this.count > 0) this.isNearest(Math.min(this.nearest, this.awayOf(this.seen[best], place)));
    let kept = 0;
    for (let i = 0; i < this.count; i++) {
      if (this.atLeast[i] > this.counts) continue;
      const away = this.awayOf(this.seen[i], place);
      if (away < this.nearest) this.isNearest(away);
      if (away <= this.counts) this.seen[kept++] = this.seen[i];
    }
    this.count = kept;
    for (let c = 0; c < 3; c++) this.from[c] = place[c];
    return kept > 0 && this.measure(dst, place) <= within;
  }

  /** The same for another place in the same pose. A place little aside of the last that was asked for wholly is seen from what that saw. */
  onFrom(dst: OverSurface, place: ArrayLike<number>, within: number): boolean {
    const { from } = this;
    const moved = (place[0] - from[0]) ** 2 + (place[1] - from[1]) ** 2 + (place[2] - from[2]) ** 2;
    // What was not seen is further off than the nearest by so much: it stays further off for half of that.
    if (this.count === 0 || moved > (0.5 * (this.counts - this.nearest)) ** 2) return this.over(dst, place, within);
    return this.measure(dst, place) <= within;
  }

  /** The nearest that is known of so far, and up to where others count beside it. */
  private isNearest(away: number): void {
    const { grain } = this.skin;
    this.nearest = away;
    this.counts = Math.sqrt(away * away + COUNTS * (SPREAD * grain) ** 2) + DISC * grain;
  }

  /** Finds what of a patch may be near a place, as it would be if the joint alone carried it. */
  private look({ joint, other, between, ball, start, rest, slack, lumps }: SkinPatch, place: ArrayLike<number>): void {
    const m = this.matrixOf(joint);
    const { matrices } = this;
    const dx = place[0] - matrices[m + 9];
    const dy = place[1] - matrices[m + 10];
    const dz = place[2] - matrices[m + 11];
    const x = matrices[m] * dx + matrices[m + 3] * dy + matrices[m + 6] * dz;
    const y = matrices[m + 1] * dx + matrices[m + 4] * dy + matrices[m + 7] * dz;
    const z = matrices[m + 2] * dx + matrices[m + 5] * dy + matrices[m + 8] * dz;
    const most = this.counts + ball[3];
    if ((x - ball[0]) ** 2 + (y - ball[1]) ** 2 + (z - ball[2]) ** 2 > most * most) return;
    const bend = other < 0 ? 0 : BENT + this.bendOf(joint, other, between);
    const { balls } = lumps;
    for (let lump = 0; lump < lumps.slack.length; lump++) {
      const o = lump * 4;
      const far = this.counts + balls[o + 3] + bend * lumps.slack[lump];
      if ((x - balls[o]) ** 2 + (y - balls[o + 1]) ** 2 + (z - balls[o + 2]) ** 2 > far * far) continue;

      for (let i = lumps.first[lump]; i < lumps.first[lump + 1]; i++) {
        const away = Math.sqrt((x - rest[i * 3]) ** 2 + (y - rest[i * 3 + 1]) ** 2 + (z - rest[i * 3 + 2]) ** 2);
        const loose = bend * slack[i];
        if (away - loose > this.counts) continue;
        if (away + loose < this.nearest) this.isNearest(away + loose);
        this.atLeast[this.count] = away - loose;
        this.seen[this.count++] = start + i;
      }
    }
  }

  /** Sine of half the angle by which a joint is turned against another, from how it is at rest. */
  private bendOf(joint: number, other: number, between: Float64Array): number {
    const q = (this.posed as Posed).worldRotations;
    const o = other * 4;
    // Cosine of half the angle between q_other and q_joint · between.
    const x = q[joint * 4];
    const y = q[joint * 4 + 1];
    const z = q[joint * 4 + 2];
    const w = q[joint * 4 + 3];
    const bx = between[0];
    const by = between[1];
    const bz = between[2];
    const bw = between[3];
    const cosine =
      q[o] * (w * bx + x * bw + y * bz - z * by) +
      q[o + 1] * (w * by - x * bz + y * bw + z * bx) +
      q[o + 2] * (w * bz + x * by - y * bx + z * bw) +
      q[o + 3] * (w * bw - x * bx - y * by - z * bz);
    return Math.sqrt(Math.max(0, 1 - cosine * cosine));
  }

  /** Where the matrix of a joint in the pose is. */
  private matrixOf(joint: number): number {
    const m = joint * 12;
    if (this.posedAt[joint] === this.looks) return m;
    this.posedAt[joint] = this.looks;
    const posed = this.posed as Posed;
    const place = posed.point(this.zero, joint, null);
    const q = posed.worldRotations;
    const x = q[joint * 4];
    const y = q[joint * 4 + 1];
    const z = q[joint * 4 + 2];
    const w = q[joint * 4 + 3];
    const { matrices } = this;
    matrices[m] = 1 - 2 * (y * y + z * z);
    matrices[m + 1] = 2 * (x * y - z * w);
    matrices[m + 2] = 2 * (x * z + y * w);
    matrices[m + 3] = 2 * (x * y + z * w);
    matrices[m + 4] = 1 - 2 * (x * x + z * z);
    matrices[m + 5] = 2 * (y * z - x * w);
    matrices[m + 6] = 2 * (x * z - y * w);
    matrices[m + 7] = 2 * (y * z + x * w);
    matrices[m + 8] = 1 - 2 * (x * x + y * y);
    for (let c = 0; c < 3; c++) matrices[m + 9 + c] = place[c];
    return m;
  }

  /** How far a place of the skin, as the pose has it, is from another, metres. */
  private awayOf(index: number, from: ArrayLike<number>): number {
    if (this.placedAt[index] !== this.looks) this.place(index);
    const { placed } = this;
    const o = index * 6;
    return Math.sqrt((from[0] - placed[o]) ** 2 + (from[1] - placed[o + 1]) ** 2 + (from[2] - placed[o + 2]) ** 2);
  }

  /** Puts a place of the skin where the pose has it. */
  private place(index: number): void {
    const { first, joint, weight, local, normal } = this.skin.carriers;
    const { matrices, placed } = this;
    this.placedAt[index] = this.looks;
    const o = index * 6;
    for (let c = 0; c < 6; c++) placed[o + c] = 0;
    for (let k = first[index]; k < first[index + 1]; k++) {
      const m = this.matrixOf(joint[k]);
      const w = weight[k];
      const i = k * 3;
      for (let c = 0; c < 3; c++) {
        const row = m + c * 3;
        placed[o + c] += w * (matrices[m + 9 + c] + matrices[row] * local[i] + matrices[row + 1] * local[i + 1] + matrices[row + 2] * local[i + 2]);
        placed[o + 3 + c] += w * (matrices[row] * normal[i] + matrices[row + 1] * normal[i + 1] + matrices[row + 2] * normal[i + 2]);
      }
    }
  }

  /** Distance and way out by what is seen; returns how far the nearest is. */
  private measure(dst: OverSurface, place: ArrayLike<number>): number {
    const { seen, placed, off, count } = this;
    const { grain } = this.skin;
    const by = 1 / (SPREAD * grain) ** 2;
    const disc = DISC * grain;
    let least = Number.POSITIVE_INFINITY;
    for (let i = 0; i < count; i++) {
      const o = seen[i] * 6;
      const x = place[0] - placed[o];
      const y = place[1] - placed[o + 1];
      const z = place[2] - placed[o + 2];
      const up = placed[o + 3] * x + placed[o + 4] * y + placed[o + 5] * z;
      const aside = Math.max(0, Math.sqrt(Math.max(0, x * x + y * y + z * z - up * up)) - disc);
      off[i] = up * up + aside * aside;
      if (off[i] < least) least = off[i];
    }
    let sum = 0;
    let outside = 0;
    let wx = 0;
    let wy = 0;
    let wz = 0;
    for (let i = 0; i < count; i++) {
      const far = (off[i] - least) * by;
      if (far > COUNTS) continue;
      const o = seen[i] * 6;
      const up = placed[o + 3] * (place[0] - placed[o]) + placed[o + 4] * (place[1] - placed[o + 1]) + placed[o + 5] * (place[2] - placed[o + 2]);
      const weight = Math.exp(-far);
      sum += weight;
      outside += weight * (up / Math.max(1e-9, Math.sqrt(off[i])));
      wx += weight * placed[o + 3];
      wy += weight * placed[o + 4];
      wz += weight * placed[o + 5];
    }
    const away = Math.sqrt(least);
    dst.distance = away * Math.max(-1, Math.min(1, (outside / sum - BEHIND) / SURE));
    dst.way[0] = wx / sum;
    dst.way[1] = wy / sum;
    dst.way[2] = wz / sum;
    return away;
  }
}
