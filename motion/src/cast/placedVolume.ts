import { surfaceRadius } from "../character/surfaceTable.ts";
import type { Volume } from "../character/volumes.ts";
import { conjugateQuatFlat, multiplyQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Posed } from "./someJoints.ts";

/** Where a place in the world is, as a volume has it. Made once and written again and again. */
export class Alongside {
  /** share along the axis, 0..1 */
  along = 0;
  /** how far from the axis, and how far the surface is from it that way, metres */
  away = 0;
  radius = 0;
  /** which way, of unit length */
  readonly outward = new Float64Array(3);
}

/** A volume where its joint has it: a solid about an axis, its surface as the mesh's table has it, or an ellipse around it. */
export class PlacedVolume {
  readonly start = new Float64Array(3);
  readonly axis = new Float64Array(3);
  private readonly back = new Float64Array(4);
  private readonly own = new Float64Array(3);

  constructor(readonly volume: Volume) {}

  /** Goes where a pose has its joint. */
  place(pose: Posed): this {
    const { joint, origin, turn } = this.volume;
    multiplyQuatFlat(this.back, 0, pose.worldRotations, joint * 4, turn as unknown as number[], 0);
    pose.point(this.start, joint, origin);
    UP[0] = UP[2] = 0;
    UP[1] = 1;
    rotateVecFlat(this.axis, 0, this.back, 0, UP, 0);
    conjugateQuatFlat(this.back, 0, this.back, 0);
    return this;
  }

  /** How far the surface is from the axis at a share along it (0..1) in a direction of the world, metres. */
  radius(direction: Float64Array, along: number): number {
    const { size, table } = this.volume;
    rotateVecFlat(this.own, 0, this.back, 0, direction, 0);
    if (table) return surfaceRadius(table, along, this.own[0], this.own[1], this.own[2]);
    const [x, y, z] = [this.own[0] / size[0], (this.own[1] * 2) / (size[0] + size[2]), this.own[2] / size[2]];
    return 1 / Math.max(1e-9, Math.sqrt(x * x + y * y + z * z));
  }

  /** Where a place is alongside it. */
  alongside(dst: Alongside, place: ArrayLike<number>): Alongside {
    const { start, axis, volume } = this;
    const length = volume.size[1];
    const px = place[0] - start[0];
    const py = place[1] - start[1];
    const pz = place[2] - start[2];
    dst.along = length > 0 ? Math.max(0, Math.min(1, (px * axis[0] + py * axis[1] + pz * axis[2]) / length)) : 0;
    const far = dst.along * length;
    const { outward } = dst;
    outward[0] = px - far * axis[0];
    outward[1] = py - far * axis[1];
    outward[2] = pz - far * axis[2];
    dst.away = Math.sqrt(outward[0] ** 2 + outward[1] ** 2 + outward[2] ** 2);
    const by = 1 / Math.max(1e-9, dst.away);
    for (let c = 0; c < 3; c++) outward[c] *= by;
    dst.radius = this.radius(outward, dst.along);
    return dst;
  }
}

const UP = /*@__PURE__*/ new Float64Array(3);
