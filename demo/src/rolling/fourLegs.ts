import { type FourLegged, type FourPose, HOOF_UP, type HoofPose, LEGS, POINTS, posedOnFour, reaches, SHOULDERS } from "./fourBones.ts";
import { framesWithin, type Made } from "./made.ts";
import { minus, plus, product, scaled, turn, type Vec } from "./matrix.ts";
import { LEVEL, meanHeights, type Terrain } from "./terrain.ts";
import { bump, smooth } from "./walker.ts";

/** How it goes, in shares of its height; the speed in those of the root of gravity times its height (Froude's), backwards where it is less than 0. */
export interface FourGait {
  readonly name: string;
  readonly speed: number;
  readonly stride: number;
  /** share of a stride that a hoof is down, and by which share each comes late: hind left and right, fore left and right */
  readonly duty: number;
  readonly lags: readonly [number, number, number, number];
  /** how far the trunk pitches in each stride (twice in each where the hind legs go by turns), radians */
  readonly pitch: number;
}

/** Hips that low, as a share of the height, carry nothing any more. */
const LOWEST = 0.4;
interface Step {
  readonly down: number;
  readonly off: number;
  readonly place: Vec;
  readonly yaw: number;
}

/**
 * A gait of a four-legged body whose hooves are known exactly: each stands still at its joint while the cannon leans over it, and swings in between. Legs hang by the law of cosines. `terrain` is the ground along its way: the body follows its mean, and pitches with it.
 */
export function fourLegged(body: FourLegged, gait: FourGait, fps: number, seconds: number, curve = 0, terrain: Terrain = LEVEL): Made {
  const { withers: w } = body;
  const frames = Math.round(seconds * fps) + 1;
  const speed = gait.speed * Math.sqrt(9.81 * w);
  const period = (gait.stride * w) / Math.abs(speed);
  const stand = gait.duty * period;
  const lean = Math.min(0.75, (1.3 * Math.abs(speed) * stand) / w) * Math.sign(speed);
  const along = (s: number): Vec => (curve === 0 ? [0, 0, s] : [(1 - Math.cos(curve * s)) / curve, 0, Math.sin(curve * s) / curve]);

  const steps = LEGS.map((_, leg) => {
    const out: Step[] = [];
    for (let k = -2; (k - 1) * period < seconds + period; k++) {
      const down = (k + gait.lags[leg]) * period;
      const s = speed * (down + stand / 2) + (leg < 2 ? 0 : SHOULDERS * w);
      const aside = (leg % 2 === 0 ? 0.08 : -0.08) * w;
      // No two footfalls are spaced quite alike.
      const uneven = ((Math.abs(k * 37) % 5) - 2) * 0.004 * w;
      const place = plus(along(s), [aside * Math.cos(curve * s), HOOF_UP * w + terrain(s).up, -aside * Math.sin(curve * s) + uneven]);
      out.push({ down, off: down + stand, place, yaw: curve * s });
    }
    return out;
  });
  const hoofAt = (leg: number, t: number): HoofPose => {
    const at = steps[leg].findIndex((step) => t <= step.off);
    const step = steps[leg][at];
    const [first, last] = [0.57 * lean, -0.43 * lean];
    if (t >= step.down) return { place: step.place, yaw: step.yaw, leaning: first - (lean * (t - step.down)) / stand };
    const before = steps[leg][at - 1];
    const long = step.down - before.off;
    const u = (t - before.off) / long;
    const rate = (-lean / stand) * long;
    const [u2, u3] = [u * u, u * u * u];
    const leaning =
      last * (2 * u3 - 3 * u2 + 1) + rate * (u3 - 2 * u2 + u) + first * (3 * u2 - 2 * u3) + rate * (u3 - u2) - (leg < 2 ? 0.3 : 0.5) * u2 * 16 * (1 - u) ** 2;
    const place = plus(plus(before.place, scaled(minus(step.place, before.place), smooth(u))), [0, 0.1 * w * bump(u), 0]);
    return { place, yaw: before.yaw + (step.yaw - before.yaw) * smooth(u), leaning };
  };
  const groundAt = meanHeights(terrain, 0.3 * w);
  const poseAt = (t: number, up: number): FourPose => {
    const phase = (2 * Math.PI * t) / period;
    const byTurns = Math.abs(gait.lags[0] - gait.lags[1]) === 0.5;
    const [hind, fore] = [0, SHOULDERS].map((ahead) => groundAt(speed * t + ahead * w));
    const turned = product(
      turn("y", curve * speed * t + 0.02 * Math.sin(phase)),
      turn("x", -Math.atan2(fore - hind, SHOULDERS * w)),
      turn("x", gait.pitch * Math.sin((byTurns ? 2 : 1) * phase + 1)),
      turn("z", 0.02 * Math.sin(phase)),
    );
    const hips = plus(along(speed * t), [0.01 * w * Math.sin(phase), hind + up + 0.012 * w * Math.cos(2 * phase), 0]);
    return { hips, turned, neck: turn("x", 0.05 * Math.sin(2 * phase)), hoofAt: (leg) => hoofAt(leg, t) };
  };
  const posesAt = (up: number) => Array.from({ length: frames }, (_, f) => poseAt(f / fps, up));
  let up = 0.97 * w;
  while (!posesAt(up).every((pose) => reaches(body, pose))) {
    up -= 0.005 * w;
    if (up < LOWEST * w) throw new RangeError(`legs do not reach so far: ${gait.name}, strides of ${gait.stride} heights`);
  }
  const contacts = steps.flatMap((list, leg) =>
    list.flatMap(({ down, off }) => framesWithin(down, off, fps, frames).map((span) => ({ point: POINTS[leg], joint: LEGS[leg][3], ...span }))),
  );
  return { ...posedOnFour(body, posesAt(up)), fps, contacts };
}
