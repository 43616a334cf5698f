import { expect, it } from "vitest";
import { versionWords } from "./versionWords.ts";

it("a version is called by its number and name, a save that is none by its revision", () => {
  expect(versionWords({ version: 3, versionName: "before the director saw it", revision: 12 })).toBe("version 3, before the director saw it");
  expect(versionWords({ version: 3, versionName: null, revision: 12 })).toBe("version 3");
  expect(versionWords({ version: null, versionName: null, revision: 12 })).toBe("revision 12");
});
