import { readFileSync } from "node:fs";
import { join } from "node:path";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { clipStore } from "../server/src/store/clips.ts";
import { openDatabase } from "../server/src/store/database.ts";
import { manyClips } from "../server/src/testing/manyClips.ts";
import { newPage, type RunningServer, searchLibrary, startBrowser, startServer } from "./harness.ts";

declare global {
  interface Window {
    strideTasks?: number[];
  }
}

const COUNT = 10_000;
/** A main thread that works longer than this at a time feels stuck, milliseconds, on a machine that does other things beside. */
const STUCK = 600;
/** What the server may take, MB. */
const MOST_MEMORY = 400;

let server: RunningServer;
let browser: Browser;
beforeAll(async () => {
  server = await startServer({
    prepare: (data) => {
      const db = openDatabase(join(data, "stride.db"));
      manyClips(db, clipStore(db), COUNT);
      db.close();
    },
  });
  browser = await startBrowser({ draws: false });
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
});

const longestTask = (page: Page) => page.evaluate(() => Math.max(0, ...(window.strideTasks?.splice(0) ?? [])));
const cards = (page: Page) => page.getByRole("main").getByRole("button", { name: /Harbour|Porter|Diver|Pim/ });

describe("a library of ten thousand clips", () => {
  it("is there at once, is scrolled on and on in short steps, and found in; only what is seen is in the page", async () => {
    const { page, context, errors } = await newPage(browser);
    await page.addInitScript(() => {
      const tasks: number[] = [];
      window.strideTasks = tasks;
      new PerformanceObserver((list) => {
        for (const entry of list.getEntries()) tasks.push(Math.round(entry.duration));
      }).observe({ type: "longtask", buffered: true });
    });
    const pages: number[] = [];
    page.on("response", async (response) => {
      if (/\/api\/clips\?/.test(response.url())) pages.push((await response.body().catch(() => Buffer.alloc(0))).length);
    });
    await page.goto(server.url);
    await cards(page).first().waitFor();
    await page.getByRole("button", { name: `All ${COUNT + 16}` }).waitFor();
    expect(pages.length).toBeGreaterThan(0);
    expect(Math.max(...pages)).toBeLessThan(300_000);
    await longestTask(page);

    // On and on: further pages come before one is at the end of those that are there.
    const main = page.getByRole("main");
    const scrolled = () => main.evaluate((element) => element.scrollTop);
    await main.hover();
    for (let i = 0; i < 60; i++) {
      await page.mouse.wheel(0, 2400);
      await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(resolve)));
    }
    await expect
      .poll(async () => {
        await page.mouse.wheel(0, 4000);
        return scrolled();
      })
      .toBeGreaterThan(40_000);
    expect(await longestTask(page)).toBeLessThan(STUCK);
    expect(await cards(page).count()).toBeLessThan(120);
    const seen = await page.locator("main li[aria-posinset]").last().getAttribute("aria-posinset");
    expect(Number(seen)).toBeGreaterThan(100);

    // Found by words that are begun, in the table and sorted there too.
    await searchLibrary(page, "harb walk 00043");
    await expect.poll(() => cards(page).count()).toBe(1);
    await searchLibrary(page, "");
    await page.getByRole("button", { name: "Table" }).click();
    await page.getByRole("button", { name: "Clip", exact: true }).click();
    await page
      .getByRole("row")
      .nth(1)
      .getByText(/^Diver, dock patrol/)
      .waitFor();
    expect(await page.getByRole("table").getAttribute("aria-rowcount")).toBe(String(COUNT + 17));
    expect(await longestTask(page)).toBeLessThan(STUCK);

    const memory = Number(/VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${server.process.pid}/status`, "utf8"))?.[1]) / 1024;
    expect(memory).toBeLessThan(MOST_MEMORY);
    expect(errors).toEqual([]);
    await context.close();
  });
});
