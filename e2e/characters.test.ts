import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import { join } from "node:path";
import { type Document, NodeIO } from "@gltf-transform/core";
import { INA, OSK } from "@stride/demo";
import type { Download, Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { verdict } from "../motion/src/testing/gltfChecks.ts";
import { useBrowserTest } from "./fixture.ts";
import { addFromMenu, chooseCharacter, newPage, openClip, settled } from "./harness.ts";

const test = useBrowserTest();
const handModel = createRequire(import.meta.url).resolve("@webxr-input-profiles/assets/dist/profiles/generic-hand/left.glb");
const bodyFile = (id: string) => join(import.meta.dirname, "../demo/bodies", `${id}.glb`);

/** Writes the result and reads the file as another reader of the format has it. */
async function written(page: Page, fps?: number): Promise<{ document: Document; bytes: Uint8Array; name: string }> {
  await page.getByRole("button", { name: "Export…" }).click();
  const dialog = page.getByRole("dialog");
  if (fps !== undefined) await dialog.getByRole("button", { name: String(fps), exact: true }).click();
  await dialog.getByLabel("a note of the measured results (JSON)").uncheck();
  const [download]: [Download, void] = await Promise.all([page.waitForEvent("download"), dialog.getByRole("button", { name: "Write file" }).click()]);
  const bytes = new Uint8Array(readFileSync(await download.path()));
  return { document: await new NodeIO().readBinary(bytes), bytes, name: download.suggestedFilename() };
}

const meshOf = (document: Document) =>
  document
    .getRoot()
    .listMeshes()[0]
    .listPrimitives()
    .map((p) => p.getAttribute("POSITION")?.getCount());
const turnsOf = (document: Document, joint: string) => {
  const channel = document
    .getRoot()
    .listAnimations()[0]
    .listChannels()
    .find((c) => c.getTargetNode()?.getName() === joint && c.getTargetPath() === "rotation");
  const sampler = channel?.getSampler();
  return { times: [...(sampler?.getInput()?.getArray() ?? [])], values: [...(sampler?.getOutput()?.getArray() ?? [])] };
};

describe("characters", () => {
  it("stand on their skins with what is read of them; another body comes in, a broken one is told", async () => {
    const { page, context, errors } = await newPage(test.browser, undefined, "skin");
    await page.goto(test.server.url);
    await page.getByRole("link", { name: "Characters" }).click();
    const list = page.getByRole("navigation", { name: "Characters" });
    await expect.poll(() => list.getByRole("button").count()).toBe(3);
    await page.locator("canvas[data-drawn=yes]").waitFor();
    // The map as the body was built, with the open standards' names beside it.
    const row = (part: string) => page.getByRole("row").filter({ has: page.getByRole("button", { name: part, exact: true }) });
    await expect.poll(() => row("Left thigh").innerText()).toMatch(/LeftThigh[\s\S]*leftUpperLeg[\s\S]*l_hip/);
    const parts = await page.getByRole("row").count();
    expect(parts).toBe(Object.keys(INA.roles).length + 1);
    // Its thigh is the table's share of its height.
    await page.getByRole("tab", { name: "Lengths" }).click();
    await expect.poll(() => page.getByRole("row", { name: /^Thigh/ }).innerText()).toMatch(/42\.1 cm[\s\S]*24\.5 %[\s\S]*24\.5 %/);
    await list.getByRole("button", { name: /^Pim/ }).click();
    await page.getByText(/pim\.glb, on four legs, a skin of [\d,]+ vertices on 26 bones/).waitFor();
    await page.getByRole("tab", { name: "Body map" }).click();
    await row("Left hind leg, upper").waitFor();
    // A click on the skin points out the part in the table.
    await page
      .getByRole("radio", { name: "Side" })
      .or(page.getByRole("button", { name: "Side" }))
      .first()
      .click();
    const box = await page.locator("canvas[data-drawn=yes]").boundingBox();
    if (!box) throw new Error("no view");
    await expect
      .poll(async () => {
        await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.45);
        return page.locator("tr[data-picked=true]").count();
      })
      .toBe(1);

    const bytes = readFileSync(handModel);
    await page.getByLabel("Bodies to bring in").setInputFiles([
      { name: "glove.glb", mimeType: "model/gltf-binary", buffer: bytes },
      { name: "cut off.glb", mimeType: "model/gltf-binary", buffer: bytes.subarray(0, 5000) },
    ]);
    await page.getByText(/cut off\.glb.*the file is cut off/).waitFor();
    await expect.poll(() => list.getByRole("button").count()).toBe(4);
    await page.getByText(/glove\.glb.*a skin of [\d,]+ vertices on 25 bones/).waitFor();
    // Bodies are no clips.
    await page.getByRole("link", { name: "Library" }).click();
    await page.getByRole("button", { name: /^All 16/ }).waitFor();
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("a hand-over", () => {
  it("is a range of a cleaned walk on the game's body, 30 samples a second, in that body's own file; and looked at on a second body first", async () => {
    const { page, context, errors } = await newPage(test.browser, undefined, "skin");
    await openClip(page, test.server.url, "Porter, late for the ferry");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await addFromMenu(page, "Cast");
    await chooseCharacter(page, "Ina");
    const outcome = page.getByRole("table", { name: "How it came out" });
    await expect.poll(() => outcome.getByRole("row", { name: /Legs, arms/ }).innerText()).toMatch(/1\.00 ×, 1\.00 ×/);
    expect(await outcome.innerText()).toMatch(/Hands\s+Nearest, f \d+\s+([\d.]+) cm, was \1 cm/);
    await chooseCharacter(page, "Osk");
    // How it came out: feet still, arms longer than before.
    await expect.poll(() => outcome.getByRole("row", { name: /Legs, arms/ }).innerText()).toMatch(/1\.08 ×, 1\.0\d ×/);
    for (const point of ["Left heel", "Left toe", "Right heel", "Right toe"])
      expect(await outcome.getByRole("row", { name: new RegExp(`^${point} (slides|stays)`) }).innerText()).toMatch(/stays|slides 0\.[12] cm, f \d+/);
    await page.getByText(/what has no partner on this body stays behind: the fingers$/).waitFor();
    // Drawn on the diver's skin: three looks of one key.
    await page
      .getByRole("radio", { name: "Skin" })
      .or(page.getByRole("button", { name: "Skin", exact: true }))
      .first()
      .waitFor();
    await page.getByRole("heading", { name: "Findings" }).click();
    await page.keyboard.press("w");
    await expect.poll(() => page.evaluate(() => localStorage.getItem("stride-look"))).toBe("bones");

    const { document, bytes, name } = await written(page, 30);
    expect(name).toBe("Porter, late for the ferry.glb");
    expect(await verdict(bytes)).toMatchObject({ errors: 0, warnings: 0 });
    const own = await new NodeIO().readBinary(new Uint8Array(readFileSync(bodyFile("osk"))));
    expect(meshOf(document)).toEqual(meshOf(own));
    expect(document.getRoot().listAnimations().length).toBe(1);
    const { times, values } = turnsOf(document, "LeftShin");
    // Three seconds at 30 a second, a key a frame.
    expect(times.length).toBe(91);
    expect(values.length).toBe(91 * 4);
    times.forEach((t, i) => {
      expect(t).toBeCloseTo(i / 30, 4);
    });
    const moved = document
      .getRoot()
      .listAnimations()[0]
      .listChannels()
      .filter((c) => c.getTargetPath() === "translation")
      .map((c) => c.getTargetNode()?.getName());
    expect(moved).toEqual([OSK.skeleton.names[0]]);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("broken fingers after a cast", () => {
  it("are given a relaxed shape above it, on both hands, and the body's file has it", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Diver, dock patrol");
    await addFromMenu(page, "Cast");
    await chooseCharacter(page, "Ina");
    await addFromMenu(page, "Hand shape");
    await page.getByRole("button", { name: "Relaxed" }).click();
    await page.getByLabel("Single joint").selectOption("Index2");
    await page.getByRole("button", { name: "Bend Index2 by 10°" }).click();
    await page.getByRole("button", { name: "Mirror to the left hand" }).click();
    await settled(page);
    const { document } = await written(page);
    const bend = (joint: string) => {
      const { values } = turnsOf(document, joint);
      return values.length === 0 ? 0 : (2 * Math.acos(Math.min(1, Math.abs(values[3]))) * 180) / Math.PI;
    };
    expect(bend("RightIndex2")).toBeGreaterThan(12);
    expect(bend("RightIndex2")).toBeCloseTo(bend("LeftIndex2"), 1);
    expect(bend("RightIndex2") - bend("RightMiddle2")).toBeGreaterThan(5);
    expect(bend("LeftRing")).toBeGreaterThan(2);
    expect(errors).toEqual([]);
    await context.close();
  });
});
