import { OSK } from "../characters.ts";
import { add, ball, block, cone, cut, egg, moved, pair, ring, type Stroke, squashed } from "./field.ts";
import { hex, plain, shaded } from "./palette.ts";
import { placesOf } from "./places.ts";
import type { Shell } from "./surface.ts";

const { of } = placesOf(OSK);
const head = of("Head");
const chest = of("Chest");
const hand = of("LeftHand");
const shoulder = of("LeftUpperArm");
const elbow = of("LeftForearm");
const thigh = of("LeftThigh");
const shin = of("LeftShin");
const ankle = of("LeftFoot");
const toe = of("LeftToe");
/** Middle of the helmet. */
const bowl = moved(head, 0, 0.105, 0.01);
const WINDOW = 0.066;

function suitStrokes(): Stroke[] {
  return [
    add(egg(moved(chest, 0, -0.05, -0.005), [0.225, 0.24, 0.165])),
    add(egg([0, 0.12, 0.01], [0.215, 0.2, 0.17]), 0.07),
    add(egg([0, -0.04, 0], [0.215, 0.15, 0.165]), 0.06),
    ...pair([
      add(cone(moved(of("LeftCollar"), 0.02, 0.01, -0.01), 0.09, shoulder, 0.096), 0.06),
      add(cone(shoulder, 0.096, elbow, 0.076), 0.04),
      add(ball(elbow, 0.08), 0.03),
      add(cone(elbow, 0.076, moved(hand, -0.03, 0, 0), 0.064), 0.03),
      ...[0.3, 0.6, 0.88].map((u) => add(ring([shoulder[0] + u * (elbow[0] - shoulder[0]), shoulder[1], 0], "x", 0.083 - u * 0.008, 0.008), 0.014)),
      ...[0.3, 0.6].map((u) => add(ring([elbow[0] + u * (hand[0] - elbow[0]), elbow[1], 0], "x", 0.068 - u * 0.006, 0.008), 0.014)),
      add(cone(moved(thigh, 0.004, -0.02, 0), 0.118, moved(shin, 0.004, 0, 0), 0.094), 0.05),
      add(ball(moved(shin, 0.002, 0, 0.012), 0.094), 0.03),
      add(cone(moved(shin, 0, 0, 0), 0.092, moved(ankle, 0, 0.1, -0.004), 0.078), 0.03),
      add(ring([0.106, (shin[1] + ankle[1]) / 2 + 0.02, -0.002], "y", 0.082, 0.008), 0.014),
    ]),
  ];
}

function brassStrokes(): Stroke[] {
  const collar = moved(of("Neck"), 0, 0.0, 0);
  const port = (x: number, y: number, z: number, axis: "x" | "z") => [add(ring(moved(bowl, x, y, z), axis, WINDOW, 0.014), 0.006)];
  return [
    add(ball(bowl, 0.172)),
    ...port(0, 0.01, 0.158, "z"),
    cut(ball(moved(bowl, 0, 0.01, 0.182), WINDOW - 0.006), 0.004),
    ...pair([...port(0.158, 0.01, 0.012, "x"), cut(ball(moved(bowl, 0.182, 0.01, 0.012), WINDOW - 0.006), 0.004)]),
    add(ring(moved(bowl, 0, 0.146, 0.07), "y", 0.034, 0.01), 0.005),
    add(egg(moved(collar, 0, -0.035, -0.002), [0.205, 0.085, 0.172]), 0.012),
    add(ring(moved(bowl, 0, -0.125, -0.004), "y", 0.142, 0.02), 0.012),
    ...[0, 1, 2, 3, 4, 5, 6, 7].map((k) => {
      const a = (k * Math.PI) / 4 + Math.PI / 8;
      return add(ball(moved(collar, 0.165 * Math.sin(a), 0.022, 0.138 * Math.cos(a)), 0.017), 0.004);
    }),
    // Where the air comes in.
    add(cone(moved(bowl, 0.07, 0.05, -0.13), 0.026, moved(bowl, 0.1, 0.075, -0.2), 0.022), 0.01),
  ];
}

