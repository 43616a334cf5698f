import type { Clip } from "../clip/clip.ts";
import type { CharacterNotes } from "../documents/characterNotes.ts";
import type { Skeleton } from "../skeleton/skeleton.ts";
import { type BodyMap, type BodyOverrides, mapBody } from "./bodyMap.ts";
import { type ContactPoint, contactPointsOf } from "./contactPoints.ts";
import { fittedVolumes } from "./fittedVolumes.ts";
import type { JointLimit } from "./limits.ts";
import { pointsOnSkin, restSurface } from "./onSkin.ts";
import { likePose } from "./restPose.ts";
import { type Rig, rigOf } from "./rig.ts";
import type { Skin } from "./skin.ts";
import { standingHeight, type Volume, volumesOf } from "./volumes.ts";

/** What is known of a body beside its skeleton and how it moves. */
export interface CharacterDetails {
  /** its surface at rest: volumes are fitted to it, and points of the trunk laid onto it */
  readonly skin?: Skin | null;
  /** what a person says of it */
  readonly notes?: CharacterNotes | null;
}

/** A body: everything that is read once for it, and the same all along a stack. */
export interface Character {
  readonly skeleton: Skeleton;
  readonly body: BodyMap;
  readonly rig: Rig;
  readonly contactPoints: readonly ContactPoint[];
  readonly volumes: readonly Volume[];
  /** standing height, metres */
  readonly height: number;
  /** the same skeleton resting as other bodies do, where a person says that its file rests otherwise */
  readonly posed: Skeleton;
  /** what its joints may do, as far as it is known */
  readonly limits: readonly JointLimit[];
  readonly details: CharacterDetails;
}

/** Reads a body off its skeleton and a clip in which it moves, with a person's corrections of its map (before those that the notes on it have) and what else is known of it. */
export function characterOf(skeleton: Skeleton, clip: Clip, overrides: BodyOverrides = {}, details: CharacterDetails = {}): Character {
  const { skin, notes } = details;
  const body = mapBody(skeleton, clip, { ...(notes?.body as BodyOverrides | undefined), ...overrides });
  const rig = rigOf(skeleton, clip, body);
  const height = standingHeight(skeleton, body);
  const surface = skin ? restSurface(skeleton, skin) : null;
  const volumes = volumesOf(skeleton, body, height);
  const points = contactPointsOf(skeleton, clip, body, rig, height);
  const laid = surface ? pointsOnSkin(points, surface, rig, body, height) : points;
  return {
    skeleton,
    body,
    rig,
    contactPoints: notes ? notedPoints(laid, notes) : laid,
    volumes: surface ? fittedVolumes(volumes, surface) : volumes,
    height,
    posed: notes ? likePose(skeleton, notes.rest) : skeleton,
    limits: notes ? notedLimits(skeleton, notes) : [],
    details,
  };
}

function notedPoints(points: readonly ContactPoint[], { points: said }: CharacterNotes): ContactPoint[] {
  return points.map((p) => (Object.hasOwn(said, p.id) ? { ...p, local: said[p.id], clearance: 0, placed: true } : p));
}

/** Limits of the joints that the body has. */
function notedLimits({ names }: Skeleton, { limits }: CharacterNotes): JointLimit[] {
  return Object.entries(limits).flatMap(([name, range]) => {
    const joint = names.indexOf(name);
    return joint < 0 ? [] : [{ joint, ...range }];
  });
}
