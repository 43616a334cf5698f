import { type ChildProcess, spawn } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { type Clip, Evaluator, type MotionFile, oneSource, PoseFrame, readMotion, readRotation, type Skeleton, type Work } from "@stride/motion";
import type { ResultNote } from "@stride/server";
import { type Browser, type BrowserContext, chromium, type Download, type Page } from "playwright-core";
import { expect } from "vitest";

const ROOT = fileURLToPath(new URL("..", import.meta.url));

const FLAGS = [
  "--headless",
  "--no-sandbox",
  "--disable-quic",
  "--no-first-run",
  "--disable-background-networking",
  "--disable-component-update",
  "--disable-sync",
];
/** 3D drawn by software. */
const DRAWING = ["--use-angle=swiftshader", "--disable-gpu-compositing", "--enable-unsafe-swiftshader"];
/** No 3D; the page itself is painted without the detour over a drawing library. */
const PAINTING = ["--disable-3d-apis", "--disable-gpu"];

export interface RunningServer {
  readonly url: string;
  readonly data: string;
  readonly process: ChildProcess;
  stop(): Promise<void>;
}

/** How a server is started: with another page than the built one, and with modules loaded first. */
interface ServerOptions {
  readonly page?: string;
  readonly preload?: readonly string[];
  /** what is put into its data folder before it starts */
  readonly prepare?: (data: string) => void;
  /** a data folder that is there already, and stays; else an empty one of its own */
  readonly folder?: string;
}

/** Starts the real server with an empty data folder on a free port; the demo clips load by themselves. */
export async function startServer({ page, preload = [], prepare, folder }: ServerOptions = {}): Promise<RunningServer> {
  const data = folder ?? mkdtempSync(join(tmpdir(), "stride-e2e-"));
  prepare?.(data);
  // What a module adds before it starts, it adds to the sources.
  const program = preload.length > 0 ? ["--import", "tsx", ...preload.flatMap((module) => ["--import", module]), "server/src/main.ts"] : [".built/server.js"];
  const child = spawn(process.execPath, program, {
    cwd: ROOT,
    env: { ...process.env, STRIDE_DATA: data, PORT: "0", ...(page && { STRIDE_PAGE: page }) },
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
      if (folder === undefined) rmSync(data, { recursive: true, force: true });
    },
  };
}

