import { type Clip, type ClipDraft, readPose } from "../clip/clip.ts";
import { conjugateQuatFlat, multiplyQuatFlat, normalizeQuatFlat, rotateVecFlat } from "../math/quat.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { poseWorldFlat, positionSlots } from "./forward.ts";

const IDENTITY = [0, 0, 0, 1];

/**
 * One frame of a clip to work on, in doubles: local rotations [joint][4] and position samples [k][3] as they are stored, and the world
 * transforms that follow, worked out when they are first asked for. Loaded from a clip, changed, and stored into another; only joints that were touched are written back, so
 * that everything else keeps its bits.
 */
export class PoseFrame {
  readonly rotations: Float64Array;
  readonly positions: Float64Array;
  private readonly places: Float64Array;
  private readonly turns: Float64Array;
  /** are the world transforms still to be worked out? */
  private due = true;
  /** the first joint that has changed since they were: what comes before it stands */
  private first = 0;
  private readonly touched: Uint8Array;
  private readonly moved: Uint8Array;
  private readonly slots: Int16Array;
  private readonly k: number;
  private readonly positionJoints: Int16Array;
  private readonly q = new Float64Array(4);
  private readonly v = new Float64Array(3);

  constructor(
    readonly skeleton: Skeleton,
    clip: Clip,
  ) {
    const joints = skeleton.names.length;
    this.rotations = new Float64Array(joints * 4);
    this.k = clip.positionJoints.length;
    this.positionJoints = clip.positionJoints;
    this.positions = new Float64Array(this.k * 3);
    this.places = new Float64Array(joints * 3);
    this.turns = new Float64Array(joints * 4);
    this.touched = new Uint8Array(joints);
    this.moved = new Uint8Array(this.k);
    this.slots = positionSlots(clip);
  }

  /** [joint][3], metres: as of the last `load`, `update` or change of its own kind. */
  get worldPositions(): Float64Array {
    if (this.due) this.work();
    return this.places;
  }

  /** [joint][4], likewise. */
  get worldRotations(): Float64Array {
    if (this.due) this.work();
    return this.turns;
  }

  load(clip: Clip, frame: number): void {
    const r = this.rotations.length;
    readPose(clip, frame, this.rotations, this.positions);
    // Stored in 32 bits they are of unit length to 7 digits only, which a chain of them would add up.
    for (let i = 0; i < r; i += 4) normalizeQuatFlat(this.rotations, i);
    this.touched.fill(0);
    this.moved.fill(0);
    this.first = 0;
    this.update();
  }

  /** Takes over everything from another frame of the same skeleton, touched marks included. */
  copyFrom(other: PoseFrame): void {
    this.rotations.set(other.rotations);
    this.positions.set(other.positions);
    this.due = other.due;
    this.first = other.first;
    if (!other.due) {
      this.places.set(other.places);
      this.turns.set(other.turns);
    }
    this.touched.set(other.touched);
    this.moved.set(other.moved);
  }

  /** Writes touched joints into a draft's frame; joints off `only` keep what it has. */
  store(draft: ClipDraft, frame: number, only: ReadonlySet<number> | null): void {
    const joints = this.touched.length;
    for (let j = 0; j < joints; j++) {
      if (!this.touched[j] || (only && !only.has(j))) continue;
      normalizeQuatFlat(this.rotations, j * 4);
      draft.setRotation(j, frame, this.rotations, j * 4);
    }
    for (let s = 0; s < this.k; s++) {
      if (!this.moved[s] || (only && !only.has(this.positionJoints[s]))) continue;
      draft.setPosition(s, frame, this.positions, s * 3);
    }
  }

  /** Writes the whole pose into a draft's frame, touched or not. */
  storeAll(draft: ClipDraft, frame: number): void {
    for (let j = 0; j < this.touched.length; j++) {
      normalizeQuatFlat(this.rotations, j * 4);
      draft.setRotation(j, frame, this.rotations, j * 4);
    }
    for (let s = 0; s < this.k; s++) draft.setPosition(s, frame, this.positions, s * 3);
  }

