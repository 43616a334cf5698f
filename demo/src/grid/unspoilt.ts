import { Evaluator, emptyWork, findingsOf, measure, oneSource, readMotion } from "@stride/motion";
import type { Made } from "../rolling/made.ts";
import { type Hand, rolledText } from "../rolling/text.ts";
import { actCases } from "./acts.ts";
import { drawnCases } from "./drawn.ts";
import { fourActCases, gaitCases } from "./gaits.ts";
import { rolledCases } from "./rolled.ts";
import { wayCases } from "./ways.ts";

/** A motion with nothing wrong, and how its file is written. */
export interface UnspoiltCase {
  readonly name: string;
  readonly perform: () => Made;
  readonly hand: Hand;
}

/** How much is said to be wrong with it, and what. */
export interface UnspoiltFigures {
  readonly name: string;
  readonly found: number;
  readonly findings: string;
}

/** Every motion of the other make as it is before anything is put wrong, once at each rate: walks, gaits, acts, so many of those drawn at random, and those on other grounds, but for rough ones and edges that feet stand across: there soles are truly off the ground. */
export function unspoiltCases(drawn: number): UnspoiltCase[] {
  const acts = actCases().map(({ act, ...rest }) => ({ ...rest, perform: () => act }));
  const ways = wayCases().filter(({ name }) => !/rough|and level/.test(name));
  const all = [...rolledCases(), ...gaitCases(), ...ways, ...acts, ...fourActCases(), ...drawnCases(0, drawn)];
  const known = new Set<string>();
  return all.flatMap(({ name, perform, hand }) => {
    const parts = name.split(", ");
    const at = parts.findIndex((part) => /^\d+$/.test(part));
    const bare = parts.slice(0, name.startsWith("drawn") ? at + 1 : at + 2).join(", ");
    const key = `${bare} ${hand.unit}`;
    if (known.has(key)) return [];
    known.add(key);
    return [{ name: bare, perform, hand }];
  });
}

export function unspoiltFigures({ name, perform, hand }: UnspoiltCase): UnspoiltFigures {
  const made = perform();
  const file = readMotion(new TextEncoder().encode(rolledText(made, made.turns, made.roots, hand)), { fileName: "made.bvh" });
  const { base } = new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: [] });
  const findings = findingsOf(base, measure(base));
  return { name, found: findings.length, findings: findings.map(({ title }) => title).join("; ") };
}
