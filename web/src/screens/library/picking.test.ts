import type { ClipRow } from "@stride/server";
import { describe, expect, it } from "vitest";
import { renamed, renamingProblem, retagged, tagsIn } from "./renaming.ts";
import { allPicked, NOTHING_PICKED, picked } from "./selection.ts";

const shown = ["a", "b", "c", "d", "e"];

describe("picking clips", () => {
  it("takes one in and out, and with Shift all between it and the last one", () => {
    const one = picked(NOTHING_PICKED, "b", shown, false);
    expect([...one.ids]).toEqual(["b"]);
    expect([...picked(one, "d", shown, true).ids]).toEqual(["b", "c", "d"]);
    expect([...picked(one, "a", shown, true).ids].sort()).toEqual(["a", "b"]);
    expect([...picked(one, "b", shown, false).ids]).toEqual([]);
    // The last one is not in sight any more: it is this one alone.
    expect([...picked({ ids: new Set(["x"]), last: "x" }, "c", shown, true).ids]).toEqual(["x", "c"]);
    expect(allPicked(shown).ids.size).toBe(5);
  });
});

describe("names by a template", () => {
  const clip = (id: string, name: string, folder = ""): ClipRow => ({ id, name, folder, tags: ["Ina", "walk"], summary: { fps: 29.97 } }) as unknown as ClipRow;
  const clips = Array.from({ length: 12 }, (_, i) => clip(`c${i}`, `Take ${i}`, "shift 3/takes"));

  it("hold the clip's own, its character, folder and rate, and numbers of one length", () => {
    const names = renamed(clips, { prefix: "SH_", template: "{character}_{folder}_{n}", suffix: "_v1", from: 1 });
    expect([names[0], names[11]]).toEqual([
      { id: "c0", name: "SH_Ina_takes_01_v1" },
      { id: "c11", name: "SH_Ina_takes_12_v1" },
    ]);
    expect(renamed([clips[0]], { prefix: "", template: "{name} {fps}", suffix: "", from: 5 })[0].name).toBe("Take 0 30");
  });

  it("are refused where one would be there twice or is too long", () => {
    const plan = (template: string) => renamingProblem(renamed(clips, { prefix: "", template, suffix: "", from: 1 }));
    expect(plan("{name}")).toBeNull();
    expect(plan("Walk")).toBe("“Walk” would be there twice; put {n} or {name} in");
    expect(plan(`{n}${"x".repeat(200)}`)).toMatch(/is longer than 200 characters/);
  });

  it("tags are added and taken off, each once", () => {
    expect(retagged(["Ina", "walk"], ["walk", "night"], ["Ina"])).toEqual(["walk", "night"]);
    expect(tagsIn(" night,, quay , night")).toEqual(["night", "quay"]);
  });
});
