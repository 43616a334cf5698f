import { readFileSync } from "node:fs";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { skatingBody } from "../motion/src/testing/skatingBody.ts";
import { useBrowserTest } from "./fixture.ts";
import { newPage, openClip, pickClip, searchLibrary } from "./harness.ts";

const test = useBrowserTest({ draws: false });

interface Clip {
  readonly id: string;
  readonly name: string;
  readonly folder: string;
  readonly tags: readonly string[];
}
const clipsOf = async (query: string) =>
  (await (await fetch(`${test.server.url}/api/clips?limit=200&order=name&down=no&${query}`)).json()) as { clips: Clip[]; total: number };
const names = (page: Page) => page.getByRole("main").locator("[id^=clip-]").allInnerTexts();
const menu = async (page: Page, item: RegExp | string) => {
  await page.getByRole("main").getByRole("button", { name: "Clip menu" }).first().click();
  await page.getByRole("menuitem", { name: item }).click();
};

describe("many files at once", () => {
  it("come in with progress; paused, cancelled and dropped again: whole clips only, the bad ones named, known ones recognised", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByRole("button", { name: /^All 16/ }).waitFor();
    // One in ten is cut off.
    const files = Array.from({ length: 60 }, (_, i) => {
      const text = skatingBody(60).replace("OFFSET 0 0 0", `OFFSET 0 ${i / 1000} 0`);
      return { name: `take ${String(i).padStart(2, "0")}.bvh`, mimeType: "text/plain", buffer: Buffer.from(i % 10 === 7 ? text.slice(0, 900 + i) : text) };
    });
    const panel = page.getByRole("region", { name: "Files being brought in" });
    // So many files are let through, however quick the machine is; the others wait at the door.
    const gate = { open: 6, waiting: [] as (() => void)[] };
    const letThrough = (more: number) => {
      gate.open += more;
      while (gate.open > 0 && gate.waiting.length > 0) {
        gate.open--;
        gate.waiting.shift()?.();
      }
    };
    await page.route(/\/api\/clips(\?.*)?$/, async (route) => {
      if (route.request().method() !== "POST") return route.continue();
      if (gate.open > 0) gate.open--;
      else await new Promise<void>((resolve) => gate.waiting.push(resolve));
      // Those that are broken off meanwhile are gone.
      await route.continue().catch(() => {});
    });
    await page.getByLabel("Files to bring in").setInputFiles(files);
    await panel.getByText(/^6 of 60 brought in/).waitFor();
    await panel.getByRole("button", { name: "Pause" }).click();
    await panel.getByText(/paused, \d+ to go/).waitFor();
    letThrough(2);
    // What was under way is finished, and nothing is begun.
    await expect.poll(() => panel.getByRole("progressbar", { name: /^take/ }).count()).toBe(0);
    const paused = (await clipsOf("search=take")).total;
    expect(paused).toBe(7);
    // The page is used meanwhile.
    await searchLibrary(page, "ferry");
    await expect.poll(() => names(page)).toEqual(["Porter, late for the ferry"]);
    await searchLibrary(page, "");
    await panel.getByRole("button", { name: "Go on" }).click();
    letThrough(6);
    await panel.getByText(/^1[23] of 60 brought in/).waitFor();
    await panel.getByRole("button", { name: "Cancel" }).click();
    await panel.getByText(/left out/).waitFor();
    await expect.poll(() => panel.getByRole("button", { name: "Pause" }).count()).toBe(0);
    const summary = (await panel.getByRole("status").innerText()).match(/(\d+) of 60 brought in · (\d+) could not be read · (\d+) left out/);
    const [done, bad, out] = (summary ?? []).slice(1).map(Number);
    expect(done + bad + out).toBe(60);
    // Those that were kept are whole.
    const kept = await clipsOf("search=take");
    expect(kept.total).toBeGreaterThanOrEqual(done);
    expect(kept.total).toBeLessThanOrEqual(done + 2);
    for (const clip of kept.clips) expect((await fetch(`${test.server.url}/api/clips/${clip.id}/picture`)).status).toBe(200);

    letThrough(files.length * 2);
    await page.getByLabel("Files to bring in").setInputFiles(files);
    // One or two may have been on their way to the library as it was asked.
    const known = [0, 1, 2].map((more) => kept.total + more).join("|");
    await panel.getByText(new RegExp(`· (${known}) known already · ([6-9]|1\\d) could not be read$`)).waitFor();
    expect((await clipsOf("search=take")).total).toBe(54);
    await panel
      .getByText(/take 07\.bvh:\d+: /)
      .first()
      .waitFor();
    await panel.getByRole("button", { name: "Dismiss the list" }).click();
    await panel.waitFor({ state: "detached" });
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("clips that are put in order", () => {
  it("are renamed by a template over a selection, put into a folder with tags, filtered by it, and each step is undone by one press", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    await searchLibrary(page, "porter argument");
    await expect.poll(() => names(page)).toEqual(["Porter, angry argument"]);
    await searchLibrary(page, "pim");
    await page.getByLabel("sorted by").selectOption("name");
    await expect.poll(async () => (await names(page)).length).toBe(2);
    const before = await names(page);
    await page.getByRole("checkbox", { name: `Pick ${before[0]}` }).check();
    await page.getByRole("checkbox", { name: `Pick ${before[1]}` }).click({ modifiers: ["Shift"] });
    await page.getByText("2 clips picked").waitFor();
    await page.getByRole("button", { name: "Rename…" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel("Name", { exact: true }).fill("Walk");
    await dialog.getByText("“SH_Walk” would be there twice").or(dialog.getByText("“Walk” would be there twice; put {n} or {name} in")).waitFor();
    expect(await dialog.getByRole("button", { name: "Rename" }).isDisabled()).toBe(true);
    await dialog.getByLabel("Prefix").fill("SH_");
    await dialog.getByLabel("Name", { exact: true }).fill("{character}_{n}");
    await dialog.getByText("SH_Pim_1").waitFor();
    await dialog.getByRole("button", { name: "Rename" }).click();
    await expect.poll(() => names(page)).toEqual(["SH_Pim_1", "SH_Pim_2"]);
    await page.getByRole("button", { name: "Undo" }).click();
    await expect.poll(() => names(page)).toEqual(before);

    await page.getByRole("button", { name: "Folder and tags…" }).click();
    await dialog.getByLabel("Folder").fill("quay/goats");
    await dialog.getByLabel("Add tags").fill("hoofed, quay");
    await dialog.getByRole("button", { name: "Apply" }).click();
    await dialog.waitFor({ state: "detached" });
    await expect
      .poll(async () => (await clipsOf("folder=quay")).clips.map((c) => [c.folder, c.tags.includes("hoofed")]))
      .toEqual([
        ["quay/goats", true],
        ["quay/goats", true],
      ]);
    await searchLibrary(page, "");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Filter" }).click();
    await page.getByLabel("Folder").selectOption("quay/goats");
    await expect.poll(() => names(page)).toEqual(before);
    await page.getByLabel("Shortest, seconds").fill("500");
    await page.getByText("No clip matches. Clear the search or the filter").waitFor();
    await page.getByRole("button", { name: "Clear" }).click();
    await page.getByLabel("What is wrong").selectOption("jitter");
    await expect.poll(async () => (await names(page)).length).toBeGreaterThan(0);
    const jittery = (await clipsOf("fault=jitter")).total;
    await page.keyboard.press("Escape");
    await expect.poll(() => page.getByRole("checkbox", { name: /^Pick/ }).count()).toBe(Math.min(jittery, 60));
    expect(errors).toEqual([]);
    await context.close();
  });

  it("are deleted with the works that stand on them and brought back, by Undo or from the list; refused where others would miss them", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, calm talk");
    await page.goto(test.server.url);
    await searchLibrary(page, "calm talk");
    await expect.poll(() => names(page)).toEqual(["Porter, calm talk"]);
    await menu(page, "Delete");
    await page.getByText("Porter, calm talk deleted, with 1 work").waitFor();
    await page.getByText("No clip matches").waitFor();
    await page.getByRole("button", { name: "Undo" }).click();
    await expect.poll(() => names(page)).toEqual(["Porter, calm talk"]);
    await menu(page, "Delete");
    await page.getByText("No clip matches").waitFor();
    await page.getByRole("button", { name: "Library menu" }).click();
    await page.getByRole("menuitem", { name: "Deleted…" }).click();
    await page.getByRole("button", { name: "Bring back Porter, calm talk" }).last().click();
    await page.keyboard.press("Escape");
    await expect.poll(() => names(page)).toEqual(["Porter, calm talk"]);
    await menu(page, "Duplicate");
    await expect.poll(async () => (await names(page)).sort()).toEqual(["Porter, calm talk", "Porter, calm talk copy"]);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("tell what they are and what uses them, and are replaced in chosen works after a look at what that does", async () => {
    const { page, context, errors } = await newPage(test.browser);
    const find = async (name: string) => (await clipsOf(`search=${encodeURIComponent(name)}`)).clips[0];
    const post = async (path: string, body: unknown, method = "POST") =>
      (await (
        await fetch(`${test.server.url}/api${path}`, { method, headers: { "content-type": "application/json" }, body: JSON.stringify(body) })
      ).json()) as { id: string; revision: number; clipId: string };
    const [walk, slow] = [await find("Porter, night shift"), await find("Porter, unhurried")];
    const works = [];
    for (const name of ["Night A", "Night B"]) works.push(await post("/works", { clipId: walk.id, name }));
    await page.goto(test.server.url);
    await searchLibrary(page, "night shift");
    await expect.poll(async () => (await names(page)).length).toBe(1);
    await menu(page, /^About/);
    const dialog = page.getByRole("dialog");
    await dialog.getByRole("list", { name: "Works that stand on it" }).getByText("Night A").waitFor();
    await dialog.getByText("133 f at 30 fps").waitFor();
    // A work on it is duplicated and deleted there, and deleting is undone.
    const standing = dialog.getByRole("list", { name: "Works that stand on it" });
    await dialog.getByRole("button", { name: "Duplicate Night A" }).click();
    await standing.getByText("Night A copy").waitFor();
    await dialog.getByRole("button", { name: "Delete Night A copy" }).click();
    await standing.getByText("Night A copy").waitFor({ state: "detached" });
    await dialog.getByRole("button", { name: "Replace in works…" }).click();
    await dialog.getByRole("button", { name: /^By this clip/ }).click();
    await pickClip(page, "unhurried");
    const rows = dialog.getByRole("region", { name: /what the change does/ });
    await expect.poll(() => rows.getByText("133 f (4.40 s) → 151 f (5.00 s)").count()).toBe(2);
    await dialog.getByRole("checkbox", { name: "Change Night B" }).uncheck();
    await dialog.getByRole("button", { name: "Replace in 1 work" }).click();
    await page.getByText(/Porter, night shift walk replaced: 1 work/).waitFor();
    const clipOf = async (id: string) => ((await (await fetch(`${test.server.url}/api/works/${id}`)).json()) as { clipId: string }).clipId;
    expect([await clipOf(works[0].id), await clipOf(works[1].id)]).toEqual([slow.id, walk.id]);
    // Of the two toasts the one that tells of this.
    await page.getByRole("listitem").filter({ hasText: "replaced" }).getByRole("button", { name: "Undo" }).click();
    await page.getByText("1 work is as before").waitFor();
    expect(await clipOf(works[0].id)).toBe(walk.id);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("copies of the whole library", () => {
  it("are made in use, taken away as a file, and taken in again by content", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByRole("button", { name: "Library menu" }).click();
    await page.getByRole("menuitem", { name: "Copies of the library…" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByRole("button", { name: "Copy now" }).click();
    await dialog.getByText(/^Copied and checked from end to end: \d+ clips/).waitFor();
    const [download] = await Promise.all([page.waitForEvent("download"), dialog.getByRole("link", { name: "Take away" }).first().click()]);
    expect(download.suggestedFilename()).toMatch(/^stride-\d{8}-\d{6}-\d{3}\.db$/);
    const path = await download.path();
    expect(readFileSync(path).subarray(0, 15).toString()).toBe("SQLite format 3");
    await dialog.getByLabel("Copy of another library").setInputFiles({ name: "theirs.db", mimeType: "application/octet-stream", buffer: readFileSync(path) });
    await dialog.getByText(/^From theirs\.db: 0 new clips \(\d+ were here\), 0 new works/).waitFor();
    await dialog
      .getByLabel("Copy of another library")
      .setInputFiles({ name: "notes.db", mimeType: "application/octet-stream", buffer: Buffer.from("no library") });
    await dialog.getByText(/no library of this application/).waitFor();
    expect(errors).toEqual([]);
    await context.close();
  });
});
