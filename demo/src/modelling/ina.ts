import { INA } from "../characters.ts";
import { add, ball, block, cone, cut, egg, moved, pair, ring, type Stroke, squashed, tube } from "./field.ts";
import { hex, mixed, plain, shaded } from "./palette.ts";
import { placesOf } from "./places.ts";
import type { Shell } from "./surface.ts";

const { of, tipOf } = placesOf(INA);
const head = of("Head");
/** A place as seen from the joint of the head, metres. */
const face = (x: number, y: number, z: number) => moved(head, x, y, z);

const SKIN = "#cf9a78";
const LIPS = hex("#a8604f");

function headStrokes(): Stroke[] {
  return [
    add(egg(face(0, 0.108, 0.006), [0.07, 0.088, 0.086])),
    add(egg(face(0, 0.042, 0.04), [0.053, 0.068, 0.058]), 0.04),
    add(ball(face(0, -0.006, 0.062), 0.024), 0.035),
    ...pair([
      add(egg(face(0.034, 0.046, 0.07), [0.02, 0.018, 0.018]), 0.025),
      add(cone(face(0.045, 0.012, 0.012), 0.014, face(0.016, -0.008, 0.055), 0.016), 0.035),
    ]),
    // Brow, nose, lips.
    ...pair([add(egg(face(0.028, 0.1, 0.081), [0.024, 0.009, 0.012]), 0.014), cut(egg(face(0.029, 0.083, 0.1), [0.016, 0.0095, 0.02]), 0.012)]),
    add(cone(face(0, 0.088, 0.088), 0.0075, face(0, 0.054, 0.11), 0.0105), 0.012),
    ...pair([add(ball(face(0.009, 0.05, 0.1), 0.008), 0.008)]),
    add(egg(face(0, 0.027, 0.091), [0.021, 0.0055, 0.0095]), 0.008),
    add(egg(face(0, 0.017, 0.089), [0.018, 0.006, 0.01]), 0.008),
    cut(egg(face(0, 0.0225, 0.101), [0.022, 0.0016, 0.008]), 0.004),
    ...pair([add(egg(face(0.071, 0.068, -0.008), [0.009, 0.028, 0.017], 0.2), 0.01), cut(egg(face(0.082, 0.07, -0.003), [0.007, 0.016, 0.009]), 0.006)]),
    add(cone(moved(of("Neck"), 0, -0.03, -0.012), 0.056, face(0, 0.02, -0.004), 0.05), 0.03),
  ];
}

function hairStrokes(): Stroke[] {
  return [
    add(egg(face(0, 0.116, -0.004), [0.08, 0.096, 0.094])),
    add(egg(face(0, 0.06, -0.05), [0.066, 0.08, 0.05]), 0.03),
    ...pair([add(cone(face(0.073, 0.12, 0.02), 0.016, face(0.073, 0.06, 0.012), 0.007), 0.02)]),
    cut(egg(face(0, 0.06, 0.125), [0.078, 0.1, 0.088]), 0.02),
    add(ball(face(0, 0.082, -0.118), 0.042), 0.012),
    add(ring(face(0, 0.084, -0.086), "z", 0.028, 0.008), 0.006),
  ];
}

const SLEEVE = 0.05;
const hand = of("LeftHand");
const chest = of("Chest");

