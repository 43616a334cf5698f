import type { RigidMove } from "../clip/roots.ts";
import { axisAngleQuatFlat } from "../math/quat.ts";

/** A rigid movement of an upright world: turned by `yaw` (radians about +Y) about the origin, then moved, metres. */
export interface LevelMove {
  readonly yaw: number;
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

export const NO_MOVE: LevelMove = { yaw: 0, x: 0, y: 0, z: 0 };

/** A level direction turned by an angle about +Y: x and z. */
export function turnedLevel(x: number, z: number, yaw: number): [number, number] {
  const [c, s] = [Math.cos(yaw), Math.sin(yaw)];
  return [c * x + s * z, c * z - s * x];
}

/** `second` after `first`. */
export function afterMove(first: LevelMove, second: LevelMove): LevelMove {
  const [x, z] = turnedLevel(first.x, first.z, second.yaw);
  return { yaw: first.yaw + second.yaw, x: x + second.x, y: first.y + second.y, z: z + second.z };
}

export function inverseMove(move: LevelMove): LevelMove {
  const [x, z] = turnedLevel(-move.x, -move.z, -move.yaw);
  return { yaw: -move.yaw, x, y: -move.y, z };
}

/** Turns below this are none: their centre lies too far off to be told, radians. */
const LEAST_TURN = 1e-7;

/**
 * A movement `share` times over; parts of it lie on the arc about the centre that it turns about (a straight line where it does not turn).
 */
export function movePower(move: LevelMove, share: number): LevelMove {
  const y = share * move.y;
  if (Math.abs(move.yaw) < LEAST_TURN) return { yaw: share * move.yaw, x: share * move.x, y, z: share * move.z };
  // The place c that stays: c = R·c + d, so c = (I − R)⁻¹·d.
  const [a, b] = [1 - Math.cos(move.yaw), Math.sin(move.yaw)];
  const det = a * a + b * b;
  const [cx, cz] = [(a * move.x + b * move.z) / det, (a * move.z - b * move.x) / det];
  const [rx, rz] = turnedLevel(cx, cz, share * move.yaw);
  return { yaw: share * move.yaw, x: cx - rx, y, z: cz - rz };
}

/** The same as the movement of bodies takes it: shifted first, then turned. */
export function rigidOf(move: LevelMove): RigidMove {
  const [x, z] = turnedLevel(move.x, move.z, -move.yaw);
  return { shift: [x, move.y, z], turn: move.yaw === 0 ? null : (axisAngleQuatFlat(new Float64Array(4), 0, 0, 1, 0, move.yaw) as Float64Array) };
}

/** An angle brought into −π..π. */
export function wrapped(angle: number): number {
  return angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));
}
