import { type Clip, ClipDraft, Evaluator, emptyWork, makePatch, oneSource, type Patch, PoseFrame, type Role, rotateVecFlat } from "@stride/motion";
import { performBiped } from "./biped.ts";
import { type Character, INA } from "./characters.ts";
import { DEFAULT_STYLE, type Knot, type Performance, type Plan, PoseWriter, smoothKnots } from "./performance.ts";
import { idlePlan } from "./plans.ts";
import { seeded } from "./random.ts";
import { about, type Quat, times } from "./turn.ts";

/** Scenes that are no gait: made of turning joints directly, so that what should be true of them is known. */
function blankPlan(name: string, seconds: number, fps: number): Plan {
  return { name, seconds, fps, seed: 1, steps: [], support: [], heading: [], height: [], style: DEFAULT_STYLE };
}

const role = (character: Character, name: Role): number => character.roles[name] ?? 0;

/** The middle of the hook that `davit` hangs on, metres. */
export const HOOK: readonly [number, number, number] = [0, 2.55, 0];

/** Ina hangs from a hook by both hands and swings; hips and legs come after the arms. Her hands stay at the hook. */
export function davit(): Performance {
  const plan = blankPlan("porter-hanging-from-the-davit", 4, 30);
  const writer = new PoseWriter(INA, plan);
  const { clip } = writer;
  const hands = [role(INA, "leftHand"), role(INA, "rightHand")];
  const pose = new PoseFrame(INA.skeleton, clip);
  for (let f = 0; f < clip.frameCount; f++) {
    const swing = (late: number) => 0.22 * Math.sin((2 * Math.PI * (f / plan.fps - late)) / 1.9);
    const at = (name: Role, q: Quat): [number, Quat] => [role(INA, name), q];
    const body = about("x", swing(0.08));
    const worlds = new Map<number, Quat>([
      at("hips", about("x", swing(0.16))),
      at("spine", about("x", swing(0.12))),
      at("chest", body),
      at("head", times(about("x", swing(0.05)), about("x", -0.2))),
      at("leftUpperArm", times(body, about("z", 1.25), about("y", -0.12))),
      at("rightUpperArm", times(body, about("z", -1.25), about("y", 0.12))),
      at("leftForearm", times(body, about("z", 1.62))),
      at("rightForearm", times(body, about("z", -1.62))),
      at("leftThigh", about("x", swing(0.24) - 0.12)),
      at("rightThigh", about("x", swing(0.27) - 0.05)),
      at("leftShin", about("x", swing(0.33) + 0.18)),
      at("rightShin", about("x", swing(0.36) + 0.12)),
    ]);
    writer.write(f, [0, 1, 0], worlds, new Map());
    pose.load(clip, f);
    const middle = [0, 1, 2].map((c) => hands.reduce((sum, j) => sum + pose.worldPositions[j * 3 + c], 0) / 2);
    writer.shift(f, HOOK[0] - middle[0], HOOK[1] - middle[1], HOOK[2] - middle[2]);
  }
  return { character: INA, clip, contacts: [] };
}

/** Ina slips, falls onto her back with her legs up, and lies still. What is lowest touches the ground at every frame. */
export function slipOnTheIce(): Performance {
  const plan = blankPlan("porter-slip-on-the-ice", 3.2, 60);
  const writer = new PoseWriter(INA, plan);
  const { clip } = writer;
  // seconds → trunk back, left and right thigh forward, left and right knee, arms out, way back of the hips (radians, metres)
  const moments: readonly Knot[] = [
    { t: 0, values: [0, 0.05, 0.05, 0.1, 0.1, 0.25, 0] },
    { t: 0.35, values: [0.05, 0.2, 0, 0.15, 0.12, 0.5, 0.05] },
    { t: 0.7, values: [0.55, 1.15, 0.45, 0.35, 0.7, 1.5, 0.22] },
    { t: 1.05, values: [1.5, 1.25, 1.0, 0.55, 0.75, 1.35, 0.16] },
    { t: 1.5, values: [1.52, 0.95, 0.7, 0.75, 0.9, 1.05, 0.1] },
    { t: 2.1, values: [1.54, 0.6, 0.35, 1.0, 0.7, 0.8, 0.1] },
    { t: 3.2, values: [1.54, 0.55, 0.32, 1.0, 0.68, 0.75, 0.1] },
  ];
  const curves = smoothKnots(moments, clip.frameCount, plan.fps, 3.5);
  const pose = new PoseFrame(INA.skeleton, clip);
  // How thick the body is under its joints: the trunk lies on its back, feet on their soles.
  const thick = new Map<number, number>([
    ...(["hips", "spine", "spine2", "chest"] as const).map((name): [number, number] => [role(INA, name), 0.1]),
    ...(["leftUpperArm", "rightUpperArm", "leftForearm", "rightForearm", "leftHand", "rightHand"] as const).map((name): [number, number] => [
      role(INA, name),
      0.04,
    ]),
    [role(INA, "head"), 0.08],
    [role(INA, "leftFoot"), INA.ankleHeight],
    [role(INA, "rightFoot"), INA.ankleHeight],
  ]);
  const heels = (["leftFoot", "rightFoot"] as const).map((name) => role(INA, name));
  for (let f = 0; f < clip.frameCount; f++) {
    const [back, left, right, leftKnee, rightKnee, arms, way] = curves.map((values) => values[f]);
    const at = (name: Role, q: Quat): [number, Quat] => [role(INA, name), q];
    const trunk = about("x", -back);
    const worlds = new Map<number, Quat>([
      at("hips", trunk),
      at("chest", times(trunk, about("x", 0.08))),
      at("head", times(trunk, about("x", 0.25 * Math.min(1, back)))),
      at("leftUpperArm", times(trunk, about("z", -1.45 + arms), about("y", -0.2))),
      at("rightUpperArm", times(trunk, about("z", 1.45 - arms), about("y", 0.2))),
      at("leftThigh", times(trunk, about("x", -left))),
      at("rightThigh", times(trunk, about("x", -right))),
      at("leftShin", times(trunk, about("x", -left + leftKnee))),
      at("rightShin", times(trunk, about("x", -right + rightKnee))),
      at("leftFoot", times(trunk, about("x", -left + leftKnee))),
      at("rightFoot", times(trunk, about("x", -right + rightKnee))),
    ]);
    writer.write(f, [0, 1, -way], worlds, new Map());
    pose.load(clip, f);
    let lowest = Number.POSITIVE_INFINITY;
    for (const [joint, radius] of thick) lowest = Math.min(lowest, pose.worldPositions[joint * 3 + 1] - radius);
    const heel = [0, 0, 0];
    for (const joint of heels) {
      rotateVecFlat(heel, 0, pose.worldRotations, joint * 4, [...(INA.heel ?? [0, 0, 0])], 0);
      lowest = Math.min(lowest, pose.worldPositions[joint * 3 + 1] + heel[1]);
    }
    writer.shift(f, 0, -lowest, 0);
  }
  return { character: INA, clip, contacts: [] };
}

