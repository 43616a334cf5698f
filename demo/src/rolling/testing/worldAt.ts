import type { Made } from "../made.ts";
import { applied, type Mat, plus, product, type Vec } from "../matrix.ts";

/** Places of all joints, and turns, at a frame, by going down the bones. */
export function worldAt({ offsets, parents, turns, roots }: Made, frame: number): { places: Vec[]; turned: Mat[] } {
  const [places, turned]: [Vec[], Mat[]] = [[], []];
  parents.forEach((parent, joint) => {
    turned.push(parent < 0 ? turns[frame][0] : product(turned[parent], turns[frame][joint]));
    places.push(parent < 0 ? roots[frame] : plus(places[parent], applied(turned[parent], offsets[joint])));
  });
  return { places, turned };
}
