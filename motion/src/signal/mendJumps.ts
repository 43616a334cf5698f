import { quinticStep } from "../math/ramp.ts";
import { positionSpikes } from "./positionSpikes.ts";

/** What is left between the frames around a jump by less than this share of it is movement: the jump comes and goes. */
const COMES_BACK = 0.5;

/**
 * Mends places [frame][3] that jump within frames from..to: one frame that stands out is put between its neighbours; a step that stays is spread evenly over up to `half` frames on either side of it, so that
 * both ends of that stretch stay where they are. Jumps below `least`, in the places' own unit, are movement.
 */
export function mendJumps(course: Float64Array, frameCount: number, from: number, to: number, least: number, half: number): void {
  for (const { frame: f, size } of positionSpikes(course, frameCount, least)) {
    if (f < from || f > to) continue;
    const pace = paceAround(course, frameCount, f);
    const across = [0, 1, 2].map((i) => course[(f + 1) * 3 + i] - course[(f - 1) * 3 + i] - 2 * pace[i]);
    if (Math.hypot(...across) < COMES_BACK * size) {
      for (let i = 0; i < 3; i++) course[f * 3 + i] = (course[(f - 1) * 3 + i] + course[(f + 1) * 3 + i]) / 2;
      continue;
    }
    // The step is on the side of the frame on which it is further from going on as before.
    const stepTo = (g: number) => [0, 1, 2].map((i) => course[g * 3 + i] - course[(g - 1) * 3 + i] - pace[i]);
    const [here, next] = [stepTo(f), stepTo(f + 1)];
    const [at, step] = Math.hypot(...here) >= Math.hypot(...next) ? [f, here] : [f + 1, next];
    const reach = Math.min(half, at - from, to - at + 1);
    for (let g = at - reach; g < at + reach; g++) {
      const share = quinticStep((g - at + reach + 0.5) / (2 * reach)) - (g < at ? 0 : 1);
      for (let i = 0; i < 3; i++) course[g * 3 + i] += share * step[i];
    }
  }
}

/** How places go on a frame beside a jump, in the mean of what comes before and behind it. */
function paceAround(course: Float64Array, frameCount: number, f: number): number[] {
  const paces = [
    [f - 4, f - 2],
    [f + 2, f + 4],
  ].filter(([a, b]) => a >= 0 && b < frameCount);
  return [0, 1, 2].map((i) => paces.reduce((sum, [a, b]) => sum + (course[b * 3 + i] - course[a * 3 + i]) / (2 * paces.length), 0));
}
