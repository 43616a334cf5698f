import { readFileSync } from "node:fs";
import { type LoopSettings, quatAngleFlat, type RetimeSettings, rangeOfMotion, readMotion, type TravelSettings, type Work } from "@stride/motion";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { addFromMenu, apart, exportFiles, FINDINGS, newPage, openClip, ownRotation, placeOf, savedWork, settingsOf, settled, toFrame } from "./harness.ts";

const test = useBrowserTest({ draws: false });

async function written(page: Page, frames: number) {
  await page.getByRole("heading", { name: "Findings" }).click();
  await page.keyboard.press("Control+e");
  await page.getByText(new RegExp(`Writes .*: ${frames} frames`)).waitFor();
  return exportFiles(page);
}

const onBeats = (page: Page) => page.getByRole("region", { name: "Beats" });

describe("the fall on the ice", () => {
  it("gets beats on its contacts, a longer hold with the legs up, and a harder hit; the file is as long as they say", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, slip on the ice");
    const before = await savedWork(page, test.server.url);
    const { base } = before.evaluator.evaluate(before.document);
    const { fps, frameCount } = base.clip;
    const back = base.contacts.find((c) => c.point === "back");
    if (!back) throw new Error("the fall's back does not rest");

    await toFrame(page, back.start);
    await page.locator("[data-testid=view3d]").focus();
    await page.keyboard.press("d");
    await settled(page);
    await page.getByRole("button", { name: "Propose" }).click();
    const proposals = page.getByRole("list", { name: "Proposed beats" });
    await proposals
      .getByText(/lands|lifts/)
      .first()
      .waitFor();
    expect(await proposals.getByText(/changes direction|is fastest/).count()).toBeGreaterThan(0);
    await page.getByRole("button", { name: "Take all" }).click();
    await settled(page);
    const taken = settingsOf<RetimeSettings>((await savedWork(page, test.server.url)).document, "retime").beats;
    expect(taken.length).toBeGreaterThan(5);
    expect(taken.every((b) => Math.abs(b.from - b.to) < 1e-9)).toBe(true);

    // The hit: frames out of what comes before it.
    await page.getByLabel("frames", { exact: true }).last().fill("4");
    await page.getByLabel("over", { exact: true }).fill("12");
    await page.keyboard.press("Tab");
    await page.getByRole("button", { name: "Take out before" }).click();
    await settled(page);
    // The playhead stays on the hit, which comes sooner.
    await expect.poll(() => page.getByLabel("Frame", { exact: true }).inputValue()).toBe(String(back.start - 4));
    // And legs up for longer.
    await toFrame(page, back.start + 10);
    await page.getByLabel("frames", { exact: true }).first().fill("20");
    await page.keyboard.press("Tab");
    await page.getByRole("button", { name: "Hold longer" }).click();
    await settled(page);

    const { document, evaluator } = await savedWork(page, test.server.url);
    const { result } = evaluator.evaluate(document);
    expect(result.clip.frameCount).toBe(frameCount - 4 + 20);
    const hit = result.contacts.find((c) => c.point === "back");
    expect(Math.abs((hit?.start ?? 0) - (back.start - 4))).toBeLessThanOrEqual(1);
    expect((hit?.end ?? 0) - (hit?.start ?? 0)).toBeGreaterThanOrEqual(back.end - back.start + 18);
    const { clip, note } = await written(page, frameCount + 16);
    expect(clip.clip.frameCount).toBe(frameCount + 16);
    expect(note.written.fps).toBe(fps);
    // The moment of the hit shows the pose that it showed, on its own frame.
    const was = placeOf(base.character.skeleton, base.clip, back.start, "Chest");
    const now = placeOf(clip.skeleton, clip.clip, back.start - 4, "Chest");
    expect(apart(was.at, now.at)).toBeLessThan(0.02);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("keeps what stands over the beats on its moments while one is dragged, by mouse and by key, in one undo step", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, night shift walk");
    await toFrame(page, 40);
    await page.locator("[data-testid=view3d]").focus();
    await page.keyboard.press("d");
    await settled(page);
    await toFrame(page, 60);
    await addFromMenu(page, "Touch-up");
    const range = async () => {
      const { document } = await savedWork(page, test.server.url);
      return document.patches.find((p) => p.kind === "touchUp")?.range;
    };
    expect((await range())?.start).toBeCloseTo(2, 6);
    const beat = onBeats(page).getByRole("button", { name: /^Beat 2 at frame 40/ });
    const box = await beat.boundingBox();
    if (!box) throw new Error("the beat is not drawn");
    const scale = page.locator("section[aria-label=Beats] > div").nth(1);
    const width = (await scale.boundingBox())?.width ?? 0;
    const per = width / 133;
    await page.mouse.move(box.x + box.width / 2, box.y + 6);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + 5 * per, box.y + 6, { steps: 4 });
    await page.mouse.up();
    await settled(page);
    const { document, evaluator } = await savedWork(page, test.server.url);
    const { beats } = settingsOf<RetimeSettings>(document, "retime");
    expect(Math.round(beats[1].to * 30)).toBe(45);
    // The touch-up is on the moment that it was put on: the same source frame.
    const moved = await range();
    const { stages } = evaluator.evaluate(document);
    const { clip } = stages[0].motion;
    const q = ownRotation(clip, 5, Math.round((moved?.start ?? 0) * 30));
    const source = ownRotation(evaluator.sources.main.clip, 5, 60);
    expect((quatAngleFlat(Float64Array.from(q), 0, Float64Array.from(source), 0) * 180) / Math.PI).toBeLessThan(1);
    expect(moved?.start).toBeGreaterThan(2.02);
    await onBeats(page)
      .getByRole("button", { name: /^Beat 2/ })
      .press("ArrowRight");
    await settled(page);
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await settled(page);
    expect((await range())?.start).toBeCloseTo(2, 6);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("the stiff clerk's cycle", () => {
  it("is found, authored for half and mirrored to the other, and closes: last frame equal to first, feet still", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Diver, dock patrol");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await addFromMenu(page, "Loop");
    await page.getByRole("table", { name: "Cycles found, best first" }).getByRole("row").nth(1).waitFor();
    await page
      .getByRole("button", { name: /^Use frames/ })
      .nth(1)
      .click();
    await settled(page);
    await page.getByRole("radio", { name: "First", exact: true }).click();
    await page.getByRole("textbox", { name: "Repeats" }).fill("2");
    await page.keyboard.press("Enter");
    await settled(page);
    const { document, source } = await savedWork(page, test.server.url);
    const loop = settingsOf<LoopSettings>(document, "loop");
    const cycle = Math.round(((loop.to ?? 0) - (loop.from ?? 0)) * 30);
    expect(cycle % 44).toBe(0);
    const { clip, note } = await written(page, 2 * cycle + 1);
    const { skeleton } = source;
    for (const joint of skeleton.names.keys()) {
      if (joint === 0) continue;
      const [a, b] = [ownRotation(clip.clip, joint, 0), ownRotation(clip.clip, joint, 2 * cycle)].map((q) => Float64Array.from(q));
      expect(quatAngleFlat(a, 0, b, 0), skeleton.names[joint]).toBeLessThan(2e-5);
    }
    expect(note.after.slideWorstCm).toBeLessThan(0.05);
    // The other half is the mirror image: half a cycle later the other foot is where this one was, against the hips.
    const lead = (f: number, foot: string) => {
      const [a, b] = [placeOf(skeleton, clip.clip, f, foot).at, placeOf(skeleton, clip.clip, f, "Hips").at];
      return a[2] - b[2];
    };
    const half = cycle / 2;
    for (const f of [2, 7, 12]) {
      const other = (lead(Math.floor(f + half), "RightFoot") + lead(Math.ceil(f + half), "RightFoot")) / 2;
      expect(Math.abs(lead(f, "LeftFoot") - other)).toBeLessThan(0.03);
    }
    // It can be played around its seam by a key, and compared side by side in step.
    await page.locator("[data-testid=view3d]").focus();
    await page.keyboard.press("s");
    await page.getByTitle("Play the whole clip again").waitFor();
    await page.keyboard.press(" ");
    await page.getByRole("radio", { name: "Side by side" }).click();
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("less sway on a retimed clip", () => {
  it("halves the hips' sway while the chest keeps its course, at half the speed; the file proves it", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, crouched walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await addFromMenu(page, "Retime");
    await page.getByRole("textbox", { name: "Speed" }).fill("50");
    await page.keyboard.press("Enter");
    await settled(page);
    await addFromMenu(page, "Amplitude");
    await page.getByLabel("Hips sway, side to side").check();
    await page.getByRole("textbox", { name: "Size of the movement" }).fill("50");
    await page.keyboard.press("Enter");
    await page.getByRole("tab", { name: "Pose" }).click();
    await page.getByRole("button", { name: "Chest", exact: true }).click();
    await page.getByRole("button", { name: "Hold selected" }).click();
    await settled(page);
    const { document, evaluator, source } = await savedWork(page, test.server.url);
    const without: Work = { ...document, patches: document.patches.filter((p) => p.kind !== "amplitude") };
    const before = evaluator.evaluate(without).result;
    const { clip } = await written(page, 253);
    const [was, now] = [rangeOfMotion(before, 0, 252), rangeOfMotion({ ...before, clip: clip.clip }, 0, 252)];
    expect(now.swayCm / was.swayCm).toBeGreaterThan(0.49);
    expect(now.swayCm / was.swayCm).toBeLessThan(0.51);
    for (let f = 0; f <= 252; f += 3) {
      const [a, b] = [placeOf(source.skeleton, before.clip, f, "Chest"), placeOf(source.skeleton, clip.clip, f, "Chest")];
      expect(apart(a.at, b.at) * 100, `frame ${f}`).toBeLessThan(0.01);
    }
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("the other hand", () => {
  it("is a copy with a name from a template; heading kept, and twice mirrored the source again", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, hands through the apron");
    await addFromMenu(page, "Mirror");
    await page.getByRole("button", { name: "Mirrored copy…" }).click();
    const dialog = page.getByRole("dialog", { name: "Mirrored copy" });
    await dialog.getByRole("radio", { name: "A clip" }).click();
    await dialog.getByLabel("Prefix").fill("quay ");
    await dialog.getByLabel("Name").fill("{name} {n}");
    await dialog.getByLabel("Suffix").fill(" other hand");
    const name = "quay Porter, hands through the apron 1 other hand";
    await dialog.getByText(name, { exact: true }).waitFor();
    await dialog.getByRole("button", { name: "Make copy" }).click();
    await page.getByText(/is in the library/).waitFor();
    const { source } = await savedWork(page, test.server.url);

    const clips = ((await (await fetch(`${test.server.url}/api/clips?limit=200`)).json()) as { clips: { id: string; name: string }[] }).clips;
    const copy = clips.find((c) => c.name === name);
    if (!copy) throw new Error(`no clip ${name} in ${clips.map((c) => c.name).join(", ")}`);
    const bytes = new Uint8Array(await (await fetch(`${test.server.url}/api/clips/${copy.id}/source`)).arrayBuffer());
    const made = readMotion(bytes, { fileName: "copy.bvh" });
    const place = (clip: typeof source.clip, f: number, joint: string) => placeOf(source.skeleton, clip, f, joint).at;
    const [first, hips] = [place(source.clip, 0, "Hips"), place(made.clip, 0, "Hips")];
    expect(apart(first, hips)).toBeLessThan(1e-4);
    // The hand that was at the belly on the one side now is on the other, as far before it and as high.
    for (const f of [10, 40, 70]) {
      const [l, r] = [place(source.clip, f, "LeftHand"), place(made.clip, f, "RightHand")];
      expect(Math.abs(l[1] - r[1])).toBeLessThan(1e-3);
    }
    // The copy, mirrored again, is what it was made of.
    await openClip(page, test.server.url, name);
    await addFromMenu(page, "Mirror");
    const { clip } = await written(page, source.clip.frameCount);
    for (let f = 0; f < source.clip.frameCount; f += 9)
      for (const joint of ["Head", "LeftHand", "RightHand", "LeftToe"])
        expect(apart(place(source.clip, f, joint), place(clip.clip, f, joint)), `${joint} ${f}`).toBeLessThan(1e-4);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("the arithmetic", () => {
  it("reckons what is typed, adds figure and ground up, and sets a travel that no longer fits right", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await context.grantPermissions(["clipboard-read", "clipboard-write"]);
    await openClip(page, test.server.url, "Porter, late for the ferry");
    await addFromMenu(page, "Travel");
    const card = page.getByRole("region", { name: "Arithmetic of the gait" });
    const row = (label: string) => card.getByRole("row", { name: new RegExp(label) });
    await row("Speed by the formula").waitFor();
    const type = async (label: string, value: string) => {
      await card.getByRole("spinbutton", { name: label }).fill(value);
      await page.keyboard.press("Enter");
    };
    await type("Step, cm", "71.3");
    await type("Frames / cycle", "34");
    await type("Frames / s", "30");
    await expect.poll(() => row("Speed by the formula").innerText()).toMatch(/125\.82 cm\/s/);
    await expect.poll(() => row("Travel in 6 s").innerText()).toMatch(/754\.94 cm/);
    await row("Speed by the formula").getByRole("button").click();
    const copied = Number(await page.evaluate(() => navigator.clipboard.readText()));
    expect(copied).toBeCloseTo((2 * 71.3 * 30) / 34, 9);
    await card.getByRole("button", { name: "Back to what is measured" }).click();

    // The capture goes too fast for its legs, which is noticed, and put right by a press.
    const figure = async (label: string) => Number((await row(label).getByRole("cell").nth(1).innerText()).replace(/[^\d.]/g, ""));
    const [legs, body] = [await figure("Speed by the formula"), await figure("Body travels")];
    expect(body / legs).toBeGreaterThan(1.04);
    await page.getByRole("button", { name: /^Set the travel to/ }).click();
    await settled(page);
    await expect.poll(() => figure("Body travels")).toBeCloseTo(legs, 0);
    await expect.poll(() => page.getByRole("button", { name: /^Set the travel to/ }).count()).toBe(0);
    await page.getByRole("textbox", { name: "Ground moves" }).fill("25");
    await page.keyboard.press("Enter");
    await settled(page);
    await expect.poll(() => figure("and the ground")).toBeCloseTo(legs / 4, 0);
    expect((await figure("of that the figure")) + (await figure("and the ground"))).toBeCloseTo(await figure("Body travels"), 1);
    const travel = settingsOf<TravelSettings>((await savedWork(page, test.server.url)).document, "travel");
    expect(travel.groundShare).toBe(0.25);
    expect(100 * (travel.speed ?? 0)).toBeCloseTo(legs, 1);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("a long capture", () => {
  it("lists its findings by cause and part on about twenty lines, and treats all of one kind as one step", async () => {
    const form = new FormData();
    form.append("file", new File([new Uint8Array(readFileSync("/usr/share/assimp/models/BVH/01_01.bvh"))], "01_01.bvh"));
    await fetch(`${test.server.url}/api/clips`, { method: "POST", body: form });
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "01_01");
    const lines = page.locator(`${FINDINGS} :is(button[aria-pressed], button[aria-expanded])`);
    expect(await lines.count()).toBeGreaterThan(3);
    expect(await lines.count()).toBeLessThanOrEqual(22);
    const group = page
      .locator(`${FINDINGS} button[aria-expanded]`)
      .filter({ hasText: /stretches|frames/ })
      .first();
    await group.click();
    const treat = page.getByRole("button", { name: /^Treat all/ });
    const count = Number((await treat.innerText()).match(/\d+/)?.[0]);
    expect(count).toBeGreaterThan(1);
    await treat.click();
    await settled(page);
    const patches = async () => (await savedWork(page, test.server.url)).document.patches.length;
    expect(await patches()).toBeGreaterThan(0);
    await page.keyboard.press("Control+z");
    await settled(page);
    expect(await patches()).toBe(0);
    expect(errors).toEqual([]);
    await context.close();
  });
});
