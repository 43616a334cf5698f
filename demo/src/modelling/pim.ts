import { PIM } from "../characters.ts";
import { add, ball, block, cone, cut, egg, moved, type Point, pair, ring, type Stroke, squashed, tube } from "./field.ts";
import { hex, mixed, plain } from "./palette.ts";
import { placesOf } from "./places.ts";
import type { Shell } from "./surface.ts";

const { of, tipOf } = placesOf(PIM);
const head = of("Head");
const face = (x: number, y: number, z: number): Point => moved(head, x, y, z);
const MIDDLE: Point = [0, -0.03, 0.36];

function hideStrokes(): Stroke[] {
  return [
    add(egg(MIDDLE, [0.14, 0.165, 0.42])),
    add(egg([0, -0.06, 0.3], [0.152, 0.15, 0.26]), 0.08),
    add(egg([0, -0.02, 0.0], [0.118, 0.135, 0.16]), 0.08),
    add(egg([0, -0.06, 0.735], [0.118, 0.175, 0.15]), 0.08),
    add(cone([0, 0.055, 0.62], 0.06, [0, 0.055, 0.05], 0.055), 0.06),
    // Neck, head.
    add(cone([0, -0.01, 0.79], 0.108, of("NeckUpper"), 0.074), 0.06),
    add(cone(of("NeckUpper"), 0.072, face(0, 0.0, 0.005), 0.06), 0.04),
    add(egg(face(0, 0.012, 0.035), [0.054, 0.058, 0.078], 0.5), 0.03),
    add(cone(face(0, -0.005, 0.07), 0.044, face(0, -0.052, 0.185), 0.031), 0.03),
    add(egg(face(0, -0.058, 0.198), [0.03, 0.025, 0.026]), 0.02),
    add(cone(face(0, -0.05, 0.06), 0.034, face(0, -0.085, 0.17), 0.02), 0.02),
    ...pair([
      add(egg(face(0.032, 0.032, 0.06), [0.018, 0.012, 0.024]), 0.016),
      cut(ball(face(0.016, -0.052, 0.222), 0.006), 0.006),
      cut(egg(face(0.026, -0.078, 0.19), [0.02, 0.002, 0.03]), 0.005),
      // Ears hang out to the sides.
      ...tube(
        [
          [...face(0.045, 0.03, -0.005), 0.014],
          [...face(0.085, 0.024, -0.014), 0.019],
          [...face(0.122, -0.004, -0.018), 0.007],
        ],
        0.012,
      ),
    ]),
    ...pair([...foreLeg(), ...hindLeg()]),
    ...tube(
      [
        [...moved(of("Tail"), 0, -0.01, 0.06), 0.034],
        [...of("Tail"), 0.028],
        [...of("Tail2"), 0.024],
        [...of("Tail3"), 0.022],
        [...tipOf("Tail3"), 0.009],
      ],
      0.03,
    ),
  ];
}

function foreLeg(): Stroke[] {
  const [shoulder, elbow, carpus, hoof] = [of("LeftForeUpper"), of("LeftForeLower"), of("LeftForeCannon"), of("LeftForeHoof")];
  return [
    add(egg(moved(shoulder, -0.012, -0.02, -0.01), [0.052, 0.15, 0.085]), 0.05),
    add(cone(moved(shoulder, -0.008, -0.06, -0.02), 0.07, elbow, 0.046), 0.04),
    add(cone(elbow, 0.046, carpus, 0.028), 0.03),
    add(egg(moved(carpus, 0, 0.004, 0.004), [0.03, 0.038, 0.031]), 0.015),
    add(cone(carpus, 0.025, moved(hoof, 0, 0.075, -0.006), 0.021), 0.02),
    add(ball(moved(hoof, 0, 0.072, -0.006), 0.027), 0.015),
    add(cone(moved(hoof, 0, 0.07, -0.004), 0.024, moved(hoof, 0, 0.03, 0.012), 0.025), 0.012),
  ];
}

function hindLeg(): Stroke[] {
  const [thigh, stifle, hock, hoof] = [of("LeftThigh"), of("LeftShin"), of("LeftHock"), of("LeftHoof")];
  return [
    add(egg(moved(thigh, -0.012, -0.06, 0.0), [0.06, 0.16, 0.115]), 0.06),
    add(cone(moved(thigh, 0, -0.06, 0), 0.1, stifle, 0.064), 0.05),
    add(cone(moved(stifle, 0, 0, -0.006), 0.06, moved(hock, 0, 0.03, 0.01), 0.03), 0.03),
    add(cone(moved(hock, 0, 0.02, -0.012), 0.026, moved(hock, 0, -0.02, 0), 0.026), 0.015),
    add(cone(hock, 0.027, moved(hoof, 0, 0.08, -0.012), 0.022), 0.02),
    add(ball(moved(hoof, 0, 0.074, -0.01), 0.027), 0.015),
    add(cone(moved(hoof, 0, 0.072, -0.008), 0.024, moved(hoof, 0, 0.03, 0.012), 0.025), 0.012),
  ];
}

function hoofStrokes(): Stroke[] {
  return pair(
    ["LeftForeHoof", "LeftHoof"].flatMap((name) => {
      const [x, , z] = of(name);
      const floor = of(name)[1];
      return [
        add(cone([x - 0.013, floor + 0.022, z + 0.032], 0.02, [x - 0.011, floor + 0.046, z + 0.012], 0.02)),
        add(cone([x + 0.013, floor + 0.022, z + 0.032], 0.02, [x + 0.011, floor + 0.046, z + 0.012], 0.02), 0.003),
        add(cone([x, floor + 0.026, z + 0.004], 0.025, [x, floor + 0.046, z + 0.006], 0.026), 0.006),
        cut(block([x, floor - 0.05, z], [0.2, 0.05, 0.2], 0.001), 0.002),
      ];
    }),
  );
}

