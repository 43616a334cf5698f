import { readFileSync } from "node:fs";
import { guideTable } from "@stride/motion";
import { expect, it } from "vitest";

it("the guide's table of patches tells of the kinds there are (npm run guide writes it)", () => {
  expect(readFileSync(new URL("../docs/guide.md", import.meta.url), "utf8")).toContain(guideTable());
});
