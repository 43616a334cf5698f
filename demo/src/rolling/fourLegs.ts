import { framesWithin, type Made } from "./made.ts";
import { applied, cross, dot, fromAxes, type Mat, minus, plus, product, SAME, scaled, transposed, turn, unit, type Vec } from "./matrix.ts";
import { LEVEL, meanHeights, type Terrain } from "./terrain.ts";
import { bentAt, smooth } from "./walker.ts";

/** A body on four legs, all of it in shares of its height at the withers (metres); names of its joints in the order of `PARENTS`. */
export interface FourLegged {
  readonly name: string;
  readonly withers: number;
  readonly joints: readonly string[];
}

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

/** pelvis, spine, chest, neck, head, tail; then each leg */
const PARENTS = [-1, 0, 1, 2, 3, 0, 0, 6, 7, 8, 0, 10, 11, 12, 2, 14, 15, 16, 2, 18, 19, 20] as const;
/** upper and lower bone, cannon and hoof: hind left and right, fore left and right */
const LEGS = [
  [6, 7, 8, 9],
  [10, 11, 12, 13],
  [14, 15, 16, 17],
  [18, 19, 20, 21],
] as const;
const POINTS = ["leftHind", "rightHind", "leftFore", "rightFore"] as const;
const HOOF_UP = 0.035;
/** So far ahead of the hips fore legs hang. */
const SHOULDERS = 0.82;
const REACH = 0.985;
/** Hips that low, as a share of the height, carry nothing any more. */
const LOWEST = 0.4;
const bump = (u: number) => 16 * u * u * (1 - u) * (1 - u);

interface Step {
  readonly down: number;
  readonly off: number;
  readonly place: Vec;
  readonly yaw: number;
}

/** Lengths of a leg's bones, and where the joints are in their parents' frames. */
function bonesOf({ withers: w }: FourLegged) {
  const bones = LEGS.map((_, leg) => (leg < 2 ? [0.28, 0.3, 0.27] : [0.24, 0.3, 0.24]).map((share) => share * w));
  const offsets: readonly Vec[] = [
    [0, 0, 0],
    [0, 0.05 * w, 0.35 * w],
    [0, 0.02 * w, 0.45 * w],
    [0, 0.1 * w, 0.15 * w],
    [0, 0.3 * w, 0.2 * w],
    [0, 0, -0.1 * w],
    ...bones.flatMap(([upper, lower, cannon], leg): Vec[] => {
      const aside = (leg % 2 === 0 ? 0.09 : -0.09) * w;
      return [leg < 2 ? [aside, -0.05 * w, 0] : [aside, -0.12 * w, 0.02 * w], [0, -upper, 0], [0, -lower, 0], [0, -cannon, 0]];
    }),
  ];
  const ends: ReadonlyMap<number, Vec> = new Map<number, Vec>([
    [4, [0, -0.05 * w, 0.25 * w]],
    [5, [0, -0.2 * w, -0.1 * w]],
    ...LEGS.map(([, , , hoof]): [number, Vec] => [hoof, [0, -0.03 * w, 0.05 * w]]),
  ]);
  return { bones, offsets, ends };
}

/**
 * A gait of a four-legged body whose hooves are known exactly: each stands still at its joint while the cannon leans over it, and swings in between. Legs hang by the law of cosines. It
 * shares no computation with what is measured on it, nor with the other performances of the demo but that of the walks of this folder. `terrain` is the ground along its way: the body follows its mean, and pitches with it.
 */
