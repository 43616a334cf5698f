import { join } from "node:path";
import { newPage, startBrowser, startServer } from "../../e2e/harness.ts";
import { clipStore } from "../../server/src/store/clips.ts";
import { openDatabase } from "../../server/src/store/database.ts";
import { manyClips } from "../../server/src/testing/manyClips.ts";
import { row } from "./timing.ts";

const COUNT = 10_000;
/** Pixels a turn of the wheel: the bench's own pace, and leaps as by the scroll bar. */
const STEPS = [1500, 6000];
/** Turns without getting further after which the end is reached. */
const STILL = 60;

declare global {
  interface Window {
    strideTasks?: number[];
  }
}

/** A library of ten thousand clips scrolled from its first to its last in the page: the longest task of the main thread. 3D is off. */
export async function scroll(): Promise<void> {
  const server = await startServer({
    prepare: (data) => {
      const db = openDatabase(join(data, "stride.db"));
      manyClips(db, clipStore(db), COUNT);
      db.close();
    },
  });
  const browser = await startBrowser({ draws: false });
  try {
    for (const step of STEPS) {
      const { page, context } = await newPage(browser);
      await page.addInitScript(() => {
        window.strideTasks = [];
        new PerformanceObserver((list) => {
          for (const entry of list.getEntries()) window.strideTasks?.push(Math.round(entry.duration));
        }).observe({ type: "longtask", buffered: true });
      });
      await page.goto(server.url);
      await page.locator("main li[aria-posinset]").first().waitFor();
      await page.waitForLoadState("networkidle");
      await page.evaluate(() => window.strideTasks?.splice(0));
      await page.getByRole("main").hover();
      let top = 0;
      for (let still = 0; still < STILL; ) {
        await page.mouse.wheel(0, step);
        const now = await page.evaluate(
          () => new Promise<number>((resolve) => requestAnimationFrame(() => resolve(document.querySelector("main")?.scrollTop ?? 0))),
        );
        still = now > top ? 0 : still + 1;
        top = Math.max(top, now);
      }
      const tasks = (await page.evaluate(() => window.strideTasks?.splice(0))) ?? [];
      row(`Through all ${COUNT} clips, ${step} px a turn: longest task`, `${Math.max(0, ...tasks)} ms`, "100 ms");
      row("  pixels scrolled; last row seen", `${Math.round(top)}; ${await page.locator("main li[aria-posinset]").last().getAttribute("aria-posinset")}`, "—");
      await context.close();
    }
  } finally {
    await browser.close();
    await server.stop();
  }
}
