import { flatTrack } from "../clip/clip.ts";
import type { Motion } from "../motion.ts";
import { limbEnds } from "../plants/plants.ts";
import type { JointEvent } from "./jointFaults.ts";

/** A leg that reaches this share of its full length is straight: two like bones at an angle of 178°. */
const STRAIGHT = 0.99985;

/** Stretches of three frames or more in which a standing leg is as good as straight, its knee open by 178° or more: value in frames. */
export function stretchedLegs(motion: Motion): JointEvent[] {
  const events: JointEvent[] = [];
  const { clip } = motion;
  const { skeleton } = motion.character;
  for (const { limb: leg, points, bears } of limbEnds(motion.character, motion.points)) {
    if (!bears) continue;
    const lane = flatTrack(clip.rotations[leg.lower], 4);
    // Only a plain hinge can be read off the knee's bend: bones' directions in the shin's frame at rest and as bent.
    const u = [0, 1, 2].map((i) => skeleton.offsets[leg.lower * 3 + i]);
    const v = [0, 1, 2].map((i) => skeleton.offsets[leg.end * 3 + i]);
    const l1 = Math.hypot(...u);
    const l2 = Math.hypot(...v);
    const standing = new Uint8Array(clip.frameCount);
    for (const c of motion.contacts) if (points.some((p) => p.id === c.point)) standing.fill(1, Math.max(0, c.start), c.end + 1);
    let open: { joint: number; start: number; end: number; value: number } | undefined;
    const flat = new Float64Array(3);
    for (let f = 0; f < clip.frameCount; f++) {
      const o = f * 4;
      const [x, y, z, w] = [lane[o], lane[o + 1], lane[o + 2], lane[o + 3]];
      const tx = 2 * (y * v[2] - z * v[1]);
      const ty = 2 * (z * v[0] - x * v[2]);
      const tz = 2 * (x * v[1] - y * v[0]);
      flat[0] = u[0] + v[0] + w * tx + y * tz - z * ty;
      flat[1] = u[1] + v[1] + w * ty + z * tx - x * tz;
      flat[2] = u[2] + v[2] + w * tz + x * ty - y * tx;
      const straight = Math.hypot(flat[0], flat[1], flat[2]) > STRAIGHT * (l1 + l2) && standing[f] === 1;
      if (straight) {
        if (open && f === open.end + 1) {
          open.end = f;
          open.value++;
        } else {
          if (open) events.push(open);
          open = { joint: leg.lower, start: f, end: f, value: 1 };
        }
      }
    }
    if (open) events.push(open);
  }
  return events.filter((e) => e.value >= 3);
}
