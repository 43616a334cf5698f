import { changedWindows } from "../clip/changes.ts";
import { cropClip } from "../clip/clip.ts";
import { clipWorld } from "../kinematics/forward.ts";
import type { Motion } from "../motion.ts";

/** Changed stretches closer than this, frames, are looked at as one. */
const GAP = 8;

/**
 * Over the whole clip, the mean distance that the most moved joint went from one motion to another, relative to the root, cm. Only frames that differ are
 * looked at. 0 where the motions are not of the same length.
 */
export function poseMovedCm(before: Motion, after: Motion): number {
  if (before.clip === after.clip || before.clip.frameCount !== after.clip.frameCount) return 0;
  const { jointCount, frameCount } = before.clip;
  const sums = new Float64Array(jointCount);
  for (const [from, to] of changedWindows(before.clip, after.clip, GAP)) {
    const [a, b] = [before, after].map(({ clip, character }) => clipWorld(character.skeleton, cropClip(clip, from, to)).positions);
    for (let root = 0; root < a.length; root += jointCount * 3) {
      const [dx, dy, dz] = [a[root] - b[root], a[root + 1] - b[root + 1], a[root + 2] - b[root + 2]];
      for (let j = 0; j < jointCount; j++) {
        const i = root + j * 3;
        sums[j] += Math.sqrt((a[i] - b[i] - dx) ** 2 + (a[i + 1] - b[i + 1] - dy) ** 2 + (a[i + 2] - b[i + 2] - dz) ** 2);
      }
    }
  }
  return (sums.reduce((most, v) => Math.max(most, v), 0) / frameCount) * 100;
}
