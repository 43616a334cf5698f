import { framesWithin } from "./made.ts";
import { applied, cross, dot, fromAxes, type Mat, minus, plus, product, SAME, scaled, transposed, turn, unit, type Vec } from "./matrix.ts";
import { bentAt, bonesOf, LEGS, legBone, PARENTS, type Rolled, type RollingBody } from "./walker.ts";

/** Where a hand is: its wrist, its turn, and which way its elbow points. */
interface HandPose {
  readonly wrist: Vec;
  readonly palm: Mat;
  readonly elbow: Vec;
}

/** Where a foot is: its ball, its turn, how far its toes bend up (radians), and which way its knee points. */
export interface FootPose {
  readonly ball: Vec;
  readonly sole: Mat;
  readonly toes: number;
  readonly knee: Vec;
}

/** A body at a moment: place and turn of its hips, how its spine bends on the way to the chest, and its four limbs: a hand or foot that goes nowhere hangs. */
interface ActPose {
  readonly hips: Vec;
  readonly turned: Mat;
  readonly spine?: Mat;
  readonly hands?: (side: number, shoulder: Vec) => HandPose | null;
  readonly feet?: (side: number) => FootPose | null;
  /** how far legs that hang are turned at the hip, and bent at the knee (radians) */
  readonly hang?: (side: number) => Mat;
  readonly bent?: number;
}

/** Something a body does with other parts than its feet, and what of it rests from when to when, seconds. */
export interface Act {
  readonly name: string;
  readonly seconds: number;
  readonly pose: (t: number) => ActPose;
  readonly rests: readonly (readonly [part: string, from: number, to: number])[];
  /** parts that lie still besides, of which nothing says when they carry */
  readonly besides?: readonly string[];
  /** do its feet carry it, so that ground and travel are read off them? */
  readonly byFeet: boolean;
}

/** An act as joints move: hands and feet are brought where they belong by the law of cosines. Like the walks of this folder it shares no computation with what is measured on it. */
export function performed(body: RollingBody, { seconds, pose, rests }: Act, fps: number): Rolled {
  const { height: h } = body;
  const { thigh, shin, ball, hips: sockets, offsets, ends } = bonesOf(body);
  const frames = Math.round(seconds * fps) + 1;
  const turns: Mat[][] = [];
  const roots: Vec[] = [];
  for (let f = 0; f < frames; f++) {
    const { hips, turned, spine = SAME, hands, feet, hang, bent = 0.15 } = pose(f / fps);
    const local: Mat[] = PARENTS.map(() => SAME);
    local[0] = turned;
    local[1] = spine;
    const chest = product(turned, spine);
    const chestPlace = plus(plus(hips, applied(turned, offsets[1])), applied(chest, offsets[2]));
    for (const side of [0, 1]) {
      const way = side === 0 ? 1 : -1;
      const [arm, forearm, hand] = [13, 14, 15].map((j) => j + 3 * side);
      const shoulder = plus(chestPlace, applied(chest, offsets[arm]));
      const to = hands?.(side, shoulder);
      if (to) {
        const ahead = unit(minus(to.wrist, shoulder));
        const out = unit(minus(to.elbow, scaled(ahead, dot(to.elbow, ahead))));
        const elbow = bentAt(shoulder, to.wrist, 0.16 * h, 0.14 * h, out);
        const bone = (from: Vec, at: Vec): Mat => {
          const x = scaled(unit(minus(at, from)), way);
          const z = unit(cross(x, out));
          return fromAxes(x, cross(z, x), z);
        };
        const [a, b] = [bone(shoulder, elbow), bone(elbow, to.wrist)];
        local[arm] = product(transposed(chest), a);
        local[forearm] = product(transposed(a), b);
        local[hand] = product(transposed(b), to.palm);
      } else local[arm] = turn("z", -way * 1.3);
      const foot = feet?.(side);
      const [upper, lower, end, toe] = LEGS[side];
      if (foot) {
        const ankle = minus(foot.ball, applied(foot.sole, ball));
        const socket = plus(hips, applied(turned, sockets[side]));
        const down = unit(minus(ankle, socket));
        const front = unit(minus(foot.knee, scaled(down, dot(foot.knee, down))));
        const knee = bentAt(socket, ankle, thigh, shin, front);
        const [a, b] = [legBone(socket, knee, front), legBone(knee, ankle, front)];
        local[upper] = product(transposed(turned), a);
        local[lower] = product(transposed(a), b);
        local[end] = product(transposed(b), foot.sole);
        local[toe] = turn("x", -foot.toes);
      } else {
        local[upper] = hang?.(side) ?? SAME;
        local[lower] = turn("x", bent);
      }
    }
    turns.push(local);
    roots.push(hips);
  }
  const contacts = rests.flatMap(([point, from, to]) => framesWithin(from, to, fps, frames).map((span) => ({ point, ...span })));
  return { body, joints: body.joints, parents: PARENTS, legs: LEGS, fps, offsets, ends, turns, roots, contacts };
}
