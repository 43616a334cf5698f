import type { Rig, RigLimb } from "../character/rig.ts";
import { conjugateQuatFlat, expQuatFlat, logQuatFlat, multiplyQuatFlat, quatAngleFlat } from "../math/quat.ts";
import { solveSymmetricMutable } from "../math/solve.ts";
import { endTarget, reachLimb, swivel } from "./limbReach.ts";
import type { PoseFrame } from "./poseFrame.ts";

/** Where a part shall be. Targets are in the world: metres, unit quaternion; null leaves that side free. */
export interface Goal {
  readonly joint: number;
  /** point in the joint's frame that shall be at `position`; null: the joint itself */
  readonly local: ArrayLike<number> | null;
  readonly position: ArrayLike<number> | null;
  readonly orientation: ArrayLike<number> | null;
  /** must it be kept, or is it wanted as far as what is kept allows? */
  readonly rank: "keep" | "want";
  /** shoulder to hand (thigh to foot) as it was before the edit: stretching up to there asks nothing of the trunk */
  readonly extent: number;
}

/** What the trunk may do for the goals. */
export interface Freedom {
  /** three unit vectors in the world, square to each other [3][3]: the body's left, up and forward, or the world's axes */
  readonly axes: Float64Array;
  /** how readily the body moves along each of them, and how readily the hips turn about each; 0 locked */
  readonly move: readonly [number, number, number];
  readonly hipsTurn: readonly [number, number, number];
  /** joints of the trunk that stay as they are */
  readonly locked: ReadonlySet<number>;
}

const WORLD_AXES = /*@__PURE__*/ Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1);

export const FREE: Freedom = { axes: Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1), move: [0.08, 0.08, 0.08], hipsTurn: [0.12, 0.12, 0.12], locked: new Set() };

/** What is left of each goal: metres and radians. */
export interface Residual {
  readonly position: number;
  readonly orientation: number;
}

/** Comfortable and farthest extension of a limb, shares of its length: in between, limb and trunk share the way. */
const COMFORT = 0.96;
const FARTHEST = 0.9995;
/** How readily other joints turn against a spine joint's 1. */
const COLLAR_TURN = 0.3;
/** Metres that a radian of orientation error counts as. */
const TURN_LEVER = 0.3;
const MOST_ROUNDS = 24;
const LARGEST_TURN = 0.35;
const LARGEST_MOVE = 0.25;
/** Damping of a row: a share of its squared error (m²), over a least one that says how much it gives way to others. */
const DAMPING = 0.02;
const GIVES = { keep: 1e-11, want: 1e-7, comfort: 1e-3 } as const;

interface Turning {
  readonly joint: number;
  /** unit vector in the world */
  readonly axis: Float64Array;
  readonly ready: number;
}

interface Row {
  readonly goal: Goal;
  /** near: a limb's comfortable stretch; limit: its farthest */
  readonly kind: "position" | "orientation" | "near" | "limit";
  readonly limb: RigLimb | null;
  /** joint whose ancestors (and, `self`, itself) move this row */
  readonly joint: number;
  readonly self: boolean;
  stretched: number;
}

/**
 * Whole-body reach of one frame. Limb ends are solved by the analytic two-bone reach, exactly; the trunk (the body's place, hips, spine,
 * neck, collars) serves all goals together by damped least squares in its dual form, x = M·Jᵀ·(J·M·Jᵀ + λ)⁻¹·e with M the readiness of
 * each freedom and λ growing with the error (Levenberg–Marquardt), so that near its straight it does not thrash; where goals are at odds,
 * what is wanted gives way to what must be kept, and a limb's comfort to either. An arm beyond its
 * comfortable stretch asks the trunk to come along, by a smooth share. Bones keep their lengths, since only rotations and the body's
 * place change. A goal at an elbow or knee swivels the limb about the line from its start to its end.
 * Starts from the pose in `frame`, ends with it solved; the result depends on nothing else, so frames cannot chatter.
 * Buss, Introduction to Inverse Kinematics with Jacobian Transpose, Pseudoinverse and Damped Least Squares methods (2004; memory).
 */
export function reachBody(frame: PoseFrame, rig: Rig, goals: readonly Goal[], freedom: Freedom = FREE): Residual[] {
  const limbOf = (goal: Goal): RigLimb | null => rig.limbs[rig.limbBelow[goal.joint]] ?? null;
  const middleOf = (goal: Goal): RigLimb | null => rig.limbs.find((limb) => limb.lower === goal.joint) ?? null;
  solveTrunk(frame, rig, goals, freedom, limbOf, middleOf);
  for (const goal of goals) {
    const limb = limbOf(goal);
    if (limb) reachLimb(frame, limb, goal);
  }
  for (const goal of goals) {
    const limb = middleOf(goal);
    if (limb && goal.position) swivel(frame, limb, goal.position);
  }
  frame.update();
  return goals.map((goal) => residual(frame, goal));
}

