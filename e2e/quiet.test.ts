import { readFileSync } from "node:fs";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { newPage, openClip, placeOf, savedWork, settled, toFrame } from "./harness.ts";

declare global {
  interface Window {
    /** names of what the page has asked its worker */
    strideAsked: string[];
  }
}

const test = useBrowserTest({ draws: false });

/** A page that notes what it asks its worker. */
async function watchedPage() {
  const made = await newPage(test.browser);
  await made.page.addInitScript(() => {
    window.strideAsked = [];
    const post = Worker.prototype.postMessage as (message: unknown, transfer?: unknown) => void;
    Worker.prototype.postMessage = function (this: Worker, message: unknown, transfer?: unknown) {
      const path = (message as { path?: string[] }).path;
      if (path) window.strideAsked.push(path.join("."));
      post.call(this, message, transfer);
    } as typeof Worker.prototype.postMessage;
  });
  return made;
}

const asked = (page: Page) => page.evaluate(() => window.strideAsked.splice(0));

describe("the page's main thread", () => {
  it("leaves thinning to the worker, on a capture of 2,752 frames", async () => {
    const form = new FormData();
    form.append("file", new File([new Uint8Array(readFileSync("/usr/share/assimp/models/BVH/01_01.bvh"))], "01_01.bvh"));
    await fetch(`${test.server.url}/api/clips`, { method: "POST", body: form });
    const { page, context } = await watchedPage();
    await openClip(page, test.server.url, "01_01");
    await page.getByRole("tab", { name: "Pose" }).click();
    await page.getByRole("button", { name: "Head", exact: true }).click();
    await page.getByRole("radio", { name: "Curves" }).click();
    await page.getByRole("button", { name: "Head x", exact: true }).click();
    await page.getByLabel("Operation on the stretch").selectOption("thin");
    await asked(page);
    await page.getByRole("button", { name: "Apply", exact: true }).click();
    await settled(page);
    expect(await asked(page)).toContain("stretchKeys");
    const { document } = await savedWork(page, test.server.url);
    const [layer] = document.patches;
    const keys = (layer.settings as { channels: { keys: unknown[] }[] }).channels[0].keys.length;
    expect(keys).toBeGreaterThan(20);
    expect(keys).toBeLessThan(1400);
    await context.close();
  });

  it("asks nothing about holds while it plays, and asks once it stands", async () => {
    const { page, context } = await watchedPage();
    await openClip(page, test.server.url, "Porter, waiting");
    await page.getByRole("tab", { name: "Pose" }).click();
    await toFrame(page, 60);
    await page.getByRole("button", { name: "Hands", exact: true }).click();
    await page.getByRole("button", { name: "Chest", exact: true }).click();
    await page.getByRole("button", { name: "Turn selected parts" }).click();
    await page.getByLabel("Turn about y").fill("8");
    await page.keyboard.press("Enter");
    await settled(page);
    await page.locator("[data-hold=leftHand] .figure").waitFor();
    await page.getByRole("button", { name: "Over the whole clip instead" }).click();
    await settled(page);
    await page.getByRole("button", { name: "Play", exact: true }).click();
    const frame = () => page.getByLabel("Frame", { exact: true }).inputValue().then(Number);
    const from = await frame();
    await asked(page);
    await expect.poll(frame).toBeGreaterThan(from + 5);
    expect(await asked(page)).not.toContain("deviations");
    await page.getByRole("button", { name: "Pause", exact: true }).click();
    await expect.poll(() => page.evaluate(() => window.strideAsked.includes("deviations"))).toBe(true);
    await context.close();
  });
});

describe("the selected contact", () => {
  it("shows the ramps that are in force: the plant's, until it has its own", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, night shift walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await page.getByRole("textbox", { name: "Landing ramp" }).fill("9");
    await page.keyboard.press("Enter");
    await page.getByRole("textbox", { name: "Lift ramp" }).fill("2");
    await page.keyboard.press("Enter");
    await settled(page);
    await page.locator("[data-contact^=leftToe]").nth(1).click();
    const panel = page.getByRole("region", { name: "Selected contact" });
    const ramps = async () => [await panel.getByLabel("landing").inputValue(), await panel.getByLabel("lift").inputValue()];
    await expect.poll(ramps).toEqual(["9", "2"]);
    await panel.getByLabel("lift").fill("4");
    await page.keyboard.press("Enter");
    await settled(page);
    await expect.poll(ramps).toEqual(["9", "4"]);
    await context.close();
  });

  it("can be of a hand: set from the menu of other parts, planted, and its figure shown", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, waiting");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await toFrame(page, 60);
    await page.getByRole("button", { name: "Add a contact of another part at the playhead" }).click();
    await page.getByRole("menuitem", { name: "Left hand" }).click();
    await settled(page);
    const panel = page.getByRole("region", { name: "Selected contact" });
    await panel.getByLabel("to", { exact: true }).fill("90");
    await page.keyboard.press("Enter");
    await settled(page);
    await page.locator("[data-contact='leftHand:55-90']").waitFor();
    await panel.getByText(/slide .*→ 0\.0 cm/).waitFor();
    const { document, source, evaluator } = await savedWork(page, test.server.url);
    expect(document.contacts).toMatchObject([{ point: "leftHand", kind: "span", start: 55 / source.clip.fps, end: 90 / source.clip.fps }]);
    // By its joint's own course: the wrist moves in the source; in the result it moves only as far as the hand turns about its palm.
    const spread = (clip: typeof source.clip) => {
      const places = [55, 65, 73, 82, 90].map((f) => placeOf(source.skeleton, clip, f, "LeftHand").at);
      return Math.hypot(...[0, 1, 2].map((i) => Math.max(...places.map((p) => p[i])) - Math.min(...places.map((p) => p[i])))) * 100;
    };
    const result = spread(evaluator.evaluate(document).result.clip);
    expect(spread(source.clip)).toBeGreaterThan(1);
    expect(result).toBeLessThan(0.7);
    expect(result).toBeLessThan(0.5 * spread(source.clip));
    await context.close();
  });
});