function coatStrokes(): Stroke[] {
  const shoulder = of("LeftUpperArm");
  const elbow = of("LeftForearm");
  return [
    add(egg(moved(chest, 0, -0.02, 0), [0.158, 0.19, 0.112])),
    add(egg([0, 0.13, 0.008], [0.14, 0.18, 0.106]), 0.05),
    add(egg([0, -0.03, 0], [0.182, 0.15, 0.136]), 0.05),
    add(squashed(cone([0, 0.06, 0], 0.145, [0, -0.36, 0], 0.225), [0, 0, 0], [1, 1, 0.8]), 0.05),
    ...pair([
      add(egg([0.058, 0.34, 0.072], [0.066, 0.075, 0.05]), 0.05),
      add(cone(moved(of("LeftCollar"), 0.02, 0.004, -0.01), 0.062, moved(shoulder, 0, -0.004, 0), 0.064), 0.05),
      add(cone(shoulder, 0.064, elbow, SLEEVE + 0.004), 0.03),
      add(cone(elbow, SLEEVE + 0.004, moved(hand, -0.045, 0, 0), SLEEVE - 0.004), 0.02),
      add(ring(moved(hand, -0.045, 0, 0), "x", 0.038, 0.013), 0.006),
      add(block([0.098, -0.1, 0.128], [0.05, 0.058, 0.03], 0.014), 0.008),
      add(block([0.098, -0.05, 0.136], [0.054, 0.016, 0.028], 0.01), 0.004),
    ]),
    add(squashed(ring([0, 0.075, 0.004], "y", 0.139, 0.02), [0, 0.075, 0.004], [1, 1, 0.78]), 0.01),
    add(ring(moved(of("Neck"), 0, 0.012, -0.002), "y", 0.062, 0.024), 0.018),
    // Flap with the buttons.
    add(block([0.022, 0.1, 0.103], [0.034, 0.31, 0.02], 0.012), 0.02),
    // Open below, with a hem; slit at the front.
    cut(block([0, -0.6, 0], [0.5, 0.29, 0.5], 0.002), 0.008),
    cut(squashed(cone([0, -0.02, 0], 0.09, [0, -0.36, 0], 0.212), [0, 0, 0], [1, 1, 0.8]), 0.012),
    cut(cone([0.004, -0.17, 0.19], 0.004, [0.004, -0.36, 0.19], 0.03), 0.006),
  ];
}

function buttonStrokes(): Stroke[] {
  const buttons = [0.33, 0.2, -0.02, -0.14].map((y) => add(egg([0.03, y, y > 0.25 ? 0.124 : y > 0.1 ? 0.126 : 0.14 - 0.02 * y], [0.011, 0.011, 0.008]), 0.002));
  return [...buttons, add(block([0, 0.075, 0.128], [0.026, 0.024, 0.008], 0.005), 0.002)];
}

function trouserStrokes(): Stroke[] {
  return [
    add(egg([0, -0.06, 0], [0.142, 0.1, 0.1])),
    ...pair([
      add(cone(moved(of("LeftThigh"), 0, -0.03, 0), 0.086, of("LeftShin"), 0.066), 0.05),
      add(cone(of("LeftShin"), 0.066, moved(of("LeftFoot"), 0, 0.16, -0.004), 0.05), 0.03),
      add(egg(moved(of("LeftShin"), 0, -0.1, -0.018), [0.054, 0.1, 0.05]), 0.04),
    ]),
  ];
}

function bootStrokes(): Stroke[] {
  const ankle = of("LeftFoot");
  const ball = of("LeftToe");
  return pair([
    add(cone(moved(ankle, 0, 0.19, -0.004), 0.068, moved(ankle, 0, 0.02, 0), 0.05)),
    add(ring(moved(ankle, 0, 0.195, -0.004), "y", 0.06, 0.014), 0.008),
    add(cone(moved(ankle, 0, -0.012, -0.024), 0.046, moved(ball, 0, 0.022, -0.02), 0.042), 0.03),
    add(cone(moved(ball, 0, 0.022, -0.02), 0.042, moved(ball, 0, 0.018, 0.04), 0.033), 0.02),
    add(block(moved(ankle, 0, -0.052, 0.064), [0.046, 0.016, 0.13], 0.013), 0.008),
    add(block(moved(ankle, 0, -0.05, -0.036), [0.042, 0.017, 0.032], 0.01), 0.006),
    cut(block(moved(ankle, 0, -0.167, 0.06), [0.2, 0.1, 0.3], 0.001), 0.003),
  ]);
}

