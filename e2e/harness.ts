import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { type Browser, type BrowserContext, chromium, type Page } from "playwright-core";

const ROOT = fileURLToPath(new URL("..", import.meta.url));

const FLAGS = [
  "--headless",
  "--no-sandbox",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
  "--use-angle=swiftshader",
  "--enable-unsafe-swiftshader",
];

export interface RunningServer {
  readonly url: string;
  readonly data: string;
  readonly process: ChildProcess;
  stop(): Promise<void>;
}

/** Starts the real server with an empty data folder (or the given one) on a free port; the demo clips load by themselves. */
export async function startServer(data = mkdtempSync(join(tmpdir(), "stride-e2e-")), keep = false): Promise<RunningServer> {
  const child = spawn(process.execPath, ["--import", "tsx", "server/src/main.ts"], {
    cwd: ROOT,
    env: { ...process.env, STRIDE_DATA: data, PORT: "0" },
    stdio: ["ignore", "pipe", "pipe"],
  });
  let output = "";
  const url = await new Promise<string>((resolve, reject) => {
    const listen = (chunk: Buffer) => {
      output += chunk.toString();
      const found = /http:\/\/localhost:\d+/.exec(output);
      if (found) resolve(found[0]);
    };
    child.stdout?.on("data", listen);
    child.stderr?.on("data", listen);
    child.on("exit", (code) => reject(new Error(`the server ended with ${code}:\n${output}`)));
  });
  return {
    url,
    data,
    process: child,
    stop: async () => {
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
      if (!keep) rmSync(data, { recursive: true, force: true });
    },
  };
}

/** Debian's Chromium; without 3D where what is measured is the page apart from its (here software-drawn) pictures. */
export async function startBrowser({ draws = true } = {}): Promise<Browser> {
  return chromium.launch({ executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium", args: draws ? FLAGS : [...FLAGS, "--disable-3d-apis"] });
}

export async function newPage(browser: Browser, size = { width: 1280, height: 800 }): Promise<{ page: Page; context: BrowserContext; errors: string[] }> {
  const context = await browser.newContext({ viewport: size, acceptDownloads: true, reducedMotion: "reduce" });
  const page = await context.newPage();
  const errors: string[] = [];
  page.on("pageerror", (error) => errors.push(error.message));
  page.on("console", (message) => {
    if (message.type() === "error" && !/status of (4\d\d|5\d\d)/.test(message.text())) errors.push(message.text());
  });
  return { page, context, errors };
}

/** Opens a clip of the library on the bench and waits until it is posed and measured. */
export async function openClip(page: Page, url: string, title: string): Promise<void> {
  await page.goto(url);
  await page
    .getByRole("button", { name: new RegExp(title) })
    .first()
    .click();
  await page.getByRole("heading", { name: "Findings" }).waitFor();
  await settled(page);
}

/** Waits until the figures on the bench belong to the document as it is, and the save has gone through. */
export async function settled(page: Page): Promise<void> {
  await page.locator("[data-bench=settled]").waitFor({ state: "attached" });
  await page.locator("[data-save=saved]").waitFor();
}
