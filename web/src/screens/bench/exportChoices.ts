import type { JointNames, KeyTolerance } from "@stride/motion";

/** What kinds of files are called. */
const KINDS: Readonly<Record<string, string>> = {
  ".bvh": "BVH",
  ".glb": "GLB (glTF, binary)",
  ".gltf": "glTF (text)",
  ".vrma": "VRM animation",
  ".vrm": "VRM body",
  ".csv": "CSV (a table of places)",
  ".trc": "TRC (places as markers)",
};

export function kindLabel(ending: string): string {
  return KINDS[ending] ?? ending;
}

/** Kinds of files that can be chosen beside the usual one: a VRM body only where the work came in one. */
export function otherKinds(endings: readonly string[], usual: string): string[] {
  return endings.filter((ending) => ending !== usual && ending !== ".vrm");
}

/** What a kind of file leaves open. */
export type Choice = "names" | "thin" | "points";
const CHOICES: Readonly<Record<string, readonly Choice[]>> = {
  ".bvh": ["names"],
  ".glb": ["names", "thin"],
  ".gltf": ["names", "thin"],
  ".vrma": ["thin"],
  ".vrm": ["thin"],
  ".csv": ["names", "points"],
  ".trc": ["names", "points"],
};

export function choicesOf(ending: string): readonly Choice[] {
  return CHOICES[ending] ?? [];
}

/** What is chosen in the dialog, whatever kind of file it is for. */
export interface Chosen {
  readonly names: JointNames;
  readonly thin: boolean;
  readonly degrees: number;
  readonly millimetres: number;
  /** names of joints and contact points; null: every joint */
  readonly points: readonly string[] | null;
}

export const NOTHING_CHOSEN: Chosen = { names: "own", thin: false, degrees: 0.25, millimetres: 0.5, points: null };

/** What of it the server is asked for: only what the kind of file leaves open and what differs from the usual. */
export function asked(ending: string, chosen: Chosen): { names?: JointNames; thin?: KeyTolerance; points?: string[] } {
  const open = choicesOf(ending);
  return {
    ...(open.includes("names") && chosen.names !== "own" && !chosen.points && { names: chosen.names }),
    ...(open.includes("thin") && chosen.thin && { thin: { degrees: chosen.degrees, metres: chosen.millimetres / 1000 } }),
    ...(open.includes("points") && chosen.points && { points: [...chosen.points] }),
  };
}

/** Why it cannot be written so; null where it can. */
export function problemOf(ending: string, chosen: Chosen): string | null {
  const open = choicesOf(ending);
  if (open.includes("points") && chosen.points?.length === 0) return "Choose at least one point, or write every joint.";
  const { degrees, millimetres } = chosen;
  if (open.includes("thin") && chosen.thin && !(degrees >= 0 && degrees <= 90 && millimetres >= 0 && millimetres <= 1000))
    return "Thinned keys may be off by 0 to 90 degrees and 0 to 1000 millimetres.";
  return null;
}
