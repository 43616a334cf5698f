import type { Clip } from "../clip/clip.ts";
import { boneLength, pathLength, type Skeleton } from "../skeleton/skeleton.ts";
import { mapBody } from "./bodyMap.ts";
import { meanDirection, sampleStances } from "./stance.ts";

/** Units that motion files come in: metres per unit, and how unusual each is (cost in log-size). The last is the scale of an old public capture database. */
const UNITS: readonly (readonly [number, number])[] = [
  [1, 0],
  [0.01, 0],
  [0.001, 0.1],
  [0.0254, 0.2],
  [0.3048, 0.35],
  [0.1, 0.4],
  [0.0254 / 0.45, 0.25],
];

/** Expected height of a standing leg (hip joint to sole), metres: 0.53 of 1.7 m (Drillis & Contini 1966, as tabled by Winter; memory). */
const TYPICAL_LEG = 0.53 * 1.7;

/** Legs within about 30° of an axis stand along it; a share of the frames that is more than chance. */
const STANDS = 0.87;
const EVER = 0.1;

/** Metres per unit and the vertical axis, guessed from the length of the legs and which way they stand in the clip. */
export function guessScaleAndUp(skeleton: Skeleton, clip: Clip): { unitScale: number; upAxis: "y" | "z" } {
  const { roles, plan } = mapBody(skeleton, clip);
  const samples = sampleStances(skeleton, clip);
  let upAxis: "y" | "z" = "y";
  let leg = 0;
  const stand = [0, 0, 0];
  const rest = [0, 0, 0];
  const standing: number[][] = [];
  for (const side of ["left", "right"] as const) {
    const thigh = roles[`${side}Thigh`];
    const shin = roles[`${side}Shin`];
    const foot = roles[`${side}Foot`];
    if (thigh === undefined || shin === undefined || foot === undefined) continue;
    const toFoot = meanDirection(samples, foot, thigh);
    toFoot.forEach((v, i) => {
      stand[i] += v;
    });
    for (let f = 0; f < samples.count; f++) {
      const at = (j: number) => (f * samples.pointCount + j) * 3;
      standing.push([0, 1, 2].map((i) => samples.positions[at(thigh) + i] - samples.positions[at(foot) + i]));
    }
    for (let j = foot; j >= 0 && j !== thigh; j = skeleton.parents[j]) for (let i = 0; i < 3; i++) rest[i] += skeleton.offsets[j * 3 + i];
    // Hip to ankle, and the ankle's height on top.
    leg += (pathLength(skeleton, foot, thigh) / (0.245 + 0.246)) * 0.53;
  }
  // The pose at rest has the say if the body ever stands along it: someone who falls lies for most of a clip.
  const restAxis = Math.abs(rest[2]) > Math.abs(rest[1]) ? 2 : 1;
  const stood = standing.filter((v) => Math.abs(v[restAxis]) > STANDS * Math.hypot(...v)).length;
  if (stood >= EVER * standing.length && Math.abs(rest[restAxis]) > STANDS * Math.hypot(...rest)) upAxis = restAxis === 2 ? "z" : "y";
  else if (Math.abs(stand[2]) > Math.abs(stand[1])) upAxis = "z";
  leg /= 2;
  if (leg === 0) leg = skeletonSize(skeleton) * 0.5;
  const typical = plan === "quadruped" ? 0.65 : TYPICAL_LEG;
  let unitScale = 1;
  let lowest = Number.POSITIVE_INFINITY;
  for (const [scale, unusual] of UNITS) {
    const cost = Math.abs(Math.log((leg * scale) / typical)) + unusual;
    if (cost < lowest) {
      lowest = cost;
      unitScale = scale;
    }
  }
  return { unitScale, upAxis };
}

/** Longest way from a root to a leaf, for skeletons without legs. */
function skeletonSize(skeleton: Skeleton): number {
  const reach = skeleton.names.map(() => 0);
  skeleton.parents.forEach((parent, joint) => {
    reach[joint] = parent < 0 ? 0 : reach[parent] + boneLength(skeleton, joint);
  });
  return Math.max(1e-6, ...reach);
}
