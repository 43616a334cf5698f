import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import type { Motion } from "../motion.ts";
import { oneSource, type Source } from "../sources.ts";
import { bodyOf } from "./bake.ts";

/** The character that a file holds: its body with the place of its hips free to move, on a motion of it. */
export function characterIn({ skeleton, clip }: Source): Motion {
  return bodyOf(new Evaluator(oneSource(skeleton, clip)).evaluate(emptyWork()).base);
}