const _point = /*@__PURE__*/ new Float64Array(3);
const _a = /*@__PURE__*/ new Float64Array(3);
const _b = /*@__PURE__*/ new Float64Array(3);
const _q = /*@__PURE__*/ new Float64Array(4);

export function residual(frame: PoseFrame, goal: Goal): Residual {
  const { position, orientation } = goal;
  frame.point(_point, goal.joint, goal.local);
  return {
    position: position ? Math.hypot(_point[0] - position[0], _point[1] - position[1], _point[2] - position[2]) : 0,
    orientation: orientation ? quatAngleFlat(frame.worldRotations, goal.joint * 4, orientation as Float64Array, 0) : 0,
  };
}

function solveTrunk(
  frame: PoseFrame,
  rig: Rig,
  goals: readonly Goal[],
  freedom: Freedom,
  limbOf: (goal: Goal) => RigLimb | null,
  middleOf: (goal: Goal) => RigLimb | null,
): void {
  const { parents } = frame.skeleton;
  const rows: Row[] = [];
  const joints = new Set<number>();
  const takeChain = (from: number) => {
    for (let j = from; j >= 0; j = parents[j]) {
      joints.add(j);
      if (j === rig.hips) break;
    }
  };
  for (const goal of goals) {
    const limb = limbOf(goal);
    if (limb) {
      if (!goal.position) continue;
      for (const kind of ["near", "limit"] as const) rows.push({ goal, kind, limb, joint: parents[limb.upper], self: true, stretched: 0 });
      takeChain(parents[limb.upper]);
      continue;
    }
    if (middleOf(goal)) continue;
    const self = goal.local !== null;
    if (goal.position) {
      rows.push({ goal, kind: "position", limb: null, joint: goal.joint, self, stretched: 0 });
      takeChain(self ? goal.joint : parents[goal.joint] >= 0 ? parents[goal.joint] : goal.joint);
    }
    if (goal.orientation) {
      rows.push({ goal, kind: "orientation", limb: null, joint: goal.joint, self: true, stretched: 0 });
      takeChain(goal.joint);
    }
  }
  if (rows.length === 0) return;
  const isAbove = (ancestor: number, joint: number, self: boolean) => {
    for (let j = self ? joint : parents[joint]; j >= 0; j = parents[j]) if (j === ancestor) return true;
    return false;
  };
  const collars = new Set(rig.limbs.map((limb) => limb.collar));
  const turning = [...joints]
    .filter((joint) => !freedom.locked.has(joint))
    .flatMap((joint) =>
      [0, 1, 2].map(
        (a): Turning => ({
          joint,
          axis: (joint === rig.hips ? freedom.axes : WORLD_AXES).subarray(a * 3, a * 3 + 3),
          ready: joint === rig.hips ? freedom.hipsTurn[a] : collars.has(joint) ? COLLAR_TURN : 1,
        }),
      ),
    )
    .filter((t) => t.ready > 0);
  const moving = [0, 1, 2].filter((a) => freedom.move[a] > 0);
  const n = moving.length + turning.length;
  if (n === 0) return;
  const ready = new Float64Array(n);
  moving.forEach((a, i) => {
    ready[i] = freedom.move[a];
  });
  turning.forEach((t, i) => {
    ready[moving.length + i] = t.ready;
  });
  const acts = rows.map((row) => turning.map((t) => isAbove(t.joint, row.joint, row.self)));
  const m = rows.reduce((sum, row) => sum + (row.limb ? 1 : 3), 0);
  const jacobian = new Float64Array(m * n);
  const error = new Float64Array(m);
  const gives = Float64Array.from(rows.flatMap((row) => Array<number>(row.limb ? 1 : 3).fill(row.kind === "near" ? GIVES.comfort : GIVES[row.goal.rank])));
  const normal = new Float64Array(m * m);
  const step = new Float64Array(n);

  for (let round = 0; round < MOST_ROUNDS; round++) {
    frame.update();
    jacobian.fill(0);
    let at = 0;
    let squared = 0;
    rows.forEach((row, r) => {
      at = writeRow(frame, row, at, n, jacobian, error, freedom, moving, turning, acts[r]);
    });
    for (let i = 0; i < m; i++) squared += error[i] * error[i];
    if (squared < 1e-22) return;
    for (let i = 0; i < m; i++) {
      for (let j = 0; j <= i; j++) {
        let sum = i === j ? gives[i] + DAMPING * error[i] * error[i] : 0;
        for (let k = 0; k < n; k++) sum += jacobian[i * n + k] * ready[k] * jacobian[j * n + k];
        normal[i * m + j] = sum;
      }
    }
    if (!solveSymmetricMutable(normal, error, m)) return;
    let largest = 0;
    for (let k = 0; k < n; k++) {
      let sum = 0;
      for (let i = 0; i < m; i++) sum += jacobian[i * n + k] * error[i];
      step[k] = sum * ready[k];
      largest = Math.max(largest, Math.abs(step[k]) / (k < moving.length ? LARGEST_MOVE : LARGEST_TURN));
    }
    const scale = largest > 1 ? 1 / largest : 1;
    applyStep(frame, rig, step, scale, freedom, moving, turning);
    if (largest < 1e-10) return;
  }
  frame.update();
}

