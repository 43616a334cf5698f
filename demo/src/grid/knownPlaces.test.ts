import { readMotion } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { spoiled } from "../rolling/spoil.ts";
import { rolledText } from "../rolling/text.ts";
import { bestByPlaces } from "./knownPlaces.ts";
import { rolledCases } from "./rolled.ts";

/** What one who knows every place finds of a clip whose joints tremble by so many degrees. */
function found(name: string, trembles: number): number {
  const one = rolledCases().find((c) => c.name === name);
  if (!one) throw new Error(`no clip ${name}`);
  const made = one.perform();
  const read = (turns: Parameters<typeof rolledText>[1]) =>
    readMotion(new TextEncoder().encode(rolledText(made, turns, made.roots, one.hand)), { fileName: "made.bvh" });
  const truth = read(made.turns);
  return bestByPlaces(made, truth.skeleton, truth.clip, read(spoiled(made, { trembles }, 5).turns).clip, 1);
}

describe("one who knows every place", () => {
  it("finds nearly all of a clip that does not tremble, and the less the more it does", () => {
    const [clean, little, much] = [0, 0.2, 1].map((degrees) => found("rolled, 25, run, clean", degrees));
    expect(clean).toBeGreaterThan(0.975);
    expect(little).toBeLessThan(clean);
    expect(much).toBeLessThan(little - 0.02);
  });

  it("is told less by quick stands than by slow ones", () => {
    expect(found("rolled, 25, run, clean", 0.5)).toBeLessThan(found("rolled, 60, slow, clean", 0.5));
  });
});
