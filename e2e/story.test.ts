import { type Clip, Evaluator, emptyWork, jointLabels, measure, oneSource, readMotion, totalsOf } from "@stride/motion";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { exportFiles, FINDINGS, findingTitles, newPage, openClip, ownRotation, savedWork, settled } from "./harness.ts";

const test = useBrowserTest();

/** Moves a handle of a picked bar by whole frames with the mouse. */
async function dragHandle(page: Page, contact: string, handle: string, frames: number): Promise<void> {
  const box = await page.locator(`[data-contact='${contact}'] [data-handle=${handle}]`).boundingBox();
  const ruler = await page.locator("section[aria-label='Footfall chart'] svg").first().boundingBox();
  const last = Number(((await page.getByText(/^\/ \d+ ·/).innerText()).match(/\/ (\d+)/) ?? [])[1]);
  if (!box || !ruler) throw new Error("no such handle");
  const perFrame = ruler.width / (last + 1);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + (perFrame * frames) / 2, y, { steps: 2 });
  await page.mouse.move(x + perFrame * frames, y, { steps: 2 });
  await page.mouse.up();
}

describe("the slipping porter", () => {
  it("is opened, read, planted, adjusted foot by foot, repaired, compared and taken away clean", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, night shift walk");

    // What is wrong, worst first: the cause before its many effects.
    const before = await findingTitles(page);
    expect(before[0]).toBe("Travel too fast");
    expect(before).toEqual(expect.arrayContaining(["Left toe slides", "Right toe slides", "Floor tilts", "Left hand pops", "Right toe jitters"]));

    // A finding leads to its place: playhead inside its span, its bar picked.
    await page
      .locator(FINDINGS)
      .getByRole("button", { name: /Left toe slides/ })
      .first()
      .click();
    const picked = (await page.locator("[data-contact][aria-pressed=true]").getAttribute("data-contact")) ?? "";
    const [, from, to] = /leftToe:(\d+)-(\d+)/.exec(picked) ?? [];
    const frame = Number(await page.getByLabel("Frame", { exact: true }).inputValue());
    expect(frame).toBeGreaterThanOrEqual(Number(from));
    expect(frame).toBeLessThanOrEqual(Number(to));

    // Ground the feet by keyboard.
    await page.keyboard.press("g");
    await settled(page);
    const figures = page.getByRole("table", { name: "Before and after this patch" });
    await expect.poll(() => figures.innerText()).toMatch(/Slide, worst\s+[78]\.\d cm\s+0\.0 cm/);
    expect(await findingTitles(page)).not.toContain("Left toe slides");

    // One span's end is pulled two frames in, with the mouse; the bar and the saved work follow.
    await dragHandle(page, picked, "end", -2);
    await settled(page);
    await page.locator(`[data-contact='leftToe:${from}-${Number(to) - 2}']`).waitFor();
    await page.getByText("set by hand").waitFor();
    // Its foot is laid flat where it lands, and goes on resting still.
    await page.getByRole("region", { name: "Selected contact" }).getByLabel("flat % (as plant)").fill("100");
    await page.keyboard.press("Enter");
    await settled(page);
    await page.getByRole("region", { name: "Selected contact" }).getByLabel("laid flat %").waitFor();
    expect((await savedWork(page, test.server.url)).document.contacts).toMatchObject([{ point: "leftToe", flat: 1 }]);

    // The toe that twists and the hand that jumps are repaired alone.
    for (const title of [/Right toe jitters/, /Left hand pops/]) {
      await page.locator(FINDINGS).getByRole("button", { name: title }).first().click();
      await page.getByRole("button", { name: "Treat: add Repair" }).click();
      await settled(page);
    }
    await expect.poll(async () => (await findingTitles(page)).filter((t) => /slides|Travel|Floor|floats|sinks|hand pops/.test(t))).toEqual([]);

    // Before and after, in place and side by side.
    await page.keyboard.press("b");
    await page.getByRole("radio", { name: "Before", exact: true, checked: true }).waitFor();
    await page.getByRole("radio", { name: "Side by side" }).click();
    await page.getByRole("radio", { name: "After", exact: true }).click();

    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 133 frames at 30 fps, 52 joints/).waitFor();
    const { clip, note } = await exportFiles(page);
    expect(note.before.slideWorstCm).toBeGreaterThan(7.5);
    expect(note.after.slideWorstCm).toBeLessThan(0.05);
    expect(note.after.travelErrorPercent).toBeLessThan(1);
    const measured = totalsOf(measure(new Evaluator(oneSource(clip.skeleton, clip.clip)).evaluate(emptyWork()).base));
    expect(measured.slideP95Cm).toBeLessThan(0.5);
    expect(Math.abs(measured.heightWorstCm)).toBeLessThan(0.5);

    // Every joint off the legs and off the repairs turns as it did in the source.
    const row = ((await (await fetch(`${test.server.url}/api/clips?limit=200`)).json()) as { clips: { id: string; name: string }[] }).clips;
    const id = row.find((c) => c.name === "Porter, night shift walk")?.id;
    const source = readMotion(new Uint8Array(await (await fetch(`${test.server.url}/api/clips/${id}/source`)).arrayBuffer()), { fileName: "in.bvh" });
    for (const name of ["Spine", "Chest", "Head", "LeftUpperArm", "RightUpperArm", "RightForearm", "RightHand", "LeftIndex2"]) {
      expect(worstDifference(source.clip, clip.clip, source.skeleton.names.indexOf(name)), name).toBeLessThan(1e-6);
    }
    expect(errors).toEqual([]);
    await context.close();
  });

  it("keeps every step undoable, across mute, delete, rename and reload", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Diver, dock patrol");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    const lanes = page.locator("section[aria-label=Patches]");
    await expect.poll(() => lanes.locator("[data-patch]").count()).toBe(2);

    const open = async () => Number(((await page.getByText(/\d+ open, \d+ treated/).innerText()).match(/^(\d+)/) ?? [])[1]);
    const clean = await open();
    await page.getByRole("button", { name: "Mute Plant feet" }).click();
    await settled(page);
    expect(await open()).toBeGreaterThan(clean);
    await page.keyboard.press("Control+z");
    await settled(page);
    expect(await open()).toBe(clean);

    await lanes.getByRole("button", { name: "Plant feet", exact: true }).dblclick();
    await page.getByLabel("Patch name").fill("Heavy boots, planted");
    await page.keyboard.press("Enter");
    await lanes.getByRole("button", { name: "Heavy boots, planted", exact: true }).waitFor();
    await lanes.getByText("Heavy boots, planted").hover();
    await page.getByRole("button", { name: "Delete Heavy boots, planted" }).click();
    await expect.poll(() => lanes.locator("[data-patch]").count()).toBe(1);
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await lanes.getByRole("button", { name: "Plant feet", exact: true }).waitFor();
    await page.keyboard.press("Control+Shift+z");
    await settled(page);

    await page.reload();
    await settled(page);
    await page.locator("section[aria-label=Patches]").getByRole("button", { name: "Heavy boots, planted", exact: true }).waitFor();

    // Any earlier save can be put back.
    await page.getByRole("button", { name: "History" }).click();
    await page.getByText("Started").waitFor();
    await page.getByRole("listitem").filter({ hasText: "Started" }).getByRole("button", { name: "Restore" }).click();
    await expect.poll(() => page.locator("[data-patch]").count()).toBe(0);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("edits contacts by keyboard: adds one, moves its ends, removes a found one", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, waiting");
    const chart = page.locator("section[aria-label='Footfall chart']");
    const count = await chart.locator("[data-contact^=rightToe]").count();
    await page.getByLabel("Frame", { exact: true }).fill("121");
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: "Add a contact of the right toe at the playhead" }).click();
    await settled(page);
    const added = chart.locator("[data-contact='rightToe:116-126']");
    await added.waitFor();
    expect(await chart.locator("[data-contact^=rightToe]").count()).toBe(count + 1);
    await added.focus();
    await page.keyboard.press("Alt+ArrowRight");
    await chart.locator("[data-contact='rightToe:117-126']").waitFor();
    await chart.locator("[data-contact='rightToe:117-126']").focus();
    await page.keyboard.press("Delete");
    await expect.poll(() => chart.locator("[data-contact^=rightToe]").count()).toBe(count);
    await settled(page);
    await context.close();
  });
});

/** Largest angle-like difference of a joint's rotations (largest component difference, signs aligned). */
function worstDifference(a: Clip, b: Clip, joint: number): number {
  expect(joint, jointLabels.name).toBeGreaterThanOrEqual(0);
  let worst = 0;
  for (let f = 0; f < a.frameCount; f++) {
    const [p, q] = [ownRotation(a, joint, f), ownRotation(b, joint, f)];
    const dot = p.reduce((sum, v, i) => sum + v * q[i], 0);
    p.forEach((v, i) => {
      worst = Math.max(worst, Math.abs(v - Math.sign(dot) * q[i]));
    });
  }
  return worst;
}
