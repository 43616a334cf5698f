import { buildBiped, buildQuadruped, type Character } from "../characters.ts";
import type { Plan } from "../performance.ts";
import { gaitPlan, quadrupedWalk, straight, TROT } from "../plans.ts";

/** A body of the grid: how much of the demo's own, and the rate of its clips. */
export interface Body {
  readonly character: Character;
  readonly scale: number;
  readonly fps: number;
}

const biped = (id: string, height: number, fps: number, rest: { breadth?: number; toes?: boolean; ballLift?: number } = {}): Body => ({
  character: buildBiped(id, id, { height, breadth: rest.breadth ?? 1, fingers: false, toes: rest.toes ?? true, ballLift: rest.ballLift }),
  scale: height / 1.72,
  fps,
});

/** Bipeds of several sizes, rates and feet: the ball of the foot from a few millimetres to 6 % of the leg over the ground. */
export const BIPEDS: readonly Body[] = [
  biped("usual, 30", 1.72, 30),
  biped("tall, 60", 1.95, 60, { breadth: 1.2, ballLift: 0.011 }),
  biped("toeless, 120", 1.2, 120, { toes: false }),
  biped("thick soles, 24", 1.6, 24, { ballLift: 0.03 }),
  biped("flat, 120", 1.8, 120, { ballLift: 0.001 }),
];

const GAIT = { seed: 3, path: straight, width: 0.17, strikePitch: 0.35, liftPitch: 0.75, clearance: 0.04, bob: 0.012, shift: 0.42 };

export function walk({ scale, fps }: Body, more: Partial<Parameters<typeof gaitPlan>[0]> = {}): Plan {
  return gaitPlan({ ...GAIT, name: "walk", fps, seconds: 4, stepLength: 0.7 * scale, stepTime: 0.52, stance: 0.61, ...more });
}

export function run({ scale, fps }: Body, more: Partial<Parameters<typeof gaitPlan>[0]> = {}): Plan {
  return gaitPlan({
    ...GAIT,
    name: "run",
    fps,
    seconds: 3,
    stepLength: 1.25 * scale,
    stepTime: 0.34,
    stance: 0.34,
    strikePitch: 0.15,
    liftPitch: 1,
    clearance: 0.16 * scale,
    bob: -0.03 * scale,
    width: 0.1,
    style: { flow: 2.6, lean: 0.15 },
    ...more,
  });
}

/** Four-legged bodies: sizes, hooves' joints up to 11 % of the leg over the ground, blades and pasterns, names that say all or nothing. */
export function quadrupeds(): Body[] {
  const make = (withers: number, fps: number, more: { hoofLift?: number; blade?: boolean; pastern?: boolean }, style?: keyof typeof FOUR_NAMES) => {
    const plain = buildQuadruped(
      `q${withers}`,
      `${withers} m${more.blade ? ", blade" : ""}${more.pastern ? ", pastern" : ""}${more.hoofLift ? `, hoof +${more.hoofLift}` : ""}${style ? `, ${style}` : ""}`,
      { withers, ...more },
    );
    return { character: style ? FOUR_NAMES[style](plain) : plain, scale: withers / 0.78, fps };
  };
  return [
    make(0.78, 30, {}),
    make(0.6, 60, { hoofLift: 0.054, pastern: true }),
    make(1.6, 30, { blade: true, pastern: true, hoofLift: 0.08 }, "codes"),
    make(0.4, 120, { blade: true }, "numbers"),
    make(1.1, 24, { pastern: true, blade: true }, "anatomical"),
    make(0.9, 60, { blade: true, hoofLift: 0.03 }, "numbers"),
  ];
}

/** Naming of four-legged bodies beside the demo's own. */
const FOUR_NAMES: Readonly<Record<string, (c: Character) => Character>> = {
  numbers: (c) => renameJoints(c, (_, j) => `Bone${String(j).padStart(3, "0")}`),
  codes: (c) =>
    renameJoints(c, (name) =>
      name
        .replace(/^(Left|Right)(Fore|Blade)(\w*)$/, (_, side, kind, rest) => `F${side[0]}_${kind === "Blade" ? 0 : 1}${rest}`)
        .replace(
          /^(Left|Right)(Thigh|Shin|Hock|Pastern|Hoof)$/,
          (_, side, rest) => `B${side[0]}_${["Thigh", "Shin", "Hock", "Pastern", "Hoof"].indexOf(rest)}`,
        ),
    ),
  anatomical: (c) =>
    renameJoints(c, (name) => {
      const words: Record<string, string> = {
        Blade: "Scapula",
        ForeUpper: "Humerus",
        ForeLower: "Radius",
        ForeCannon: "Metacarpus",
        ForePastern: "ForePhalanx",
        ForeHoof: "ForeHoof",
        Thigh: "Femur",
        Shin: "Tibia",
        Hock: "Metatarsus",
        Pastern: "HindPhalanx",
        Hoof: "HindHoof",
      };
      return name.replace(/^(Left|Right)(\w+)$/, (_, side, part) => `${words[part] ?? part}_${side[0]}`);
    }),
};

function renameJoints(c: Character, name: (old: string, joint: number) => string): Character {
  return { ...c, skeleton: { ...c.skeleton, names: c.skeleton.names.map(name) } };
}

export const walk4 = ({ character, scale, fps }: Body, more: object = {}): Plan =>
  quadrupedWalk(character, { name: "walk", fps, seed: 4, seconds: 4, stride: 0.8 * scale, cycle: 1.1 * Math.sqrt(scale), duty: 0.65, path: straight, ...more });
export const trot = ({ character, scale, fps }: Body): Plan =>
  quadrupedWalk(character, {
    name: "trot",
    fps,
    seed: 4,
    seconds: 3,
    stride: 1.0 * scale,
    cycle: 0.5 * Math.sqrt(scale),
    duty: 0.42,
    path: straight,
    phases: TROT,
    clearance: 0.16,
  });
