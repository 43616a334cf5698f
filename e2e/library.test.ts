import { existsSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { skatingBody } from "../motion/src/testing/skatingBody.ts";
import { useBrowserTest } from "./fixture.ts";
import { addFromMenu, chooseCharacter, newPage, openClip, searchLibrary, settled } from "./harness.ts";

const test = useBrowserTest({ draws: false });

/** The right of the bench: what a patch is set with. */
const PANEL = "[role=tabpanel]";
const CAPTURE = "/usr/share/assimp/models/BVH/01_01.bvh";

describe("bringing files in", () => {
  it("takes several at once, says of each that fails why, and opens a capture of 2,752 frames", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByText("Porter, night shift walk").first().waitFor();
    expect(existsSync(CAPTURE)).toBe(true);
    await page.getByLabel("Files to bring in").setInputFiles([CAPTURE]);
    const file = (name: string, text: string) => ({ name, mimeType: "application/octet-stream", buffer: Buffer.from(text) });
    await page
      .getByLabel("Files to bring in")
      .setInputFiles([
        file("<i>Skating</i>.bvh", skatingBody()),
        file("cut off.bvh", skatingBody().slice(0, 3000)),
        file(`${"a very long name ".repeat(9)}.bvh`, skatingBody(40)),
      ]);
    const panel = page.getByRole("region", { name: "Files being brought in" });
    await panel.getByText(/cut off\.bvh:\d+: /).waitFor();
    await panel.getByText(/3 of 4 brought in · 1 could not be read|2 of 3 brought in · 1 could not be read/).waitFor();
    await page.getByRole("button", { name: "brought in 3" }).waitFor();
    // Markup in a name stays text.
    await page.getByText("<i>Skating</i>", { exact: true }).first().waitFor();
    await expectNothingCutOff(page);

    await searchLibrary(page, "01_01");
    await page.getByRole("main").getByRole("button", { name: /01_01/ }).click();
    await page.getByRole("heading", { name: "Findings" }).waitFor();
    await page.getByText("/ 2751 ·").waitFor();
    await settled(page);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("finds, sorts and lists as a table", async () => {
    const { page, context } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByText("Porter, night shift walk").first().waitFor();
    await page.getByRole("button", { name: "Pim 2" }).click();
    await expect.poll(() => page.getByRole("checkbox", { name: /^Pick Pim/ }).count()).toBe(2);
    await page.getByRole("button", { name: /^All/ }).click();
    await page.getByRole("button", { name: "Table" }).click();
    await page.getByRole("button", { name: "Length" }).click();
    const seconds = async () => (await page.locator("tbody tr td:nth-child(5)").allInnerTexts()).map((t) => Number.parseFloat(t));
    await expect.poll(async () => (await seconds()).length).toBeGreaterThanOrEqual(6);
    const fallen = async (sign: number) => {
      const list = await seconds();
      return list.every((v, i) => i === 0 || sign * (v - list[i - 1]) <= 0);
    };
    await expect.poll(() => fallen(1)).toBe(true);
    await page.getByRole("button", { name: "Length" }).click();
    await expect.poll(() => fallen(-1)).toBe(true);
    await searchLibrary(page, "nothing like this");
    await page.getByText("No clip matches").waitFor();
    await context.close();
  });
});

describe("two people on one work", () => {
  it("are both told, and neither version is lost", async () => {
    const first = await newPage(test.browser);
    const second = await newPage(test.browser);
    await openClip(first.page, test.server.url, "Porter, turn and stop");
    const address = first.page.url();
    await second.page.goto(address);
    await settled(second.page);
    await first.page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(first.page);
    await second.page.getByRole("button", { name: "Patch", exact: true }).click();
    await second.page.getByRole("option", { name: /Trim/ }).click();
    await second.page.getByText("This work was saved elsewhere").waitFor();
    await second.page.getByText("Set floor, Plant feet").waitFor();
    await second.page.getByRole("button", { name: "Keep mine" }).click();
    await second.page.locator("[data-save=saved]").waitFor();
    await second.page.getByRole("button", { name: "History" }).click();
    await second.page.getByRole("listitem").filter({ hasText: "Ground the feet" }).waitFor();
    await second.page.getByRole("listitem").filter({ hasText: "Add Trim" }).waitFor();
    await second.page.keyboard.press("Escape");
    // The first one is behind now: it takes the other version, and its own stays one undo away.
    await first.page.getByRole("button", { name: "Mute Plant feet" }).click();
    await first.page.getByText("This work was saved elsewhere").waitFor();
    await first.page.getByRole("button", { name: "Take theirs" }).click();
    await settled(first.page);
    expect(await first.page.locator("[data-patch]").count()).toBe(1);
    expect(await first.page.locator("[data-patch=trim]").count()).toBe(1);
    await first.page.getByRole("button", { name: "Undo: Take the other version" }).click();
    await expect.poll(() => first.page.locator("[data-patch]").count()).toBe(2);
    await settled(first.page);
    await first.context.close();
    await second.context.close();
  });
});

describe("every screen", () => {
  it("has nothing serious against it from axe-core, and nothing is cut off at 1280x800", async () => {
    const { page, context } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByText("Porter, late for the ferry").first().waitFor();
    await inspect(page, "library");
    await page.getByRole("button", { name: "Table" }).click();
    await page
      .getByRole("checkbox", { name: /^Pick / })
      .first()
      .check();
    await inspect(page, "library as a table");
    for (const [button, heading] of [
      ["Rename…", "Rename 1 clip"],
      ["Folder and tags…", "Folder and tags of 1 clip"],
    ] as const) {
      await page.getByRole("button", { name: button }).click();
      await page.getByRole("heading", { name: heading }).waitFor();
      await inspect(page, heading);
      await page.keyboard.press("Escape");
    }
    for (const item of ["Copies of the library…", "Deleted…"]) {
      await page.getByRole("button", { name: "Library menu" }).click();
      await page.getByRole("menuitem", { name: item }).click();
      await page.getByRole("dialog").waitFor();
      await inspect(page, item);
      await page.keyboard.press("Escape");
      await page.getByRole("dialog").waitFor({ state: "detached" });
    }
    await page.getByRole("button", { name: "Clip menu" }).first().click();
    await page.getByRole("menuitem", { name: /^About/ }).click();
    await page.getByRole("dialog").waitFor();
    await inspect(page, "about a clip");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Filter" }).click();
    await inspect(page, "filters");
    await page.keyboard.press("Escape");
    await openClip(page, test.server.url, "Porter, late for the ferry");
    await inspect(page, "bench, untouched");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await page.locator("[data-contact]").first().click();
    await inspect(page, "bench, planted");
    await page.getByRole("tab", { name: "Pose" }).click();
    await page.getByRole("button", { name: "Chest", exact: true }).click();
    await page.getByRole("button", { name: "Turn selected parts" }).click();
    await page.getByRole("button", { name: "Hold selected" }).click();
    await page.getByRole("button", { name: "Free point" }).click();
    await inspect(page, "posing");
    await page.getByRole("radio", { name: "Curves" }).click();
    await page.getByRole("button", { name: "Key", exact: true }).click();
    await settled(page);
    await page.locator("[data-key]").first().waitFor();
    await inspect(page, "curves");
    await page.getByRole("radio", { name: "Footfall" }).click();
    await page.getByRole("tab", { name: "Patch" }).click();
    for (const kind of ["Hand shape", "Amplitude", "Touch-up", "Layer"]) {
      await page.getByRole("button", { name: "Patch", exact: true }).click();
      await page.getByRole("option", { name: new RegExp(`^${kind}`) }).click();
      await settled(page);
      await inspect(page, kind, PANEL);
    }
    await addFromMenu(page, "Cast");
    await chooseCharacter(page, "Osk");
    await inspect(page, "Cast", PANEL);
    for (const [kind, field] of [
      ["Mix", /^Other clip/],
      ["Join", /^Clip that follows/],
      ["Settle", /^Pose from/],
    ] as const) {
      await addFromMenu(page, kind);
      await page.getByRole("button", { name: field }).click();
      await page.getByRole("option", { name: /^Porter, unhurried walk/ }).click();
      await settled(page);
      await inspect(page, kind, PANEL);
    }
    for (const [button, heading] of [
      ["Body map", "Body map"],
      ["Export…", "Export"],
      ["Shortcuts", "Shortcuts"],
      ["History", "History"],
    ] as const) {
      await page.getByRole("button", { name: button, exact: true }).click();
      await page.getByRole("dialog").getByRole("heading", { name: heading }).waitFor();
      await inspect(page, heading);
      await page.keyboard.press("Escape");
      await page.getByRole("dialog").waitFor({ state: "detached" });
    }
    for (const item of [/^Save as a clip/, /^Copy patches/, /^Make a version/, /^Compare with/, /^Keep patches/, /^Duplicate this work/]) {
      await page.getByRole("button", { name: "Work menu" }).click();
      await page.getByRole("menuitem", { name: item }).click();
      await page.getByRole("dialog").waitFor();
      await inspect(page, String(item));
      await page.keyboard.press("Escape");
      await page.getByRole("dialog").waitFor({ state: "detached" });
    }
    await page.getByRole("tab", { name: "Shelf" }).click();
    await inspect(page, "shelf", PANEL);
    await page.keyboard.press("Control+k");
    await page.getByPlaceholder("What would you like to do?").fill("checkup");
    await page.keyboard.press("Enter");
    await page.getByText("Slide, contact by contact").waitFor();
    await inspect(page, "checkup");
    await page.goto(`${test.server.url}/characters`);
    await page.getByRole("row").nth(5).waitFor();
    await inspect(page, "characters");
    await page.goto(test.server.url);
    await page.getByRole("button", { name: "Night colours" }).click();
    await inspect(page, "library at night");
    await openClip(page, test.server.url, "Porter, late for the ferry");
    await inspect(page, "bench at night");
    await context.close();
  });
});

/** What is new to be seen: a dialog, where one is open; a part of the page that is named; else the whole page. */
async function inspect(page: Page, screen: string, part?: string): Promise<void> {
  const within = (await page.getByRole("dialog").count()) > 0 ? "[role=dialog]" : part;
  // There are no frames within: one pass in the page itself is enough, and what has passed need not be told.
  const builder = new AxeBuilder({ page }).setLegacyMode().options({ resultTypes: ["violations"] });
  const { violations } = await (within ? builder.include(within) : builder).analyze();
  const serious = violations.filter((v) => v.impact === "serious" || v.impact === "critical");
  expect(
    serious.map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(" | ")}`),
    screen,
  ).toEqual([]);
  await expectNothingCutOff(page, screen);
}

/** No control or text lies outside the window, and the page itself does not scroll: what is on it does. */
async function expectNothingCutOff(page: Page, screen = ""): Promise<void> {
  const outside = await page.evaluate(() => {
    const found: string[] = [];
    const { scrollWidth, scrollHeight } = document.documentElement;
    if (scrollWidth > window.innerWidth) found.push(`page is ${scrollWidth} wide`);
    if (scrollHeight > window.innerHeight) found.push(`page is ${scrollHeight} high, and can be scrolled away`);
    for (const element of document.querySelectorAll("button, a, input, select, h1, h2, h3")) {
      const box = element.getBoundingClientRect();
      if (box.width === 0 || box.height === 0 || element.closest(".sr-only")) continue;
      if (box.left < -1 || box.right > window.innerWidth + 1)
        found.push(`${element.tagName} ${element.textContent?.slice(0, 30)} ${Math.round(box.left)}–${Math.round(box.right)}`);
    }
    return found;
  });
  expect(outside, screen).toEqual([]);
}