/** The frames at which the hands of `apron` cut the belly, and which hand it is. */
export const APRON_CUTS: readonly (readonly [number, "left" | "right"])[] = [
  [30, "left"],
  [75, "right"],
  [120, "left"],
];

/** Ina waits; three times a hand goes through her belly. The truth is the same without. */
export function apron(): { readonly truth: Performance; readonly clip: Clip } {
  const truth = performBiped(INA, idlePlan("porter-hands-through-the-apron", 30, 21, 5.2, 0.24, 3.4));
  const { skeleton } = INA;
  const { fps } = truth.clip;
  const cuts = APRON_CUTS.map(([frame, side], i): Patch => {
    const pose = new PoseFrame(skeleton, truth.clip);
    pose.load(truth.clip, frame);
    const from = role(INA, `${side}Hand`) * 3;
    const belly = role(INA, "spine") * 3;
    const way = [0, 1, 2].map((c) => (pose.worldPositions[belly + c] - pose.worldPositions[from + c]) * 100);
    const edits = [{ op: "move", parts: [{ role: `${side}Hand` }], space: "world", centimetres: [way[0] * 0.75, way[1] * 0.8, way[2] + 6] }];
    const patch = makePatch("touchUp", `cut ${i}`, `cut${i}`, { at: frame / fps, edits, holds: [] });
    return { ...patch, range: { start: (frame - 2) / fps, end: (frame + 2) / fps }, rampIn: 14 / fps, rampOut: 14 / fps };
  });
  const { result } = new Evaluator(oneSource(skeleton, truth.clip)).evaluate({ ...emptyWork(), patches: cuts });
  return { truth, clip: result.clip };
}

/** Ina stands and argues: `heat` 1 is sharp gestures of both arms, wide and quick; near 0 hands that hardly leave her sides. Her feet stay where they stand. */
export function argument(name: string, seed: number, seconds: number, heat: number): Performance {
  const truth = performBiped(INA, idlePlan(name, 30, seed, seconds, 0.24, undefined));
  const { skeleton } = INA;
  const random = seeded(seed + 1000);
  const beat = 0.95 - 0.5 * heat;
  // seconds → left and right arm raised forward and out, elbows bent, chest turned and bent, head turned and nodded, radians
  const knots: Knot[] = [];
  for (let t = -1, i = 0; t < seconds + 2; t += beat * (0.8 + 0.4 * random()), i++) {
    const strong = 0.35 + 0.65 * random();
    const side = i % 3;
    const arm = (mine: boolean) => (mine ? strong : 0.25 * random());
    const [left, right] = [arm(side !== 1), arm(side !== 0)];
    knots.push({
      t,
      values: [
        0.15 + heat * 0.95 * left,
        0.15 + heat * 0.95 * right,
        heat * 0.4 * left,
        heat * 0.4 * right,
        0.5 + 1.1 * heat * left,
        0.5 + 1.1 * heat * right,
        heat * 0.22 * (right - left),
        heat * 0.16 * strong,
        0.25 * heat * (random() - 0.5),
        heat * 0.2 * (random() - 0.3),
      ],
    });
  }
  const curves = smoothKnots(knots, truth.clip.frameCount, truth.clip.fps, 2 + 3 * heat);
  const pose = new PoseFrame(skeleton, truth.clip);
  const draft = ClipDraft.of(truth.clip);
  const turn = (part: Role, q: Quat) => {
    pose.turnWorld(role(INA, part), Float64Array.from(q));
    pose.update();
  };
  for (let f = 0; f < truth.clip.frameCount; f++) {
    const [l, r, lo, ro, le, re, yaw, bend, look, nod] = curves.map((values) => values[f]);
    pose.load(truth.clip, f);
    turn("chest", times(about("y", yaw), about("x", bend)));
    turn("head", times(about("y", look - 0.6 * yaw), about("x", nod - 0.5 * bend)));
    turn("leftUpperArm", times(about("x", -l), about("z", lo)));
    turn("rightUpperArm", times(about("x", -r), about("z", -ro)));
    turn("leftForearm", times(about("x", -le), about("y", 0.3 * lo)));
    turn("rightForearm", times(about("x", -re), about("y", -0.3 * ro)));
    pose.store(draft, f, null);
  }
  return { ...truth, clip: draft.done() };
}
