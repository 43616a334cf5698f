import { identityRest, type Skeleton } from "@stride/motion";
import { buildBiped, type Character } from "../characters.ts";

/** A body of another height and breadth, its trunk and neck of so many joints. */
export function bodyOf(height: number, breadth: number, spine: number, neck: number): Character {
  const body = buildBiped(`body ${height}`, "Body", { height, breadth, fingers: true, toes: true });
  return { ...body, skeleton: withJoints(body.skeleton, spine, neck) };
}

/** The same bones with the way from hips to chest, and from neck to head, in so many pieces. */
function withJoints(skeleton: Skeleton, spine: number, neck: number): Skeleton {
  const { names, parents, offsets } = skeleton;
  const at = (name: string) => names.indexOf(name);
  const offset = (joint: number) => [...offsets.subarray(joint * 3, joint * 3 + 3)];
  const sum = (...joints: string[]) => [0, 1, 2].map((c) => joints.reduce((s, name) => s + offsets[at(name) * 3 + c], 0));
  const out: { name: string; parent: string | null; offset: number[] }[] = [];
  const trunk = sum("Spine", "SpineMid", "Chest").map((v) => v / (spine + 1));
  const collar = offset(at("Neck"));
  const nape = offset(at("Head")).map((v) => v / neck);
  out.push({ name: "Hips", parent: null, offset: offset(0) });
  const chain = ["Hips", ...Array.from({ length: spine }, (_, i) => (i === 0 ? "Spine" : `Spine${i}`)), "Chest"];
  chain.slice(1).forEach((name, i) => {
    out.push({ name, parent: chain[i], offset: trunk });
  });
  const throat = Array.from({ length: neck }, (_, i) => (i === 0 ? "Neck" : `Neck${i}`));
  throat.forEach((name, i) => {
    out.push({ name, parent: i === 0 ? "Chest" : throat[i - 1], offset: i === 0 ? collar : nape });
  });
  out.push({ name: "Head", parent: throat[throat.length - 1], offset: nape });
  names.forEach((name, j) => {
    if (/^(Left|Right)/.test(name)) out.push({ name, parent: names[parents[j]], offset: offset(j) });
  });
  const place = new Map(out.map(({ name }, i) => [name, i]));
  return {
    names: out.map(({ name }) => name),
    parents: Int16Array.from(out, ({ parent }) => (parent === null ? -1 : (place.get(parent) as number))),
    offsets: Float64Array.from(out.flatMap((joint) => joint.offset)),
    restRotations: identityRest(out.length),
    tips: skeleton.tips.map(({ joint, offset: tip }) => ({ joint: place.get(names[joint]) as number, offset: tip })),
  };
}
