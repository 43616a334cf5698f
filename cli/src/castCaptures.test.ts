import { readFileSync } from "node:fs";
import { join } from "node:path";
import {
  bakedOnto,
  characterIn,
  clipWorld,
  DEFAULT_RECIPE,
  Evaluator,
  emptyWork,
  groundHeight,
  legLengthOf,
  type Motion,
  measure,
  oneSource,
  readMotion,
  sourceOf,
} from "@stride/motion";
import { describe, expect, it } from "vitest";

/** Open captures, as shipped in Debian's package assimp-testmodels (see captures.test.ts). */
const captured = (name: string) => {
  const file = readMotion(readFileSync(`/usr/share/assimp/models/BVH/${name}.bvh`), { fileName: `${name}.bvh` });
  return new Evaluator(oneSource(file.skeleton, file.clip)).evaluate({ ...emptyWork(), patches: DEFAULT_RECIPE.patches }).result;
};
const body = (id: string) => {
  const fileName = `${id}.glb`;
  return characterIn(sourceOf(readMotion(readFileSync(join(import.meta.dirname, "../../demo/bodies", fileName)), { fileName }), fileName));
};

/** How far each planted joint strays over the middle of its contact, cm, p95 over all contacts. */
function slideP95({ character, clip, points, contacts }: Motion): number {
  const { positions, jointCount } = clipWorld(character.skeleton, clip);
  const strays = contacts.flatMap(({ point, start, end }) => {
    const joint = points.find((p) => p.id === point && p.modelled && p.bears)?.named;
    const [a, b] = [Math.ceil(start + 0.3 * (end - start)), Math.floor(start + 0.7 * (end - start))];
    if (joint === undefined || b - a < 2) return [];
    const at = (f: number, i: number) => positions[(f * jointCount + joint) * 3 + i];
    const middle = (a + b) >> 1;
    let most = 0;
    for (let f = a; f <= b; f++) most = Math.max(most, 100 * Math.hypot(at(f, 0) - at(middle, 0), at(f, 2) - at(middle, 2)));
    return [most];
  });
  strays.sort((a, b) => a - b);
  return strays[Math.floor(0.95 * (strays.length - 1))] ?? 0;
}

describe.each(["01_01", "01_03", "Boxing_Toes"])("the capture %s", (name) => {
  const source = captured(name);

  it.each(["ina", "osk", "pim"])("cast onto %s keeps its feet still and over the floor", (id) => {
    const { motion } = bakedOnto(source, body(id));
    const scale = legLengthOf(motion.character) / legLengthOf(source.character);
    expect(motion.contacts.length).toBeGreaterThan(4);
    expect(slideP95(motion)).toBeLessThan(0.2 * Math.max(1, scale));
    const { positions, jointCount } = clipWorld(motion.character.skeleton, motion.clip);
    const under = motion.points
      .filter((p) => p.bears && p.modelled)
      .flatMap(({ named }) =>
        Array.from({ length: motion.clip.frameCount }, (_, f) => {
          const o = (f * jointCount + named) * 3;
          return 100 * (groundHeight(motion.ground, positions[o], positions[o + 2]) - positions[o + 1]);
        }),
      )
      .sort((a, b) => a - b);
    expect(under[under.length - 1]).toBeLessThan(0.2);
    // Nothing pops where nothing did: only moments at which the capture itself jumps.
    const pops = (m: Motion, beyond: number) => measure(m).pops.filter((e) => e.value > beyond);
    // What two joints of a neck jump by adds up where there is one: 14.2° of the capture's 7° each, once.
    const known = pops(source, 6).map((e) => e.start);
    const own = pops(motion, 15).filter(({ start }) => !known.some((frame) => Math.abs(frame - start) <= 1));
    // A goat that boxes on its hind legs, its fore legs for arms, reaches further than they do a few times.
    expect(own.length).toBeLessThanOrEqual(id === "pim" ? 3 : 0);
  });
});
