import { demoClips } from "@stride/demo";
import { jointTrack } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { exportFiles, findingTitles, newPage, openClip, savedWork, settingsOf, settled, toFrame } from "./harness.ts";

const test = useBrowserTest({ draws: false });

/** The most that the true steps' toe joints move on the level within the generator's own stances, and the most that their height differs within one, cm. */
function restingToes(
  id: string,
  clip: { skeleton: Parameters<typeof jointTrack>[0]; clip: Parameters<typeof jointTrack>[1] },
): { slide: number; wobble: number } {
  const demo = demoClips().find((c) => c.id === id);
  if (!demo) throw new Error(`no clip ${id}`);
  const { contacts, character } = demo.truth;
  let [slide, wobble] = [0, 0];
  for (const contact of contacts.filter((c) => c.point.endsWith("Toe") && c.end - c.start > 4)) {
    const joint = clip.skeleton.names.indexOf(character.skeleton.names[contact.joint]);
    const { positions: p } = jointTrack(clip.skeleton, clip.clip, joint);
    const at = (f: number, i: number) => p[f * 3 + i];
    for (let f = contact.start + 1; f < contact.end; f++) {
      slide = Math.max(slide, 100 * Math.hypot(at(f, 0) - at(contact.start + 1, 0), at(f, 2) - at(contact.start + 1, 2)));
      wobble = Math.max(wobble, 100 * Math.abs(at(f, 1) - at(contact.start + 1, 1)));
    }
  }
  return { slide, wobble };
}