export function fourLegged(body: FourLegged, gait: FourGait, fps: number, seconds: number, curve = 0, terrain: Terrain = LEVEL): Made {
  const { withers: w } = body;
  const { bones, offsets, ends } = bonesOf(body);
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
  /** Where a hoof is, how its leg is turned, and how its cannon leans, from ahead of the hoof to behind it. */
  const hoofAt = (leg: number, t: number): { place: Vec; yaw: number; leaning: number } => {
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
  const hipsAt = (t: number, up: number): { place: Vec; turned: Mat } => {
    const phase = (2 * Math.PI * t) / period;
    const byTurns = Math.abs(gait.lags[0] - gait.lags[1]) === 0.5;
    const [hind, fore] = [0, SHOULDERS].map((ahead) => groundAt(speed * t + ahead * w));
    const turned = product(
      turn("y", curve * speed * t + 0.02 * Math.sin(phase)),
      turn("x", -Math.atan2(fore - hind, SHOULDERS * w)),
      turn("x", gait.pitch * Math.sin((byTurns ? 2 : 1) * phase + 1)),
      turn("z", 0.02 * Math.sin(phase)),
    );
    return { place: plus(along(speed * t), [0.01 * w * Math.sin(phase), hind + up + 0.012 * w * Math.cos(2 * phase), 0]), turned };
  };
  const legAt = (leg: number, t: number, up: number) => {
    const { place, turned } = hipsAt(t, up);
    const hoof = hoofAt(leg, t);
    const socket = leg < 2 ? offsets[LEGS[leg][0]] : plus(plus(offsets[1], offsets[2]), offsets[LEGS[leg][0]]);
    const hip = plus(place, applied(turned, socket));
    const cannon = product(turn("y", hoof.yaw), turn("x", -hoof.leaning));
    return { hip, turned, hoof, cannon, hock: plus(hoof.place, applied(cannon, [0, bones[leg][2], 0])) };
  };
  let up = 0.97 * w;
  const reaches = () =>
    bones.every(([upper, lower], leg) =>
      Array.from({ length: frames }, (_, f) => legAt(leg, f / fps, up)).every(({ hip, hock }) => Math.hypot(...minus(hock, hip)) <= REACH * (upper + lower)),
    );
  while (!reaches()) {
    up -= 0.005 * w;
    if (up < LOWEST * w) throw new RangeError(`legs do not reach so far: ${gait.name}, strides of ${gait.stride} heights`);
  }

  const turns: Mat[][] = [];
  const roots: Vec[] = [];
  for (let f = 0; f < frames; f++) {
    const t = f / fps;
    const local: Mat[] = PARENTS.map(() => SAME);
    const { place, turned } = hipsAt(t, up);
    local[0] = turned;
    local[3] = turn("x", 0.05 * Math.sin((4 * Math.PI * t) / period));
    LEGS.forEach(([upper, lower, cannon, end], leg) => {
      const { hip, hock, hoof, cannon: leans } = legAt(leg, t, up);
      const down = unit(minus(hock, hip));
      // Knees bend forwards, elbows back; either way the bones' fronts look ahead.
      const ahead = applied(turn("y", hoof.yaw), [0, 0, 1]);
      const front = unit(minus(ahead, scaled(down, dot(ahead, down))));
      const knee = bentAt(hip, hock, bones[leg][0], bones[leg][1], scaled(front, leg < 2 ? 1 : -1));
      const bone = (from: Vec, to: Vec): Mat => {
        const y = unit(minus(from, to));
        const x = unit(cross(y, front));
        return fromAxes(x, y, cross(x, y));
      };
      const [a, b] = [bone(hip, knee), bone(knee, hock)];
      local[upper] = product(transposed(turned), a);
      local[lower] = product(transposed(a), b);
      local[cannon] = product(transposed(b), leans);
      local[end] = product(transposed(leans), turn("y", hoof.yaw));
    });
    turns.push(local);
    roots.push(place);
  }
  const contacts = steps.flatMap((list, leg) =>
    list.flatMap(({ down, off }) => framesWithin(down, off, fps, frames).map((span) => ({ point: POINTS[leg], joint: LEGS[leg][3], ...span }))),
  );
  return { joints: body.joints, parents: PARENTS, legs: LEGS, fps, offsets, ends, turns, roots, contacts };
}