/** Debian's Chromium; without 3D where what is measured is the page apart from its (here software-drawn) pictures. */
export async function startBrowser({ draws = true } = {}): Promise<Browser> {
  return chromium.launch({ executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium", args: [...FLAGS, ...(draws ? DRAWING : PAINTING)] });
}

/** Refusals that a test asks for, and what the view says where a browser was started without 3D. */
const EXPECTED = /status of (4\d\d|5\d\d)|WebGL context could not be created. Reason: +disabled by|Error creating WebGL context/;

export async function newPage(
  browser: Browser,
  size = { width: 1280, height: 800 },
  look: "figure" | "skin" | "bones" = "figure",
): Promise<{ page: Page; context: BrowserContext; errors: string[] }> {
  const context = await browser.newContext({ viewport: size, acceptDownloads: true, reducedMotion: "reduce" });
  // A machine that does three things at once may take its time over a picture; what never comes still fails.
  context.setDefaultTimeout(120_000);
  const page = await context.newPage();
  // The lay figure is drawn much quicker by software than a skin; who looks at skins says so.
  await page.addInitScript((look) => {
    if (!localStorage.getItem("stride-look")) localStorage.setItem("stride-look", look);
  }, look);
  const errors: string[] = [];
  page.on("pageerror", (error) => errors.push(error.stack ?? error.message));
  page.on("console", (message) => {
    if (message.type() === "error" && !EXPECTED.test(message.text())) errors.push(message.text());
  });
  return { page, context, errors };
}

/** Searches the library, until what it lists is what was asked for: what is about to give way to something else cannot be pressed. */
export async function searchLibrary(page: Page, words: string): Promise<void> {
  await page.getByPlaceholder("Search clips").fill(words);
  await page.locator("main[aria-busy=false]").waitFor();
}

/** Presses a clip in the list of clips that is open, found by its name. */
export async function pickClip(page: Page, words: string, name = new RegExp(words, "i")): Promise<void> {
  await page.getByPlaceholder("Which clip?").fill(words);
  const list = page.locator("[cmdk-list][aria-busy=false]");
  await list.getByRole("option", { name }).first().click();
  await page.getByPlaceholder("Which clip?").waitFor({ state: "detached" });
}

/** Chooses a clip of the library for the patch that is picked. */
export async function chooseClip(page: Page, field: RegExp, name: string): Promise<void> {
  await page.getByRole("button", { name: field }).first().click();
  await pickClip(page, name, new RegExp(`^${name}`));
  await page.getByRole("button", { name: new RegExp(`${field.source}: ${name}`) }).waitFor();
  await settled(page);
}

/** Opens a clip of the library on the bench and waits until it is posed and measured. */
export async function openClip(page: Page, url: string, title: string): Promise<void> {
  await page.goto(url);
  // Of a long list only what is in sight is there.
  await searchLibrary(page, title);
  await page
    .getByRole("main")
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

export const FINDINGS = "section[aria-label='List of findings']";

/** Titles of the open findings, worst first; of several of one cause and part the title once. */
export async function findingTitles(page: Page): Promise<string[]> {
  return page.locator(`${FINDINGS} :is(button[aria-pressed], button[aria-expanded]) .font-semibold:first-child`).allInnerTexts();
}

/** Adds a patch from the menu. */
export async function addFromMenu(page: Page, title: string): Promise<void> {
  await page.getByRole("button", { name: "Patch", exact: true }).click();
  await page.getByRole("option", { name: new RegExp(`^${title}`) }).click();
  await settled(page);
}

/** Chooses the character that the cast which is picked goes onto. */
export async function chooseCharacter(page: Page, name: string): Promise<void> {
  await page.getByRole("group", { name: "Onto" }).locator("label", { hasText: name }).click();
  await page.getByRole("table", { name: "How it came out" }).waitFor();
  await settled(page);
}

/** Writes the files of the open export dialog and reads them back. */
export async function exportFiles(page: Page): Promise<{ clip: MotionFile; text: string; note: ResultNote }> {
  const downloads: Download[] = [];
  page.on("download", (d) => downloads.push(d));
  await page.getByRole("button", { name: "Write file" }).click();
  await expect.poll(() => downloads.length).toBe(2);
  const content = async (ending: string) => readFileSync((await downloads.find((d) => d.suggestedFilename().endsWith(ending))?.path()) ?? "", "utf8");
  const text = await content(".bvh");
  return { text, clip: readMotion(new TextEncoder().encode(text), { fileName: "out.bvh" }), note: JSON.parse(await content(".json")) as ResultNote };
}

/** The work that is open, as the server has it, with its source and what the same stack makes of it here. */
export async function savedWork(page: Page, url: string): Promise<{ document: Work; source: MotionFile; evaluator: Evaluator }> {
  const id = page.url().split("/").at(-1);
  const row = (await (await fetch(`${url}/api/works/${id}`)).json()) as { document: Work; clipId: string };
  const bytes = new Uint8Array(await (await fetch(`${url}/api/clips/${row.clipId}/source`)).arrayBuffer());
  const source = readMotion(bytes, { fileName: "source.bvh" });
  return { document: row.document, source, evaluator: new Evaluator(oneSource(source.skeleton, source.clip)) };
}

export async function toFrame(page: Page, frame: number): Promise<void> {
  await page.getByLabel("Frame", { exact: true }).fill(String(frame));
  await page.keyboard.press("Enter");
}

/** Selects a part by its label in the list of all parts. */
export async function pickPart(page: Page, name: string): Promise<void> {
  const search = page.getByRole("searchbox", { name: "Search parts" });
  await search.fill(name);
  await page.getByRole("listbox", { name: "Parts found" }).getByRole("option", { name, exact: true }).click();
  await search.fill("");
}

export async function useTool(
  page: Page,
  which: "Turn selected parts" | "Move selected parts by reach",
  axes: "own" | "parent" | "body" | "world",
): Promise<void> {
  await page.getByRole("button", { name: which }).click();
  await page.getByLabel("Axes").selectOption(axes);
}

/** Types an amount of a turn or a move. */
export async function typeAmount(page: Page, field: string, value: number): Promise<void> {
  await page.getByLabel(field).fill(String(value));
  await page.keyboard.press("Enter");
  await settled(page);
}

/** World place and rotation of a joint at a frame. */
export function placeOf(skeleton: Skeleton, clip: Clip, f: number, name: string): { at: number[]; turn: Float64Array } {
  const frame = new PoseFrame(skeleton, clip);
  frame.load(clip, f);
  const j = skeleton.names.indexOf(name);
  return { at: Array.from(frame.worldPositions.slice(j * 3, j * 3 + 3)), turn: frame.worldRotations.slice(j * 4, j * 4 + 4) };
}

/** A moment of a saved document as the frame of a clip of this rate that it is. Throws where it is between frames. */
export function frameAt(seconds: number | undefined, fps: number): number {
  const frame = (seconds ?? Number.NaN) * fps;
  if (!(Math.abs(frame - Math.round(frame)) < 1e-6)) throw new Error(`${seconds} s is no frame at ${fps} a second`);
  return Math.round(frame);
}

/** A joint's own rotation at a frame, quaternion [x, y, z, w]. */
export function ownRotation(clip: Clip, joint: number, f: number): number[] {
  const q = [0, 0, 0, 1];
  readRotation(clip, joint, f, q, 0);
  return q;
}

export function apart(a: readonly number[], b: readonly number[]): number {
  return Math.hypot(...a.map((v, i) => v - b[i]));
}

/** Settings of the first patch of a kind. Throws when the work has none. */
export function settingsOf<S>(work: Work, kind: string): S {
  const patch = work.patches.find((p) => p.kind === kind);
  if (!patch) throw new Error(`the work has no patch of kind ${kind}`);
  return patch.settings as S;
}
