import { readFileSync } from "node:fs";
import { skatingWalk } from "@stride/demo";
import { makePatch, readMotion, type Work, writeFresh } from "@stride/motion";
import type { Page } from "playwright-core";
import { newPage, openClip, settled, startBrowser, startServer } from "../../e2e/harness.ts";
import { CAPTURE } from "./capture.ts";
import { p95, row } from "./timing.ts";

interface Latency {
  readonly total: number;
  readonly worker: number;
}

declare global {
  interface Window {
    /** milliseconds from each change to its pose, kept by the page */
    strideLatencies?: Latency[];
    /** long tasks seen, milliseconds */
    strideTasks?: number[];
  }
}

type Browser = Awaited<ReturnType<typeof startBrowser>>;

/** What a person waits for in the page. 3D is off but for posing in the view, so that software drawing does not count. */
export async function page(): Promise<void> {
  const server = await startServer();
  const browser = await startBrowser({ draws: false });
  try {
    await sliders(server.url, browser);
    await bringIn(server.url, "01_01.bvh", captureBytes());
    await keyDrag(server.url, browser);
    await longCapture(server.url, browser);
  } finally {
    await browser.close();
  }
  const drawing = await startBrowser();
  try {
    await posing(server.url, drawing);
  } finally {
    await drawing.close();
    await server.stop();
  }
}

function captureBytes(): Uint8Array<ArrayBuffer> {
  return new Uint8Array(readFileSync(CAPTURE));
}

async function bringIn(url: string, name: string, bytes: BlobPart): Promise<void> {
  const form = new FormData();
  form.append("file", new File([bytes], name));
  const answer = await fetch(`${url}/api/clips`, { method: "POST", body: form });
  if (!answer.ok) throw new Error(`${name} was not taken: ${await answer.text()}`);
}

/** Latencies since they were last asked for. */
function latencies(page: Page): Promise<Latency[]> {
  return page.evaluate(() => [...(window.strideLatencies?.splice(0) ?? [])]);
}

function tell(what: string, took: readonly Latency[]): void {
  row(`${what}: p95 of ${took.length}`, `${p95(took.map((t) => t.total)).toFixed(0)} ms`, "50 ms");
  row("  of which in the worker", `${p95(took.map((t) => t.worker)).toFixed(0)} ms`, "—");
}

/** A slider dragged with the mouse at a steady pace: latencies of what it changed. */
async function dragSlider(page: Page, name: string): Promise<Latency[]> {
  const box = await page.getByRole("slider", { name }).boundingBox();
  if (!box) throw new Error(`no slider called ${name}`);
  await latencies(page);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 0; i < 80; i++) {
    await page.mouse.move(x + ((i % 20) - 10) * 4, y);
    await page.waitForTimeout(30);
  }
  const took = await latencies(page);
  await page.mouse.up();
  await settled(page);
  return took;
}

async function sliders(url: string, browser: Browser): Promise<void> {
  const { page, context } = await newPage(browser);
  for (const title of ["Porter, night shift walk", "Porter, late for the ferry"]) {
    await openClip(page, url, title);
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    tell(`Slider to pose, ${title}`, await dragSlider(page, "Hips may move"));
  }
  await context.close();
}

/** A two-minute capture: until it is first seen, and the longest task of the page's main thread while it opens, plays, and is changed. */
async function longCapture(url: string, browser: Browser): Promise<void> {
  const { skeleton, clip } = skatingWalk(14_400, { fingers: true });
  await bringIn(url, "two minutes.bvh", [...writeFresh(skeleton, clip, 0.01)].join(""));
  const { page, context } = await newPage(browser);
  await page.addInitScript(() => {
    window.strideTasks = [];
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) window.strideTasks?.push(Math.round(entry.duration));
    }).observe({ type: "longtask", buffered: true });
  });
  const longest = () => page.evaluate(() => Math.max(0, ...(window.strideTasks?.splice(0) ?? [])));
  await page.goto(url);
  const card = page.getByRole("button", { name: /two minutes/ }).first();
  await card.waitFor();
  await longest();
  const pressed = performance.now();
  await card.click();
  await page.locator("[data-bench]").waitFor({ state: "attached" });
  row("Two minutes, 52 joints: first picture after opening", `${((performance.now() - pressed) / 1000).toFixed(1)} s`, "3 s");
  await settled(page);
  row("  until it is measured", `${((performance.now() - pressed) / 1000).toFixed(1)} s`, "—");
  row("  longest task while it opens", `${await longest()} ms`, "100 ms");
  await page.keyboard.press("Space");
  await page.waitForTimeout(3000);
  await page.keyboard.press("Space");
  row("  longest task while it plays", `${await longest()} ms`, "100 ms");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  row("  longest task while its feet are grounded", `${await longest()} ms`, "100 ms");
  const took = await dragSlider(page, "Hips may move");
  row("  longest task while a slider is dragged", `${await longest()} ms`, "100 ms");
  tell("  slider of the plant to pose (sees the whole clip)", took);
  await context.close();
}

