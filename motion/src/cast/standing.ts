import { restSurface } from "../character/onSkin.ts";
import { type PartRef, partOf } from "../character/parts.ts";
import { type Carried, placeOf, skinExtremes } from "../character/skinExtremes.ts";
import { SpanMeasurer } from "../checkup/spans.ts";
import { groundHeight } from "../ground/ground.ts";
import type { PoseFrame } from "../kinematics/poseFrame.ts";
import type { Motion } from "../motion.ts";

/** How a part that rests on something stands on the new body. */
export interface Standing {
  /** the contact point, such as "leftHeel" */
  readonly point: string;
  /** how often it rests, and how far it slides then at most, centimetres, at a frame */
  readonly contacts: number;
  readonly slideCm: number;
  readonly slideFrame: number;
  /** how deep it goes through the floor at most, in all frames, centimetres; 0: it does not */
  readonly depthCm: number;
  readonly depthFrame: number;
}

/** The deepest place of a body's skin under the floor. */
export interface SkinDepth {
  readonly part: PartRef;
  readonly depthCm: number;
  readonly frame: number;
}

/** Looks after how deep points and skin of a motion go through the floor, pose by pose. */
export class Depths {
  private readonly points: { readonly id: string; depth: number; frame: number }[];
  private readonly skin: readonly Carried[];
  private readonly place = new Float64Array(3);
  private deepest: { joint: number; depth: number; frame: number } | null = null;

  constructor(private readonly motion: Motion) {
    this.points = motion.points.filter((p) => p.bears).map(({ id }) => ({ id, depth: 0, frame: 0 }));
    const { skeleton, details } = motion.character;
    this.skin = details.skin ? skinExtremes(details.skin, restSurface(skeleton, details.skin)) : [];
  }

  /** Takes a frame in, as it is posed. */
  look(pose: PoseFrame, frame: number): void {
    const { ground, points } = this.motion;
    for (const seen of this.points) {
      const point = points.find((p) => p.id === seen.id);
      if (!point) continue;
      pose.point(this.place, point.joint, point.local);
      const depth = groundHeight(ground, this.place[0], this.place[2]) + point.clearance - this.place[1];
      if (depth > seen.depth) Object.assign(seen, { depth, frame });
    }
    const { worldPositions, worldRotations } = pose;
    for (const vertex of this.skin) {
      placeOf(this.place, vertex, worldPositions, worldRotations);
      const depth = groundHeight(ground, this.place[0], this.place[2]) - this.place[1];
      if (depth > (this.deepest?.depth ?? 0)) this.deepest = { joint: vertex.joint, depth, frame };
    }
  }

  /** The parts that bear the body or rest on something, those that slide or sink most first. */
  standing(): Standing[] {
    const spans = new SpanMeasurer(this.motion);
    const made = new Map<string, Standing>(
      this.points.map(({ id, depth, frame }) => [id, { point: id, contacts: 0, slideCm: 0, slideFrame: 0, depthCm: 100 * depth, depthFrame: frame }]),
    );
    for (const contact of this.motion.contacts) {
      const measure = spans.measure(contact);
      if (!measure) continue;
      const known = made.get(contact.point) ?? { point: contact.point, contacts: 0, slideCm: 0, slideFrame: 0, depthCm: 0, depthFrame: 0 };
      const worse = measure.slideCm > known.slideCm || known.contacts === 0;
      const furthest = measure.course.reduce((most, v, i) => (v > measure.course[most] ? i : most), 0);
      made.set(contact.point, {
        ...known,
        contacts: known.contacts + 1,
        ...(worse && { slideCm: measure.slideCm, slideFrame: contact.start + furthest }),
      });
    }
    return [...made.values()].sort((a, b) => Math.max(b.slideCm, b.depthCm) - Math.max(a.slideCm, a.depthCm));
  }

  /** null where the body has no skin, or none of it goes through. */
  skinDepth(): SkinDepth | null {
    const { deepest, motion } = this;
    return deepest && { part: partOf(motion.character, deepest.joint), depthCm: 100 * deepest.depth, frame: deepest.frame };
  }
}