function applyStep(
  frame: PoseFrame,
  rig: Rig,
  step: Float64Array,
  scale: number,
  freedom: Freedom,
  moving: readonly number[],
  turning: readonly Turning[],
): void {
  // The axes of one joint stand one behind the other: they are one turn.
  for (let i = 0; i < turning.length; ) {
    const { joint } = turning[i];
    _a.fill(0);
    for (; i < turning.length && turning[i].joint === joint; i++) {
      for (let c = 0; c < 3; c++) _a[c] += step[moving.length + i] * scale * turning[i].axis[c];
    }
    if (_a[0] === 0 && _a[1] === 0 && _a[2] === 0) continue;
    expQuatFlat(_q, 0, _a, 0);
    frame.turnWorld(joint, _q);
  }
  _b.fill(0);
  moving.forEach((axis, i) => {
    for (let c = 0; c < 3; c++) _b[c] += freedom.axes[axis * 3 + c] * step[i] * scale;
  });
  if (moving.length > 0) frame.moveWorld(rig.mover, _b[0], _b[1], _b[2]);
}

/** Writes one goal's error and its derivatives; returns the next free row. */
function writeRow(
  frame: PoseFrame,
  row: Row,
  at: number,
  n: number,
  jacobian: Float64Array,
  error: Float64Array,
  freedom: Freedom,
  moving: readonly number[],
  turning: readonly Turning[],
  acts: readonly boolean[],
): number {
  const { goal } = row;
  const wp = frame.worldPositions;
  if (row.kind === "orientation") {
    conjugateQuatFlat(_q, 0, frame.worldRotations, goal.joint * 4);
    multiplyQuatFlat(_q, 0, goal.orientation as Float64Array, 0, _q, 0);
    logQuatFlat(_a, 0, _q, 0);
    for (let c = 0; c < 3; c++) {
      error[at + c] = _a[c] * TURN_LEVER;
      turning.forEach(({ axis }, t) => {
        if (acts[t]) jacobian[(at + c) * n + moving.length + t] = TURN_LEVER * axis[c];
      });
    }
    return at + 3;
  }
  const target = goal.position as ArrayLike<number>;
  const near = row.limb;
  if (near) frame.point(_point, near.upper, null);
  else frame.point(_point, goal.joint, goal.local);
  if (near) {
    endTarget(_b, frame, near, goal);
    for (let c = 0; c < 3; c++) _a[c] = _b[c] - _point[c];
    const d = Math.hypot(_a[0], _a[1], _a[2]);
    row.stretched = Math.max(row.stretched, d);
    const allowed = row.kind === "limit" ? Math.max(FARTHEST * near.length, goal.extent) : allowedStretch(row.stretched, near.length, goal.extent);
    error[at] = Math.max(0, d - allowed);
    if (error[at] === 0) return at + 1;
    for (let c = 0; c < 3; c++) _a[c] /= d;
  } else for (let c = 0; c < 3; c++) error[at + c] = target[c] - _point[c];
  const rowsHere = near ? 1 : 3;
  for (let c = 0; c < rowsHere; c++) {
    const o = (at + c) * n;
    // Direction that this row measures along: the way to the target, or a world axis.
    const ux = near ? _a[0] : c === 0 ? 1 : 0;
    const uy = near ? _a[1] : c === 1 ? 1 : 0;
    const uz = near ? _a[2] : c === 2 ? 1 : 0;
    moving.forEach((axis, i) => {
      jacobian[o + i] = ux * freedom.axes[axis * 3] + uy * freedom.axes[axis * 3 + 1] + uz * freedom.axes[axis * 3 + 2];
    });
    turning.forEach(({ joint, axis }, t) => {
      if (!acts[t]) return;
      const px = _point[0] - wp[joint * 3];
      const py = _point[1] - wp[joint * 3 + 1];
      const pz = _point[2] - wp[joint * 3 + 2];
      // u · (ω × p) = ω · (p × u)
      jacobian[o + moving.length + t] = axis[0] * (py * uz - pz * uy) + axis[1] * (pz * ux - px * uz) + axis[2] * (px * uy - py * ux);
    });
  }
  return at + rowsHere;
}

/** How far a limb shall end up stretched when its target is `distance` away: comfort first, then ever less of the way to its farthest. */
function allowedStretch(distance: number, length: number, extent: number): number {
  const comfort = Math.max(extent, COMFORT * length);
  if (distance <= comfort) return comfort;
  const room = FARTHEST * length - comfort;
  return room <= 0 ? comfort : comfort + room * (1 - Math.exp(-(distance - comfort) / room));
}