function handStrokes(): Stroke[] {
  const fingers = ["Index", "Middle", "Ring", "Little"].flatMap((finger) => {
    const thick = finger === "Little" ? 0.0072 : 0.0083;
    const [a, b, c, tip] = [of(`Left${finger}`), of(`Left${finger}2`), of(`Left${finger}3`), tipOf(`Left${finger}3`)];
    return tube(
      [
        [...moved(a, -0.05, 0, -a[2] * 0.35), thick + 0.004],
        [...a, thick + 0.001],
        [...b, thick],
        [...c, thick - 0.0006],
        [...tip, thick - 0.0016],
      ],
      0.004,
    );
  });
  const thumb = tube(
    [
      [...moved(hand, 0.012, -0.006, 0.018), 0.016],
      [...of("LeftThumb"), 0.0125],
      [...of("LeftThumb2"), 0.0105],
      [...of("LeftThumb3"), 0.0096],
      [...tipOf("LeftThumb3"), 0.0078],
    ],
    0.008,
  );
  return pair([
    add(cone(moved(hand, -0.075, 0, 0), 0.031, moved(hand, 0.004, 0, 0), 0.025)),
    add(block(moved(hand, 0.05, 0, 0), [0.046, 0.013, 0.037], 0.012), 0.018),
    add(egg(moved(hand, 0.035, -0.008, 0.022), [0.03, 0.014, 0.018]), 0.012),
    ...thumb,
    ...fingers,
  ]);
}

/** Ina, the porter: a mustard oilskin over dark trousers, boots, a cap; bare hands. */
export const INA_SHELLS: readonly Shell[] = [
  {
    name: "skin",
    strokes: headStrokes(),
    cell: 0.0032,
    triangles: 5200,
    joints: /^(Neck|Head|Chest)$/,
    colour: (x, y, z) => {
      const [px, py, pz] = [x - head[0], y - head[1], z - head[2]];
      const lips = pz > 0.08 && Math.hypot(px / 0.022, (py - 0.022) / 0.011) < 1 ? 0.75 : 0;
      const cheek = 0.22 * Math.exp(-(((Math.abs(px) - 0.038) / 0.018) ** 2) - ((py - 0.048) / 0.018) ** 2) * (pz > 0.05 ? 1 : 0);
      return mixed(mixed(hex(SKIN), hex("#c9765f"), cheek), LIPS, lips);
    },
  },
  {
    name: "eyes",
    strokes: pair([add(egg(face(0.0295, 0.083, 0.0775), [0.0115, 0.0078, 0.0075]))]),
    cell: 0.0011,
    triangles: 2000,
    joints: /^Head$/,
    colour: (x, y, z) => {
      const [px, py, pz] = [Math.abs(x - head[0]) - 0.0285, y - head[1] - 0.083, z - head[2]];
      return pz > 0.079 && Math.hypot(px, py) < 0.0056 ? hex("#2b1f1a") : hex("#efe6d8");
    },
  },
  { name: "hair", strokes: hairStrokes(), cell: 0.0045, triangles: 1600, joints: /^Head$/, colour: plain("#3a2a23") },
  {
    name: "cap",
    strokes: [
      add(egg(face(0, 0.172, -0.002), [0.098, 0.046, 0.108], -0.12)),
      add(egg(face(0, 0.146, 0.085), [0.062, 0.009, 0.052], -0.2), 0.008),
      add(ball(face(0, 0.214, -0.008), 0.012), 0.006),
    ],
    cell: 0.0045,
    triangles: 1100,
    joints: /^Head$/,
    colour: plain("#37474e"),
  },
  {
    name: "coat",
    strokes: coatStrokes(),
    cell: 0.0065,
    triangles: 5600,
    joints: /^(Hips|Spine|SpineMid|Chest|Neck|(Left|Right)(Collar|UpperArm|Forearm|Thigh))$/,
    colour: shaded("#cf9a3d", 0.1, -0.32, 0.82),
  },
  { name: "buttons", strokes: buttonStrokes(), cell: 0.003, triangles: 500, joints: /^(Hips|Spine|SpineMid|Chest)$/, colour: plain("#5b4128") },
  { name: "trousers", strokes: trouserStrokes(), cell: 0.008, triangles: 2000, joints: /^(Hips|(Left|Right)(Thigh|Shin|Foot))$/, colour: plain("#4a545c") },
  {
    name: "boots",
    strokes: bootStrokes(),
    cell: 0.005,
    triangles: 2600,
    joints: /^(Left|Right)(Shin|Foot|Toe)$/,
    colour: (_x, y) => (y < of("LeftFoot")[1] - 0.046 ? hex("#2c2420") : hex("#5d4232")),
  },
  {
    name: "hands",
    strokes: handStrokes(),
    cell: 0.0027,
    triangles: 6400,
    joints: /^(Left|Right)(Hand|Forearm|Thumb|Index|Middle|Ring|Little)/,
    colour: plain(SKIN),
  },
];
