import type { Character } from "./character/character.ts";
import type { ContactPoint } from "./character/contactPoints.ts";
import type { Clip } from "./clip/clip.ts";
import type { Contact } from "./contacts/contact.ts";
import type { Support } from "./contacts/find.ts";
import type { Ground } from "./ground/ground.ts";
import type { PlantSettings } from "./plants/settings.ts";
import type { TimeWarp } from "./time/warp.ts";

/** What flows through the stack. Never mutated. */
export interface Motion {
  /** the body; the same all along the stack */
  readonly character: Character;
  readonly clip: Clip;
  /** which moment of the source each moment of this motion shows */
  readonly time: TimeWarp;
  /** the character's contact points as the source clip shows them rolling and resting */
  readonly points: readonly ContactPoint[];
  readonly contacts: readonly Contact[];
  readonly ground: Ground;
  /** what the source was taken for */
  readonly support: Support;
  /** live plants, to be solved once more on the finished motion */
  readonly plants: readonly LivePlant[];
  /** how the ground moves under the body, where the figure's travel is shown as the ground's; null: it lies still. The clip is as the ground sees it */
  readonly groundTravel: GroundTravel | null;
  /** the clip in which every plant's contacts were held last: frames that are still as there need no solving again */
  readonly settled: Clip | null;
}

/** How far the ground has moved by each frame [frame], metres along the world's x and z: what the figure travels less than its clip. */
export interface GroundTravel {
  readonly x: Float64Array;
  readonly z: Float64Array;
}

/** Are two motions the same but for the samples of their clips? */
export function sameButClip(a: Motion, b: Motion): boolean {
  return (
    a.character === b.character &&
    a.contacts === b.contacts &&
    a.plants === b.plants &&
    a.ground === b.ground &&
    a.points === b.points &&
    a.support === b.support &&
    a.groundTravel === b.groundTravel &&
    a.clip.frameCount === b.clip.frameCount &&
    a.clip.fps === b.clip.fps
  );
}

export interface LivePlant {
  readonly settings: PlantSettings;
  /** weight of the plant at each frame, 0..1 */
  readonly weights: Float64Array;
  /** by how much the feet that it holds tremble, metres (median): next to nothing in a clean clip */
  readonly trembles: number;
}