  /** World transforms anew from the local ones; at once where they have been looked at, so that arrays in hand stay true. */
  update(): void {
    if (!this.due) this.work();
  }

  private work(): void {
    this.due = false;
    poseWorldFlat(this.skeleton, this.slots, this.rotations, 0, this.positions, 0, this.places, 0, this.turns, 0, this.first);
    this.first = this.skeleton.parents.length;
  }

  /** Sets a joint's local rotation, world transforms included. */
  putLocal(joint: number, q: ArrayLike<number>): void {
    for (let i = 0; i < 4; i++) this.rotations[joint * 4 + i] = q[i];
    this.touched[joint] = 1;
    this.first = Math.min(this.first, joint);
    this.due = true;
  }

  /** Sets a joint's local rotation (its world transform and those below are stale until `update`). */
  setLocal(joint: number, q: ArrayLike<number>): void {
    if (this.due) this.work();
    for (let i = 0; i < 4; i++) this.rotations[joint * 4 + i] = q[i];
    this.touched[joint] = 1;
    this.first = Math.min(this.first, joint);
  }

  /** Sets a joint's rotation so that in the world it is q, under its parent's world rotation as it stands. */
  setWorld(joint: number, q: ArrayLike<number>): void {
    const parent = this.skeleton.parents[joint];
    if (parent < 0) this.setLocal(joint, q);
    else {
      conjugateQuatFlat(this.q, 0, this.worldRotations, parent * 4);
      multiplyQuatFlat(this.q, 0, this.q, 0, q as Float64Array, 0);
      this.setLocal(joint, this.q);
    }
  }

  /** Turns a joint by a rotation given in the world. */
  turnWorld(joint: number, turn: Float64Array): void {
    const parent = this.skeleton.parents[joint];
    const q = this.q;
    if (parent < 0) multiplyQuatFlat(q, 0, turn, 0, this.rotations, joint * 4);
    else {
      conjugateQuatFlat(q, 0, this.worldRotations, parent * 4);
      multiplyQuatFlat(q, 0, q, 0, turn, 0);
      multiplyQuatFlat(q, 0, q, 0, this.worldRotations, parent * 4);
      multiplyQuatFlat(q, 0, q, 0, this.rotations, joint * 4);
    }
    this.setLocal(joint, q);
  }

  /** Moves a joint that carries positions by a vector in the world; others cannot be moved (returns false). */
  moveWorld(joint: number, x: number, y: number, z: number): boolean {
    const slot = this.slots[joint];
    if (slot < 0) return false;
    if (this.due) this.work();
    const v = this.v;
    v[0] = x;
    v[1] = y;
    v[2] = z;
    const parent = this.skeleton.parents[joint];
    if (parent >= 0) {
      conjugateQuatFlat(this.q, 0, this.worldRotations, parent * 4);
      rotateVecFlat(v, 0, this.q, 0, v, 0);
    }
    for (let i = 0; i < 3; i++) this.positions[slot * 3 + i] += v[i];
    this.moved[slot] = 1;
    this.first = Math.min(this.first, joint);
    return true;
  }

  /** World place of a point fixed in a joint's frame. */
  point(dst: Float64Array, joint: number, local: ArrayLike<number> | null): Float64Array {
    const p = joint * 3;
    dst[0] = dst[1] = dst[2] = 0;
    if (local) rotateVecFlat(dst, 0, this.worldRotations, joint * 4, local as Float64Array, 0);
    for (let i = 0; i < 3; i++) dst[i] += this.worldPositions[p + i];
    return dst;
  }

  parentRotation(joint: number): { q: ArrayLike<number>; offset: number } {
    const parent = this.skeleton.parents[joint];
    return parent < 0 ? { q: IDENTITY, offset: 0 } : { q: this.worldRotations, offset: parent * 4 };
  }
}