describe("ground that is no floor", () => {
  it("is a flight of steps: each found at its height, drawn in the plan, stood on without a slide", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, up the quay steps");
    const before = await findingTitles(page);
    expect(before[0]).toBe("Travel too fast");
    expect(before.filter((t) => /tilts|floats|sinks|Motion/.test(t))).toEqual([]);
    await page.keyboard.press("g");
    await settled(page);
    expect(await findingTitles(page)).toEqual([]);
    // Three steps of 17 cm, and the top.
    const plan = page.getByRole("region", { name: "Floor plan" });
    const labels = await plan
      .locator("g[aria-label^=Footprint]")
      .evaluateAll((list) => list.map((g) => /(\d+) cm over/.exec(g.getAttribute("aria-label") ?? "")?.[1] ?? "0"));
    expect([...new Set(labels)]).toEqual(["0", "17", "34", "51"]);
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 139 frames/).waitFor();
    const { clip } = await exportFiles(page);
    const { slide, wobble } = restingToes("porter-up-the-quay-steps", clip);
    expect(slide).toBeLessThan(0.5);
    expect(wobble).toBeLessThan(0.3);
    await page.keyboard.press("Escape");
    // What was found can be taken over as shapes with numbers.
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByRole("option", { name: /^Put on ground/ }).click();
    await page.getByRole("button", { name: "As found: 3 steps of 17 cm" }).click();
    await settled(page);
    expect(await findingTitles(page)).toEqual([]);
    const [shape] = settingsOf<{ shapes: { rise: number; tread: number }[] }>((await savedWork(page, test.server.url)).document, "ground").shapes;
    expect(shape.rise).toBeCloseTo(0.17, 2);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("is a gangway of 8°, which is no fault", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, down the gangway");
    expect(await findingTitles(page)).not.toContain("Floor tilts");
    await page.keyboard.press("g");
    await settled(page);
    expect(await findingTitles(page)).toEqual([]);
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 121 frames/).waitFor();
    const { clip } = await exportFiles(page);
    const { slide, wobble } = restingToes("porter-down-the-gangway", clip);
    expect(slide).toBeLessThan(0.5);
    expect(wobble).toBeLessThan(0.3);
    // The body still goes down by what the gangway does: about 8° over its way.
    const hips = jointTrack(clip.skeleton, clip.clip, 0).positions;
    const o = (clip.clip.frameCount - 1) * 3;
    const degrees = (Math.atan2(hips[1] - hips[o + 1], Math.hypot(hips[o] - hips[0], hips[o + 2] - hips[2])) * 180) / Math.PI;
    expect(degrees).toBeGreaterThan(7);
    expect(degrees).toBeLessThan(9);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("is lain on: back and seat have rows of their own, and legs in the air stand on nothing", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, slip on the ice");
    const rows = page.getByRole("region", { name: "Footfall" });
    for (const part of ["back", "seat"]) await rows.locator(`[data-contact^='${part}:']`).waitFor();
    expect((await findingTitles(page)).filter((t) => /Travel|tilts|Motion|sinks|floats|Back|Seat/.test(t))).toEqual([]);
    const plan = page.getByRole("region", { name: "Floor plan" });
    expect(await plan.locator("g[aria-label*='cm over']").count()).toBe(0);
    await page.keyboard.press("g");
    await settled(page);
    // The feet's slip is taken away with what else slides; the body is not thrown about for it.
    const figures = page.getByRole("table", { name: "Before and after this patch" });
    await expect.poll(() => figures.innerText()).toMatch(/Pose moved\s+[0-3]\.\d cm/);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("is another one that a walk is put onto: steps of a stated rise, a gangway, and level again, in the view, the plan and the file", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, turn and stop");
    await page.keyboard.press("g");
    await settled(page);
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByRole("option", { name: /^Put on ground/ }).click();
    await settled(page);
    await page.getByText("Nothing stands on it.").waitFor();
    await toFrame(page, 0);
    const panel = page.getByRole("group", { name: "Shapes of the ground" });
    await panel.getByRole("button", { name: "Steps", exact: true }).click();
    await settled(page);
    await panel.getByRole("spinbutton", { name: "rise cm" }).fill("12");
    await page.keyboard.press("Enter");
    await panel.getByRole("spinbutton", { name: "steps", exact: true }).fill("3");
    await page.keyboard.press("Enter");
    await settled(page);
    await page.getByText("3 steps of 12 cm").waitFor();
    expect((await findingTitles(page)).filter((t) => /slides|floats|sinks|Motion|stretch/.test(t))).toEqual([]);
    // Large, the plan tells the heights.
    await page.getByRole("button", { name: "Floor plan large" }).click();
    for (const label of ["+12 cm", "+24 cm", "+36 cm"]) await page.getByRole("region", { name: "Floor plan" }).getByText(label, { exact: true }).waitFor();
    await page.getByRole("button", { name: "Floor plan small" }).click();

    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const { shapes } = settingsOf<{ shapes: { shape: string; rise: number; count: number; tread: number }[] }>(document, "ground");
    expect(shapes).toMatchObject([{ shape: "steps", rise: 0.12, count: 3 }]);
    // In the file each toe rests on a step's height over where it rested on the level, and stays there.
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: \d+ frames/).waitFor();
    const { clip } = await exportFiles(page);
    const { slide, wobble } = restingToes("porter-turn-and-stop", clip);
    expect(slide).toBeLessThan(0.5);
    expect(wobble).toBeLessThan(0.3);
    const level = evaluator.evaluate({ ...document, patches: document.patches.filter((p) => p.kind !== "ground") }).result;
    const rises = new Set<number>();
    for (const contact of level.contacts.filter((c) => c.point.endsWith("Toe"))) {
      const [was, is] = [level.clip, clip.clip].map((c) => jointTrack(source.skeleton, c, contact.joint).positions);
      const middle = Math.round((contact.start + contact.end) / 2) * 3 + 1;
      const steps = (is[middle] - was[middle]) / 0.12;
      expect(Math.abs(steps - Math.round(steps)), `${contact.point} ${contact.start}`).toBeLessThan(0.03);
      rises.add(Math.round(steps));
    }
    expect([...rises].sort()).toEqual([0, 1, 2, 3]);
    await page.keyboard.press("Escape");

    // What legs cannot climb is told, leg by leg, with the frames; and no more once it is lower again.
    const told = page
      .getByRole("status")
      .filter({ hasText: /(Left|Right) foot (does not reach its place by up to \d+ cm|is folded up as far as a leg goes) between frames \d+ and \d+/ });
    await panel.getByRole("spinbutton", { name: "rise cm" }).fill("95");
    await page.keyboard.press("Enter");
    await settled(page);
    await expect.poll(() => told.count()).toBeGreaterThan(0);
    await panel.getByRole("spinbutton", { name: "rise cm" }).fill("12");
    await page.keyboard.press("Enter");
    await settled(page);
    await expect.poll(() => told.count()).toBe(0);

    // A slope instead; then nothing, and the motion is the planted one again.
    await panel.getByRole("button", { name: "Take away 3 steps of 12 cm" }).click();
    await panel.getByRole("button", { name: "Slope", exact: true }).click();
    await settled(page);
    await page.getByText("slope of 8°").waitFor();
    expect((await findingTitles(page)).filter((t) => /slides|floats|sinks|Motion|tilts/.test(t))).toEqual([]);
    await panel.getByRole("button", { name: "Take away slope of 8°" }).click();
    await settled(page);
    const bare = await savedWork(page, test.server.url);
    const { result } = bare.evaluator.evaluate(bare.document);
    expect(result.clip.positions).toEqual(level.clip.positions);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("is walked on by a goat, whose parts are called an animal's", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Pim, down the quay");
    for (const row of ["Left hind hoof", "Right hind hoof", "Left fore hoof", "Right fore hoof"]) await page.getByText(row, { exact: true }).first().waitFor();
    await page.getByRole("tab", { name: "Pose" }).click();
    await page.getByRole("button", { name: "L fore", exact: true }).click();
    await page.getByPlaceholder("Search all parts").fill("fore");
    const found = await page.getByRole("listbox", { name: "Parts found" }).innerText();
    expect(found).toContain("Left fore cannon");
    expect(found).toContain("Right fore leg, lower");
    expect(await page.locator("body").innerText()).not.toMatch(/forearm|left hand|right hand|upper arm/i);
    expect(errors).toEqual([]);
    await context.close();
  });
});
