import { restWorld } from "@stride/motion";
import type { Character } from "../characters.ts";
import { moved, type Point } from "./field.ts";

/** Where a body's joints and tips are at rest, by name: metres, the hips at zero. */
export interface Places {
  readonly of: (name: string) => Point;
  readonly tipOf: (name: string) => Point;
}

export function placesOf({ skeleton }: Character): Places {
  const { positions } = restWorld(skeleton);
  const of = (name: string): Point => {
    const joint = skeleton.names.indexOf(name);
    if (joint < 0) throw new Error(`no joint ${name}`);
    return [positions[joint * 3], positions[joint * 3 + 1], positions[joint * 3 + 2]];
  };
  return {
    of,
    tipOf(name) {
      const tip = skeleton.tips.find((t) => skeleton.names[t.joint] === name);
      if (!tip) throw new Error(`${name} has no tip`);
      return moved(of(name), ...(tip.offset as unknown as Point));
    },
  };
}
