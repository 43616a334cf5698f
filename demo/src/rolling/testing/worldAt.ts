import { applied, type Mat, plus, product, type Vec } from "../matrix.ts";
import { PARENTS, type Rolled } from "../walker.ts";

/** Places of all joints, and turns, at a frame, by going down the bones. */
export function worldAt({ offsets, turns, roots }: Rolled, frame: number): { places: Vec[]; turned: Mat[] } {
  const [places, turned]: [Vec[], Mat[]] = [[], []];
  PARENTS.forEach((parent, joint) => {
    turned.push(parent < 0 ? turns[frame][0] : product(turned[parent], turns[frame][joint]));
    places.push(parent < 0 ? roots[frame] : plus(places[parent], applied(turned[parent], offsets[joint])));
  });
  return { places, turned };
}
