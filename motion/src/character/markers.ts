import type { Marker } from "../formats/format.ts";
import type { Character } from "./character.ts";
import type { ContactPoint } from "./contactPoints.ts";
import { isRole } from "./roles.ts";

/**
 * Points of a body by their names: a joint's own name, a part ("leftHand"), or a contact point ("leftHeel"). Throws RangeError naming what the body has not.
 */
export function markersOf({ skeleton, body }: Pick<Character, "skeleton" | "body">, points: readonly ContactPoint[], wanted: readonly string[]): Marker[] {
  return wanted.map((name): Marker => {
    const joint = skeleton.names.indexOf(name);
    if (joint >= 0) return { name, joint, local: [0, 0, 0] };
    const point = points.find((p) => p.id === name);
    if (point) return { name, joint: point.joint, local: point.local };
    const part = isRole(name) ? body.roles[name] : undefined;
    if (part !== undefined) return { name, joint: part, local: [0, 0, 0] };
    throw new RangeError(`this body has no joint, part or contact point "${name}"; its contact points are ${points.map((p) => p.id).join(", ")}`);
  });
}
