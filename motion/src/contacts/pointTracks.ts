import type { ContactPoint } from "../character/contactPoints.ts";
import type { Clip } from "../clip/clip.ts";
import type { Ground } from "../ground/ground.ts";
import { conjugateQuatFlat, rotateVecFlat } from "../math/quat.ts";
import { ancestry, type Skeleton } from "../skeleton/skeleton.ts";
import type { Contact } from "./contact.ts";
import { type JointTrack, jointTrack, jointTracks, pointTrack } from "./tracks.ts";
import type { LegsSeen } from "./travelEvidence.ts";

/** Does a point show how the travel is wrong? Those that bear the body do; of one limb's, only its joints where it has any. */
export function showsTravel(points: readonly Pick<ContactPoint, "id" | "bears" | "modelled" | "limb">[], id: string): boolean {
  const point = points.find((p) => p.id === id);
  return point?.bears === true && (point.modelled || !points.some((p) => p.limb === point.limb && p.bears && p.modelled));
}

/** World courses of joints and contact points over a clip, each computed when it is first asked for. */
export class PointTracks {
  private readonly joints = new Map<number, JointTrack>();
  private readonly carried = new Map<number, readonly Float64Array[]>();
  private readonly courses = new Map<string, Float64Array>();
  private readonly byId: ReadonlyMap<string, ContactPoint>;

  constructor(
    readonly skeleton: Skeleton,
    readonly clip: Clip,
    readonly points: readonly ContactPoint[],
  ) {
    this.byId = new Map(points.map((p) => [p.id, p]));
  }

  point(id: string): ContactPoint | undefined {
    return this.byId.get(id);
  }

  joint(joint: number): JointTrack {
    const known = this.joints.get(joint) ?? jointTrack(this.skeleton, this.clip, joint);
    this.joints.set(joint, known);
    return known;
  }

  /** World course [frame][3] of a point; undefined where there is no such point. */
  course(id: string): Float64Array | undefined {
    const point = this.byId.get(id);
    if (!point) return undefined;
    const known = this.courses.get(id) ?? pointTrack(this.joint(point.joint), [...point.local]);
    this.courses.set(id, known);
    return known;
  }

  /** The course of a point that bears the body, as the travel's error is read off; undefined for hands and other parts, and for an estimated heel beside a toe joint. */
  bearing = (id: string): Float64Array | undefined => (showsTravel(this.points, id) ? this.course(id) : undefined);

  /** What the travel's error is read off beside points' courses; a ground with steps is level under each part. */
  legs({ shapes, slopeX, slopeZ }: Ground): LegsSeen {
    return { carriersOf: this.carriers, slope: shapes.length > 0 ? [0, 0] : [slopeX, slopeZ] };
  }

  /** Courses [frame][3] of the joints that carry a point, up to the root: those whose turning moves it. */
  private carriers = (id: string): readonly Float64Array[] => {
    const point = this.byId.get(id);
    if (!point) return [];
    const known = this.carried.get(point.joint);
    if (known) return known;
    const chain = jointTracks(this.skeleton, this.clip, ancestry(this.skeleton, point.joint)).map((track) => track.positions);
    this.carried.set(point.joint, chain);
    return chain;
  };

  /** Course of a contact's point over its span [frame of the span][3]: in the world, or as the part that it rests on sees it. */
  spanCourse(contact: Contact): Float64Array | undefined {
    const course = this.course(contact.point);
    if (!course) return undefined;
    const out = course.slice(contact.start * 3, (contact.end + 1) * 3);
    if (typeof contact.on !== "object") return out;
    const under = this.joint(contact.on.joint);
    const q = new Float64Array(4);
    for (let i = 0; i * 3 < out.length; i++) {
      const f = contact.start + i;
      conjugateQuatFlat(q, 0, under.rotations, f * 4);
      for (let c = 0; c < 3; c++) out[i * 3 + c] -= under.positions[f * 3 + c];
      rotateVecFlat(out, i * 3, q, 0, out, i * 3);
    }
    return out;
  }
}
