import { emptyWork } from "../documents/work.ts";
import { Evaluator } from "../evaluate.ts";
import type { Motion } from "../motion.ts";
import { NO_OTHERS, type Source } from "../sources.ts";
import { bodyOf } from "./bake.ts";

/** The character that a file holds: its body with the place of its hips free to move, on a motion of it. */
export function characterIn(source: Source): Motion {
  return bodyOf(new Evaluator({ main: source, ...NO_OTHERS }).evaluate(emptyWork()).base);
}