function hornStrokes(): Stroke[] {
  return pair([
    ...tube(
      [
        [...face(0.022, 0.05, 0.022), 0.019],
        [...face(0.034, 0.125, -0.012), 0.016],
        [...face(0.05, 0.175, -0.07), 0.0125],
        [...face(0.066, 0.185, -0.14), 0.008],
        [...face(0.08, 0.165, -0.19), 0.004],
      ],
      0.01,
    ),
    ...[0.3, 0.55, 0.8].map((u) => add(ring(face(0.022 + 0.014 * u, 0.05 + 0.075 * u, 0.022 - 0.034 * u), "y", 0.017, 0.0035), 0.003)),
  ]);
}

const PACK = 0.34;
function blanketStrokes(): Stroke[] {
  return [
    add(egg([0, -0.025, 0.34], [0.168, 0.182, 0.44])),
    cut(block([0, -0.35, 0.34], [0.5, 0.3, 0.8], 0.01), 0.01),
    cut(block([0, 0, PACK - 0.5], [0.5, 0.5, 0.34], 0.01), 0.01),
    cut(block([0, 0, PACK + 0.5], [0.5, 0.5, 0.34], 0.01), 0.01),
    add(squashed(ring([0, -0.045, PACK], "z", 0.175, 0.011), [0, -0.045, PACK], [0.9, 1, 1.6]), 0.006),
  ];
}

function bagStrokes(): Stroke[] {
  return pair([
    add(block([0.208, -0.03, PACK], [0.055, 0.1, 0.125], 0.04)),
    add(block([0.218, 0.045, PACK], [0.056, 0.034, 0.131], 0.02), 0.006),
    add(ring([0.205, 0.03, PACK + 0.06], "z", 0.056, 0.007), 0.004),
    add(ring([0.205, 0.03, PACK - 0.06], "z", 0.056, 0.007), 0.004),
    add(cone([0, 0.158, PACK], 0.02, [0.1, 0.13, PACK], 0.019), 0.02),
    add(cone([0.1, 0.13, PACK], 0.019, [0.19, 0.06, PACK], 0.018), 0.02),
  ]);
}

/** Pim, the pack goat: a cream coat with a dark back and stockings, horns that sweep back, a beard; bags on a blanket. */
export const PIM_SHELLS: readonly Shell[] = [
  {
    name: "hide",
    strokes: hideStrokes(),
    cell: 0.0055,
    triangles: 11000,
    joints: /^(?!.*End$).+/,
    colour: (x, y, z) => {
      const cream = hex("#e3d6c0");
      const dark = hex("#6b5443");
      const back = y > 0 && z < 0.8 ? Math.exp(-((x / 0.045) ** 2)) * Math.min(1, Math.max(0, (y - 0.05) / 0.05)) : 0;
      const stockings = Math.min(1, Math.max(0, (-0.5 - y) / 0.06));
      const [fx, fy, fz] = [Math.abs(x - head[0]), y - head[1], z - head[2]];
      const stripe = fz > -0.02 && fy > -0.09 ? Math.exp(-(((fx - 0.032) / 0.012) ** 2)) * 0.9 * Math.min(1, Math.max(0, (fz - 0.02) / 0.03)) : 0;
      const nose = fz > 0.2 && fy < -0.03 ? Math.min(1, (fz - 0.2) / 0.015) * 0.8 : 0;
      return mixed(mixed(cream, dark, Math.max(back * 0.85, stockings, stripe * 0.7)), hex("#4a3a33"), nose);
    },
  },
  { name: "hooves", strokes: hoofStrokes(), cell: 0.004, triangles: 1600, joints: /Hoof$|Cannon$|Hock$/, colour: plain("#2f2a26") },
  {
    name: "horns",
    strokes: hornStrokes(),
    cell: 0.0035,
    triangles: 1800,
    joints: /^Head$/,
    colour: (_x, y) => mixed(hex("#b09a7c"), hex("#5d4c3a"), (y - head[1] - 0.06) / 0.13),
  },
  {
    name: "eyes",
    strokes: pair([add(ball(face(0.044, 0.022, 0.062), 0.0125))]),
    cell: 0.002,
    triangles: 700,
    joints: /^Head$/,
    colour: (x, y, z) =>
      Math.abs(y - head[1] - 0.022) < 0.0032 && Math.abs(z - head[2] - 0.066) < 0.008 && Math.abs(x) > 0.05 ? hex("#15110e") : hex("#b98a3e"),
  },
  {
    name: "beard",
    strokes: [
      ...tube(
        [
          [...face(0, -0.085, 0.15), 0.018],
          [...face(0, -0.13, 0.142), 0.016],
          [...face(0, -0.185, 0.125), 0.005],
        ],
        0.01,
      ),
    ],
    cell: 0.003,
    triangles: 400,
    joints: /^Head$/,
    colour: plain("#cdbba0"),
  },
  {
    name: "blanket",
    strokes: blanketStrokes(),
    cell: 0.006,
    triangles: 2200,
    joints: /^(Loin|Back)$/,
    colour: (_x, _y, z) => (Math.abs(Math.abs(z - PACK) - 0.12) < 0.014 ? hex("#e0cfa5") : hex("#a5672f")),
  },
  {
    name: "bags",
    strokes: bagStrokes(),
    cell: 0.0055,
    triangles: 2400,
    joints: /^(Loin|Back)$/,
    colour: (x, y) => (y > 0.012 && Math.abs(x) > 0.15 ? hex("#77603f") : hex("#8d7650")),
  },
];
