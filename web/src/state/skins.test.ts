import type { ClipRow } from "@stride/server";
import { describe, expect, it } from "vitest";
import { likelySkins } from "./skins.ts";

const row = (name: string, skin: { bones: string[]; problem?: string } | null | undefined) => ({ name, summary: { skin } }) as unknown as ClipRow;
const names = ["Hips", "Spine", "Head", "HeadEnd"];

describe("skins that a body could wear", () => {
  it("are those whose joints it has, its own file's first", () => {
    const own = row("own", { bones: ["Hips", "Head"] });
    const fits = row("fits", { bones: ["Hips", "Spine", "Head"] });
    const other = row("other", { bones: ["Hips", "Tail"] });
    expect(likelySkins(own, [other, fits], names).map((r) => r.name)).toEqual(["own", "fits"]);
    expect(likelySkins(null, [fits, other], names).map((r) => r.name)).toEqual(["fits"]);
  });

  it("are none that have no surface, or one that cannot be read", () => {
    const broken = row("broken", { bones: [], problem: "compressed" });
    expect(likelySkins(row("bvh", null), [broken, row("old", undefined)], names)).toEqual([]);
  });
});
