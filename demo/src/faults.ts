import { axisAngleQuatFlat, type Clip, ClipDraft, multiplyQuatFlat, readPosition, readRotation } from "@stride/motion";
import { normal, seeded } from "./random.ts";
import { about, type Quat, times } from "./turn.ts";

/** Faults of captured data, each as large as said; zero or absent leaves it out. */
export interface Faults {
  readonly seed: number;
  /** travel speed against the true one: 1.12 is 12 % too fast */
  readonly travel?: number;
  /** slow sideways drift, metres a second in x and z */
  readonly drift?: readonly [number, number];
  readonly floorHeight?: number;
  /** degrees about x and z */
  readonly floorTilt?: readonly [number, number];
  /** standard deviation of noise on every joint, degrees */
  readonly jitter?: number;
  /** standard deviation of noise on the root's place, metres along each axis */
  readonly shake?: number;
  /** single frames at which a joint jumps: [frame, joint, degrees] */
  readonly pops?: readonly (readonly [number, number, number])[];
  /** rise and fall of the whole body: amplitude in metres, times a second */
  readonly bob?: readonly [number, number];
  /** stretches of noise on one joint: [start, end, joint, degrees] */
  readonly noisy?: readonly (readonly [number, number, number, number])[];
  /** joints whose rotation drops to zero over a stretch (lost markers): [start, end, joints] */
  readonly dropped?: readonly (readonly [number, number, readonly number[]])[];
}

/** The clip with faults put in; the root is joint 0. Order: noise, pops and drop-outs in the pose, then travel and drift, then the floor. */
export function addFaults(clip: Clip, faults: Faults): Clip {
  const draft = ClipDraft.of(clip);
  const out = draft.clip;
  const random = normal(seeded(faults.seed));
  const { jointCount, frameCount, fps } = clip;
  const disturb = (frame: number, joint: number, degrees: number) => {
    const axis = [random(), random(), random()];
    const length = Math.hypot(axis[0], axis[1], axis[2]) || 1;
    const q = [0, 0, 0, 1];
    axisAngleQuatFlat(q, 0, axis[0] / length, axis[1] / length, axis[2] / length, (degrees * Math.PI) / 180);
    const own = [0, 0, 0, 1];
    readRotation(out, joint, frame, own, 0);
    draft.setRotation(joint, frame, multiplyQuatFlat(own, 0, own, 0, q, 0) as number[]);
  };
  if (faults.jitter) for (let f = 0; f < frameCount; f++) for (let j = 0; j < jointCount; j++) disturb(f, j, faults.jitter * random());
  for (const [start, end, joint, degrees] of faults.noisy ?? []) for (let f = start; f <= end; f++) disturb(f, joint, degrees * random());
  for (const [frame, joint, degrees] of faults.pops ?? []) disturb(frame, joint, degrees);
  for (const [start, end, joints] of faults.dropped ?? []) for (let f = start; f <= end; f++) for (const j of joints) draft.setRotation(j, f, [0, 0, 0, 1]);
  const scale = faults.travel ?? 1;
  const [driftX, driftZ] = faults.drift ?? [0, 0];
  const [tiltX, tiltZ] = faults.floorTilt ?? [0, 0];
  const tilt: Quat = times(about("x", (tiltX * Math.PI) / 180), about("z", (tiltZ * Math.PI) / 180));
  const shaken = normal(seeded(faults.seed + 1000));
  const p = new Float32Array(3);
  readPosition(clip, 0, 0, p, 0);
  const [x0, , z0] = p;
  for (let f = 0; f < frameCount; f++) {
    readPosition(out, 0, f, p, 0);
    p[0] = x0 + (p[0] - x0) * scale + (driftX * f) / fps;
    p[2] = z0 + (p[2] - z0) * scale + (driftZ * f) / fps;
    if (tiltX !== 0 || tiltZ !== 0) {
      const v = rotate(tilt, [p[0], p[1], p[2]]);
      p.set(v);
      const root = [0, 0, 0, 1];
      readRotation(out, 0, f, root, 0);
      draft.setRotation(0, f, multiplyQuatFlat(root, 0, [...tilt], 0, root, 0) as number[]);
    }
    if (faults.shake) for (let i = 0; i < 3; i++) p[i] += faults.shake * shaken();
    if (faults.bob) p[1] += faults.bob[0] * Math.sin((2 * Math.PI * faults.bob[1] * f) / fps);
    p[1] += faults.floorHeight ?? 0;
    draft.setPosition(0, f, p);
  }
  return draft.done();
}

function rotate(q: Quat, v: readonly [number, number, number]): readonly number[] {
  const [x, y, z] = times(times(q, [v[0], v[1], v[2], 0]), [-q[0], -q[1], -q[2], q[3]]);
  return [x, y, z];
}
