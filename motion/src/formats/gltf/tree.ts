import { MotionFormatError, quoted } from "../errors.ts";
import type { Gltf, GltfNode } from "./document.ts";

/** A node's own place at rest: translation in its parent's units, rotation [x, y, z, w], and scale. */
export interface NodeRest {
  readonly translation: readonly [number, number, number];
  readonly rotation: readonly [number, number, number, number];
  readonly scale: readonly [number, number, number];
}

/** Nodes that make a body move, parents first. */
export interface JointTree {
  /** [joint] the node that it is */
  readonly nodes: readonly number[];
  /** [joint] its parent's joint; −1 for a root */
  readonly parents: readonly number[];
  /** [joint] a name of its own */
  readonly names: readonly string[];
  readonly rest: readonly NodeRest[];
  /** [joint] metres (or what the file takes for them) a unit of the space that its translation is in: the scales of all above it */
  readonly unit: Float64Array;
  readonly warnings: readonly string[];
}

/** Scales that differ by less than this share are even. */
const EVEN = 1e-3;

/**
 * The joints of a document: those of its skins and those that `moved` names, whatever stands above them and between them, and what hangs under them without being drawn
 * itself (ends, sockets). Without skins or movement every node. Throws MotionFormatError for nodes that are not there, have two parents or stand under themselves.
 */
export function jointTree(doc: Gltf, moved: readonly number[], fileName: string): JointTree {
  const fail = (problem: string) => new MotionFormatError(problem, 0, fileName);
  const { nodes } = doc;
  if (nodes.length === 0) throw fail("it has no nodes, so there is no body in it");
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach(({ children = [] }, node) => {
    for (const child of children) {
      if (child >= nodes.length) throw fail(`node ${node} has a child ${child}, which is not there`);
      if (parent[child] >= 0 || child === node) throw fail(`node ${child} has two parents, or is its own`);
      parent[child] = node;
    }
  });
  const wanted = new Uint8Array(nodes.length);
  const add = (node: number, by: string) => {
    if (node >= nodes.length) throw fail(`${by} names node ${node}, which is not there`);
    for (let n = node, steps = 0; n >= 0 && wanted[n] === 0; n = parent[n]) {
      wanted[n] = 1;
      if (++steps > nodes.length) throw fail(`node ${node} stands under itself`);
    }
  };
  doc.skins.forEach((skin, i) => {
    for (const joint of skin.joints) add(joint, `skin ${i}`);
  });
  for (const node of moved) add(node, "an animation");
  if (!wanted.includes(1)) for (const node of nodes.keys()) add(node, "the file");
  // Parents first, in the order of the file: roots, then down. A ring has no root and is never come to.
  const order: number[] = [];
  const stack = [...nodes.keys()].filter((n) => parent[n] < 0).reverse();
  let seen = 0;
  for (let node = stack.pop(); node !== undefined; node = stack.pop()) {
    seen++;
    const { mesh, camera, children = [] } = nodes[node];
    if (wanted[node] === 0 && parent[node] >= 0 && wanted[parent[node]] === 1 && mesh === undefined && camera === undefined) wanted[node] = 1;
    if (wanted[node] === 1) order.push(node);
    for (const child of [...children].reverse()) stack.push(child);
  }
  if (seen < nodes.length) throw fail("some of its nodes stand under each other in a ring");
  return described(nodes, order, parent);
}

function described(nodes: readonly GltfNode[], order: readonly number[], parent: Int32Array): JointTree {
  const jointOf = new Map(order.map((node, joint) => [node, joint]));
  const warnings: string[] = [];
  const rest = order.map((node) => restOfNode(nodes[node]));
  const parents = order.map((node) => (parent[node] < 0 ? -1 : (jointOf.get(parent[node]) ?? -1)));
  const unit = new Float64Array(order.length);
  order.forEach((node, joint) => {
    const above = parents[joint];
    unit[joint] = above < 0 ? 1 : unit[above] * mean(rest[above].scale);
    const [x, y, z] = rest[joint].scale;
    if (Math.max(x, y, z) - Math.min(x, y, z) > EVEN * Math.abs(mean(rest[joint].scale)))
      warnings.push(`${quoted(nodes[node].name ?? `node ${node}`)} is scaled unevenly (${x}, ${y}, ${z}); what hangs under it is placed as if evenly`);
  });
  return { nodes: order, parents, names: ownNames(order.map((node) => nodes[node].name ?? `node ${node}`)), rest, unit, warnings };
}

/** Names as they are, those that come again with a number behind them. */
function ownNames(names: readonly string[]): string[] {
  const taken = new Map<string, number>();
  const all = new Set(names);
  return names.map((name) => {
    const times = taken.get(name) ?? 0;
    taken.set(name, times + 1);
    if (times === 0) return name;
    let n = times + 1;
    while (all.has(`${name}_${n}`)) n++;
    all.add(`${name}_${n}`);
    return `${name}_${n}`;
  });
}

function mean([x, y, z]: readonly [number, number, number]): number {
  return (x + y + z) / 3;
}

export function restOfNode({ translation, rotation, scale, matrix }: GltfNode): NodeRest {
  if (matrix) return fromMatrix(matrix);
  const [x, y, z, w] = rotation ?? [0, 0, 0, 1];
  const size = Math.hypot(x, y, z, w) || 1;
  return {
    translation: (translation ?? [0, 0, 0]) as [number, number, number],
    rotation: [x / size, y / size, z / size, w / size],
    scale: (scale ?? [1, 1, 1]) as [number, number, number],
  };
}

/** A matrix (columns one after another) as translation, rotation and scale; glTF 2.0 allows none with shear. */
function fromMatrix(m: readonly number[]): NodeRest {
  const length = (c: number) => Math.hypot(m[c], m[c + 1], m[c + 2]);
  const determinant = m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5]);
  const scale: [number, number, number] = [length(0) * (determinant < 0 ? -1 : 1) || 1, length(4) || 1, length(8) || 1];
  const r = [0, 4, 8].flatMap((c, i) => [m[c] / scale[i], m[c + 1] / scale[i], m[c + 2] / scale[i]]);
  // Rotation matrix → quaternion, by its largest part (Shepperd 1978); r is by columns.
  const trace = r[0] + r[4] + r[8];
  let q: [number, number, number, number];
  if (trace > 0) q = [r[5] - r[7], r[6] - r[2], r[1] - r[3], 1 + trace];
  else if (r[0] > r[4] && r[0] > r[8]) q = [1 + r[0] - r[4] - r[8], r[3] + r[1], r[6] + r[2], r[5] - r[7]];
  else if (r[4] > r[8]) q = [r[3] + r[1], 1 + r[4] - r[0] - r[8], r[7] + r[5], r[6] - r[2]];
  else q = [r[6] + r[2], r[7] + r[5], 1 + r[8] - r[0] - r[4], r[1] - r[3]];
  const size = Math.hypot(...q) || 1;
  return { translation: [m[12], m[13], m[14]], rotation: q.map((v) => v / size) as [number, number, number, number], scale };
}