/** A hand moved by its handle and turned by a ring in the view; with the software's drawing, which a graphics card would do. */
async function posing(url: string, browser: Browser): Promise<void> {
  const { page, context } = await newPage(browser);
  await openClip(page, url, "01_01");
  await page.getByRole("tab", { name: "Pose" }).click();
  await page.getByLabel("Frame", { exact: true }).fill("260");
  await page.keyboard.press("Enter");
  await page.getByRole("button", { name: "R hand", exact: true }).click();
  for (const [what, tool] of [
    ["handle", "Move selected parts by reach"],
    ["ring", "Turn selected parts"],
  ]) {
    await page.getByRole("button", { name: tool }).click();
    await settled(page);
    const canvas = page.locator('[data-testid=view3d] canvas[data-frame="260"][data-part*=","]');
    await canvas.waitFor();
    const box = await canvas.boundingBox();
    const [px, py] = ((await canvas.getAttribute("data-part")) ?? "").split(",").map(Number);
    if (!box) throw new Error("no view");
    // A ring lies around the part: the first place to the right of it that takes hold.
    let took: Latency[] = [];
    for (let r = what === "ring" ? 30 : 0; took.length === 0 && r < 110; r += 4) {
      await latencies(page);
      await page.mouse.move(box.x + px + r, box.y + py);
      await page.mouse.down();
      for (let i = 1; i <= 40; i++) {
        await page.mouse.move(box.x + px + r + 20 * Math.sin(i / 6), box.y + py - i);
        await page.waitForTimeout(30);
        if (i === 4 && (await page.evaluate(() => window.strideLatencies?.length ?? 0)) === 0) break;
      }
      took = await latencies(page);
      await page.mouse.up();
      await settled(page);
    }
    tell(`Posing by ${what} to pose, with software drawing`, took);
  }
  await context.close();
}

/** A curve key dragged on a 2,752-frame capture with six patches above its layer: the frame under the playhead at once, the rest right after. */
async function keyDrag(url: string, browser: Browser): Promise<void> {
  const { page } = await newPage(browser);
  await openClip(page, url, "01_01");
  const id = page.url().split("/").at(-1);
  const { fps } = readMotion(captureBytes(), { fileName: CAPTURE }).clip;
  const key = (frame: number, value: number) => ({ at: frame / fps, value, tangent: "smooth" });
  const turn = (joint: string, axis: string, value: number) => ({
    target: { drives: "turn", part: { joint }, axis },
    keys: [key(200, 0), key(260, value), key(320, 0)],
  });
  const layer = (name: string, joint: string) => ({ ...makePatch("layer", name, name, { channels: [turn(joint, "x", 6)] }) });
  const touchUp = (name: string, frame: number) => ({
    ...makePatch("touchUp", name, name, {
      at: frame / fps,
      edits: [{ op: "turn", parts: [{ joint: "Spine" }], space: "own", degrees: [4, 0, 0], shared: false, pivot: null }],
      holds: [],
    }),
    range: { start: (frame - 20) / fps, end: (frame + 20) / fps },
    rampIn: 24 / fps,
    rampOut: 24 / fps,
  });
  const patches = [
    makePatch("floor", "floor", "floor"),
    makePatch("plant", "plant", "plant"),
    layer("edited", "Head"),
    layer("above 1", "LeftArm"),
    touchUp("above 2", 250),
    touchUp("above 3", 900),
    makePatch("amplitude", "above 4", "above 4", { percent: 80, about: "trend", sway: true }),
    makePatch("repair", "above 5", "above 5", { smooth: 0.3 }),
    layer("above 6", "RightArm"),
  ];
  const row0 = (await (await fetch(`${url}/api/works/${id}`)).json()) as { revision: number; name: string; document: Work };
  const saved = await fetch(`${url}/api/works/${id}`, {
    method: "PUT",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ base: row0.revision, name: row0.name, document: { ...row0.document, patches }, note: "bench" }),
  });
  if (!saved.ok) throw new Error(`the work was not taken: ${await saved.text()}`);
  await page.goto("about:blank");
  await page.goto(`${url}/work/${id}`);
  await settled(page);
  await page.locator("section[aria-label=Patches]").getByRole("button", { name: "edited", exact: true }).click();
  await page.getByRole("tab", { name: "Pose" }).click();
  await page.getByRole("button", { name: "Head", exact: true }).click();
  await page.getByLabel("Frame", { exact: true }).fill("260");
  await page.keyboard.press("Enter");
  await page.getByRole("radio", { name: "Curves" }).click();
  const mark = page.locator("[data-key$=':x@260']");
  await mark.waitFor();
  const box = await mark.boundingBox();
  if (!box) throw new Error("no key");
  await latencies(page);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 100; i++) {
    await page.mouse.move(x, y - 30 * Math.sin(i / 12));
    await page.waitForTimeout(30);
  }
  const dragged = await latencies(page);
  await page.mouse.up();
  await settled(page);
  const whole = await latencies(page);
  // The first move may still be answered by the whole, which tells the page that the stack is slow.
  tell("Curve key to pose, 2,752 frames, six patches above", dragged);
  row("  the whole clip, once let go", `${Math.max(...whole.map((t) => t.total)).toFixed(0)} ms`, "right after");
}