function leadStrokes(): Stroke[] {
  const belt = 0.035;
  return [
    add(block(moved(chest, 0, -0.05, 0.152), [0.085, 0.095, 0.03], 0.014), 0.006),
    add(block(moved(chest, 0, -0.04, -0.158), [0.08, 0.085, 0.024], 0.014), 0.006),
    add(squashed(ring([0, belt, 0], "y", 0.222, 0.02), [0, belt, 0], [1, 1.5, 0.79]), 0.006),
    ...[-2, -1, 0, 1, 2].map((k) => {
      const a = k * 0.52;
      return add(
        block([0.236 * Math.sin(a), belt - 0.005, 0.185 * Math.cos(a)], [0.042 - 0.008 * Math.abs(k), 0.045, 0.028 + 0.006 * Math.abs(k)], 0.012),
        0.004,
      );
    }),
  ];
}

function bootStrokes(): Stroke[] {
  return pair([
    add(cone(moved(ankle, 0, 0.12, -0.004), 0.088, moved(ankle, 0, 0.01, 0), 0.068)),
    add(ring(moved(ankle, 0, 0.12, -0.004), "y", 0.083, 0.015), 0.008),
    add(ring(moved(ankle, 0, 0.05, 0.0), "y", 0.076, 0.01), 0.006),
    add(cone(moved(ankle, 0, -0.012, -0.03), 0.06, moved(toe, 0, 0.022, -0.02), 0.06), 0.03),
    add(cone(moved(toe, 0, 0.02, -0.02), 0.06, moved(toe, 0, 0.014, 0.06), 0.05), 0.02),
    add(block([ankle[0], ankle[1] - 0.05, 0.076], [0.066, 0.0225, 0.166], 0.012), 0.006),
    cut(block([ankle[0], ankle[1] - 0.1725, 0.06], [0.2, 0.1, 0.4], 0.001), 0.003),
  ]);
}

function mittStrokes(): Stroke[] {
  return pair([
    add(cone(moved(hand, -0.07, 0, 0), 0.052, moved(hand, 0.005, 0, 0), 0.044)),
    add(cone(moved(hand, -0.075, 0, 0), 0.07, moved(hand, -0.03, 0, 0), 0.066), 0.012),
    add(egg(moved(hand, 0.075, -0.004, 0), [0.078, 0.03, 0.054]), 0.02),
    add(cone(moved(hand, 0.03, -0.006, 0.036), 0.023, moved(hand, 0.082, -0.01, 0.074), 0.018), 0.014),
    add(egg(moved(hand, 0.125, -0.01, 0), [0.045, 0.024, 0.048]), 0.02),
  ]);
}

/** Osk, the salvage diver: a canvas suit, a brass helmet with windows, lead on chest and belt, heavy boots; mittens. */
export const OSK_SHELLS: readonly Shell[] = [
  {
    name: "suit",
    strokes: suitStrokes(),
    cell: 0.008,
    triangles: 7000,
    joints: /^(Hips|Spine|SpineMid|Chest|Neck|(Left|Right)(Collar|UpperArm|Forearm|Thigh|Shin))$/,
    colour: shaded("#b9a98c", 0.2, -0.8, 0.8),
  },
  {
    name: "brass",
    strokes: brassStrokes(),
    cell: 0.005,
    triangles: 6500,
    joints: /^(Head|Neck|Chest)$/,
    colour: (_x, y) => (y < of("Neck")[1] + 0.005 ? hex("#8a6a36") : hex("#b0833f")),
  },
  {
    name: "windows",
    strokes: [add(ball(moved(bowl, 0, 0.01, 0.108), 0.072)), ...pair([add(ball(moved(bowl, 0.108, 0.01, 0.012), 0.072))])],
    cell: 0.006,
    triangles: 900,
    joints: /^Head$/,
    colour: plain("#27363b"),
  },
  { name: "lead", strokes: leadStrokes(), cell: 0.005, triangles: 2600, joints: /^(Hips|Spine|SpineMid|Chest)$/, colour: plain("#70767a") },
  {
    name: "boots",
    strokes: bootStrokes(),
    cell: 0.006,
    triangles: 2600,
    joints: /^(Left|Right)(Shin|Foot|Toe)$/,
    colour: (_x, y, z) => (y < ankle[1] - 0.042 ? hex("#3a3b3d") : z > toe[2] + 0.028 ? hex("#a77b3b") : hex("#57402f")),
  },
  { name: "mittens", strokes: mittStrokes(), cell: 0.005, triangles: 2400, joints: /^(Left|Right)(Hand|Forearm)$/, colour: plain("#7d5b3c") },
];
