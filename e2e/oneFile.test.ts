import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath, pathToFileURL } from "node:url";
import type { Browser } from "playwright-core";
import { build, type Plugin } from "vite";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { newPage, openClip, type RunningServer, savedWork, settled, startBrowser, startServer, toFrame } from "./harness.ts";

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));
const KIND = at("../motion/src/testing/crouch.ts");

/** The one line that a new kind needs, added to the registry while this page is built. */
function withKind(): Plugin {
  return {
    name: "one-more-kind",
    enforce: "pre",
    transform(code, id) {
      if (!id.endsWith("motion/src/patches/index.ts")) return null;
      return `import { crouchPatch } from ${JSON.stringify(KIND)};\n${code.replace("registered(trimPatch),", "registered(trimPatch),\n  registered(crouchPatch),")}`;
    },
  };
}

let server: RunningServer;
let browser: Browser;
const folder = mkdtempSync(join(tmpdir(), "stride-kind-"));

beforeAll(async () => {
  await build({
    root: at("../web"),
    logLevel: "error",
    plugins: [withKind()],
    worker: { format: "es", plugins: () => [withKind()] },
    build: { outDir: folder, emptyOutDir: true },
  });
  const preload = join(folder, "kind.mjs");
  writeFileSync(
    preload,
    `import { registered, registerForTest } from ${JSON.stringify(pathToFileURL(at("../motion/src/index.ts")).href)};
import { crouchPatch } from ${JSON.stringify(pathToFileURL(KIND).href)};
registerForTest(registered(crouchPatch));`,
  );
  server = await startServer({ page: folder, preload: [pathToFileURL(preload).href] });
  browser = await startBrowser();
});

afterAll(async () => {
  await browser?.close();
  await server?.stop();
  rmSync(folder, { recursive: true, force: true });
});

describe("a kind of patch that is one file and one line", () => {
  it("stands in menu and palette, on a lane, in the settings panel and in the figures, and is saved and evaluated", async () => {
    const { page, context, errors } = await newPage(browser);
    await openClip(page, server.url, "Porter, waiting");
    await toFrame(page, 45);
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    const item = page.getByRole("option", { name: /^Crouch/ });
    expect(await item.innerText()).toContain("Brings the body down over a stretch.");
    await item.click();
    await page.locator("section[aria-label=Patches] [data-patch=crouch]").getByRole("button", { name: "Crouch", exact: true }).waitFor();
    await settled(page);

    // Its settings are drawn as its schema describes them.
    const panel = page.getByRole("region", { name: "Settings" });
    await panel.getByText("Brings the body down over a stretch.").waitFor();
    expect(await panel.getByRole("textbox", { name: "Deepest at" }).inputValue()).toBe("45");
    await panel.getByRole("textbox", { name: "Down by" }).fill("14");
    await page.keyboard.press("Enter");
    await panel.getByRole("radio", { name: "twice" }).click();
    await panel.getByRole("checkbox", { name: "Calmly" }).check();
    await page.getByRole("tab", { name: "Pose" }).click();
    await page.getByRole("button", { name: "L hand", exact: true }).click();
    await page.getByRole("tab", { name: "Patch" }).click();
    await panel.getByTitle("Parts that go along").getByRole("button", { name: "Take selected" }).click();
    await panel.getByText("Together with: Left hand").waitFor();

    // A list of keys: the value at the playhead, and a key where it is changed.
    expect(await panel.getByRole("textbox", { name: "Share at f 45" }).inputValue()).toBe("100");
    await panel.getByRole("textbox", { name: "Share at f 45" }).fill("50");
    await page.keyboard.press("Enter");
    await panel.getByRole("button", { name: "Clear 1 key" }).waitFor();
    // A hand shape, with no other hand to mirror it to.
    await panel.getByRole("checkbox", { name: "shaped" }).check();
    expect(await panel.getByRole("button", { name: /^Mirror to/ }).count()).toBe(0);
    await panel.getByRole("textbox", { name: "Index curl" }).fill("60");
    await page.keyboard.press("Enter");
    await settled(page);
    const before = await savedWork(page, server.url);
    const fps = before.source.clip.fps;
    const settings = { byCm: 14, depth: "double", calm: true, deepest: 45 / fps, with: [{ role: "leftHand" }], grip: { index: 60, middle: 0 } };
    expect(before.document.patches).toMatchObject([{ kind: "crouch", settings: { ...settings, share: [{ at: 45 / fps, value: 0.5 }] } }]);
    const figures = page.getByRole("table", { name: "Before and after this patch" });
    await expect.poll(() => figures.innerText()).toMatch(/Sink, worst\s+0\.0 cm\s+14\.0 cm/);

    // Without keys it is whole again; then the feet are held, and stay where they were.
    await panel.getByRole("button", { name: "Clear 1 key" }).click();
    await expect.poll(() => figures.innerText()).toMatch(/Sink, worst\s+0\.0 cm\s+28\.0 cm/);
    await panel.getByRole("group", { name: "Holds" }).getByRole("button", { name: "Feet" }).click();
    await expect.poll(() => figures.innerText()).toMatch(/Sink, worst\s+0\.0 cm\s+0\.\d cm/);
    await expect.poll(() => panel.locator("[data-hold=leftFoot]").innerText()).toMatch(/0\.0\d cm 0\.\d°/);
    await settled(page);
    const { document, evaluator } = await savedWork(page, server.url);
    const stays = [{ role: "leftFoot" }, { role: "rightFoot" }].map((part) => ({ part, position: true, orientation: true, on: null }));
    expect(document.patches).toMatchObject([{ kind: "crouch", settings: { ...settings, share: [], stays } }]);
    // This process does not know the kind; the page does, and measured what it makes.
    expect(() => evaluator.evaluate(document)).toThrow(/no kind of patch called "crouch"/);

    await page.keyboard.press("Control+k");
    await page.getByRole("dialog").getByRole("combobox").fill("crouch");
    await page.getByRole("option", { name: "Add patch: Crouch" }).click();
    await expect.poll(() => page.locator("[data-patch=crouch]").count()).toBe(2);
    await settled(page);
    expect(errors).toEqual([]);
    await context.close();
  });
});
