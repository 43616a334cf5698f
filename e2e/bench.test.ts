import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { frameAt, newPage, openClip, settled } from "./harness.ts";

const test = useBrowserTest();

interface SavedWork {
  readonly document: {
    readonly patches: readonly {
      readonly id: string;
      readonly kind: string;
      readonly range: { readonly start: number; readonly end: number } | null;
      readonly rampIn: number;
    }[];
    readonly body: Record<string, string | null>;
  };
}

describe("the bench", () => {
  it("reorders patches and limits one to a stretch by mouse; the saved work says so", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, night shift walk");
    const id = page.url().split("/").at(-1);
    const saved = async () => (await (await fetch(`${test.server.url}/api/works/${id}`)).json()) as SavedWork;
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByRole("option", { name: /Repair/ }).click();
    await settled(page);
    expect((await saved()).document.patches.map((p) => p.kind)).toEqual(["floor", "plant", "repair"]);

    const plant = (await saved()).document.patches[1].id;
    const grip = await page.getByRole("button", { name: "Move Repair" }).boundingBox();
    if (!grip) throw new Error("the lane cannot be taken hold of");
    await page.mouse.move(grip.x + 5, grip.y + 6);
    await page.mouse.down();
    await page.mouse.move(grip.x + 5, grip.y + 18, { steps: 3 });
    await page.mouse.move(grip.x + 5, grip.y + 31, { steps: 3 });
    // What is told to assistive technology: the lane now lies over its neighbour.
    await page.locator("[id^=DndLiveRegion]").filter({ hasText: plant }).waitFor({ state: "attached" });
    await page.mouse.up();
    await expect.poll(async () => (await saved()).document.patches.map((p) => p.kind)).toEqual(["floor", "repair", "plant"]);

    const handle = await page.locator("[data-patch=repair] [data-handle=end]").boundingBox();
    if (!handle) throw new Error("the picked lane has no handles");
    await page.mouse.move(handle.x + 3, handle.y + 5);
    await page.mouse.down();
    await page.mouse.move(handle.x - 400, handle.y + 5, { steps: 5 });
    await page.mouse.up();
    await settled(page);
    const range = (await saved()).document.patches[1].range;
    // A pointer that the system takes away in the middle of a drag changes nothing.
    const again = await page.locator("[data-patch=repair] [data-handle=end]").boundingBox();
    if (!again) throw new Error("the lane has lost its handles");
    await page.mouse.move(again.x + 3, again.y + 5);
    await page.mouse.down();
    await page.mouse.move(again.x - 200, again.y + 5, { steps: 3 });
    await page.evaluate(() => window.dispatchEvent(new PointerEvent("pointercancel", { pointerId: 1 })));
    await page.mouse.up();
    await settled(page);
    expect((await saved()).document.patches[1].range).toEqual(range);
    expect(range?.start).toBe(0);
    expect(frameAt(range?.end, 30)).toBeGreaterThan(70);
    expect(frameAt(range?.end, 30)).toBeLessThan(95);
    await context.close();
  });

  it("picks a joint on the figure, plays at the clip's own speed, and keeps to a stretch", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Diver, dock patrol");
    const canvas = page.locator("[data-testid=view3d] canvas");
    await canvas.waitFor();
    const box = await canvas.boundingBox();
    if (!box) throw new Error("no view");
    await page.locator("[data-testid=view3d] canvas[data-frame]").waitFor();
    await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.42);
    const label = page.locator("[data-testid=view3d] .text-cobalt");
    await label.waitFor();
    expect(await label.innerText()).toMatch(/Spine|Chest|Hips/);

    const ruler = page.locator(".sticky svg");
    const place = await ruler.boundingBox();
    if (!place) throw new Error("no ruler");
    const at = (frame: number) => place.x + (place.width * (frame + 0.5)) / 151;
    await page.keyboard.down("Shift");
    await page.mouse.move(at(30), place.y + 12);
    await page.mouse.down();
    await page.mouse.move(at(60), place.y + 12, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up("Shift");
    await page.getByRole("button", { name: "30–60 ×" }).waitFor();
    // The page's own clock: frames passed between two looks are seconds × rate, within the stretch.
    const played = await page.evaluate(async () => {
      const field = document.querySelector<HTMLInputElement>("input[aria-label=Frame]");
      const look = () => ({ frame: Number(field?.value), time: performance.now() });
      document.querySelector<HTMLButtonElement>("button[aria-label=Play]")?.click();
      const seen: { frame: number; time: number }[] = [];
      const started = performance.now();
      let changes = 0;
      while (performance.now() - started < 2500 || (changes < 30 && performance.now() - started < 20_000)) {
        await new Promise((resolve) => requestAnimationFrame(resolve));
        seen.push(look());
        if (seen.length > 1 && seen[seen.length - 1].frame !== seen[seen.length - 2].frame) changes++;
      }
      document.querySelector<HTMLButtonElement>("button[aria-label=Pause]")?.click();
      return seen;
    });
    expect(played.length).toBeGreaterThan(3);
    for (const { frame } of played.slice(1)) {
      expect(frame).toBeGreaterThanOrEqual(30);
      expect(frame).toBeLessThanOrEqual(60);
    }
    // A frame is as old as its picture just when it changes. Once round is 31 frames: pictures that are further apart than most of that say nothing of how often it went round.
    const changed = played.filter((p, i) => i > 1 && p.frame !== played[i - 1].frame);
    const steps = changed.slice(1).flatMap((p, i) => (p.time - changed[i].time < 800 ? [{ from: changed[i], to: p }] : []));
    expect(steps.length).toBeGreaterThan(8);
    const frames = steps.reduce((sum, { from, to }) => sum + ((to.frame - from.frame + 31) % 31), 0);
    const rate = (1000 * frames) / steps.reduce((sum, { from, to }) => sum + to.time - from.time, 0);
    expect(rate).toBeGreaterThan(24);
    expect(rate).toBeLessThan(36);
    await context.close();
  });

  it("takes a correction of the body map, and takes it back", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, turn and stop");
    await page.getByRole("button", { name: "Body map" }).click();
    await page.getByText("52 known parts out of 52 joints").waitFor();
    await page.getByLabel("Joint of Left toe").selectOption({ label: "— no such part —" });
    await page.getByText("51 known parts out of 52 joints").waitFor();
    await page.getByLabel("Joint of Head").selectOption("Neck");
    await page.getByRole("row", { name: /Head/ }).getByText("set by hand").waitFor();
    await page.keyboard.press("Escape");
    await page.getByRole("dialog").waitFor({ state: "detached" });
    await settled(page);
    const id = page.url().split("/").at(-1);
    const work = (await (await fetch(`${test.server.url}/api/works/${id}`)).json()) as SavedWork;
    expect(work.document.body).toEqual({ leftToe: null, head: "Neck" });
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await settled(page);
    await page.getByRole("button", { name: "Body map" }).click();
    await page.getByText("52 known parts out of 52 joints").waitFor();
    await context.close();
  });
});
