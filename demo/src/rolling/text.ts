import type { Made } from "./made.ts";
import { type Axis, anglesOf, type Mat, type Vec } from "./matrix.ts";

/** How a motion is written: the order of its angles, and how many of its units are a metre. */
export interface Hand {
  readonly order: readonly [Axis, Axis, Axis];
  readonly unit: number;
}

/** A motion as a BVH file: six decimals, as most such files have. */
export function rolledText(
  { joints, parents, fps, offsets, ends }: Made,
  turns: readonly (readonly Mat[])[],
  roots: readonly Vec[],
  { order, unit }: Hand,
): string {
  const lines = ["HIERARCHY"];
  const written: number[] = [];
  const vector = (v: Vec) => v.map((c) => (c * unit).toFixed(6)).join(" ");
  const angles = order.map((axis) => `${axis.toUpperCase()}rotation`).join(" ");
  const put = (joint: number, indent: string) => {
    written.push(joint);
    lines.push(`${indent}${joint === 0 ? "ROOT" : "JOINT"} ${joints[joint]}`, `${indent}{`, `${indent}\tOFFSET ${vector(offsets[joint])}`);
    lines.push(joint === 0 ? `\tCHANNELS 6 Xposition Yposition Zposition ${angles}` : `${indent}\tCHANNELS 3 ${angles}`);
    parents.forEach((parent, child) => {
      if (parent === joint) put(child, `${indent}\t`);
    });
    const end = ends.get(joint);
    if (end) lines.push(`${indent}\tEnd Site`, `${indent}\t{`, `${indent}\t\tOFFSET ${vector(end)}`, `${indent}\t}`);
    lines.push(`${indent}}`);
  };
  put(0, "");
  lines.push("MOTION", `Frames: ${turns.length}`, `Frame Time: ${(1 / fps).toFixed(8)}`);
  turns.forEach((local, f) => {
    const degrees = written.flatMap((joint) => anglesOf(local[joint], order).map((a) => ((a * 180) / Math.PI).toFixed(6)));
    lines.push(`${vector(roots[f])} ${degrees.join(" ")}`);
  });
  return `${lines.join("\n")}\n`;
}
