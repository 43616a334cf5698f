import type { Clip } from "./clip/clip.ts";
import type { Contact } from "./contacts/contact.ts";
import type { FloorPlane } from "./contacts/floor.ts";
import type { Sole } from "./contacts/soles.ts";
import type { Rig } from "./kinematics/rig.ts";
import type { PlantSettings } from "./plants/settings.ts";
import type { BodyMap } from "./skeleton/bodyMap.ts";
import type { Skeleton } from "./skeleton/skeleton.ts";

/** What flows through the stack. Never mutated. */
export interface Motion {
  readonly skeleton: Skeleton;
  readonly body: BodyMap;
  /** how the body is posed; read off the source, the same all along the stack */
  readonly rig: Rig;
  readonly clip: Clip;
  readonly contacts: readonly Contact[];
  readonly floor: FloorPlane;
  /** the points of each leg that rest, fixed in its end joint's frame; their tracks belong to the source */
  readonly soles: readonly Sole[];
  /** frame of the source that each frame of this motion shows */
  readonly timeMap: Float64Array;
  /** the live plant, to be solved once more on the finished motion */
  readonly plant: LivePlant | null;
}

export interface LivePlant {
  readonly settings: PlantSettings;
  /** weight of the plant at each frame, 0..1 */
  readonly weights: Float64Array;
  /** the clip that the plant left: while it is unchanged, nothing needs solving again */
  readonly solved: Clip;
}
