import { angleCurves, findPart, gaugeOf, type LayerSettings, measuredCurve, type TouchUpSettings } from "@stride/motion";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { differences } from "../motion/src/testing/patched.ts";
import { useBrowserTest } from "./fixture.ts";
import { apart, frameAt, newPage, openClip, ownRotation, pickPart, placeOf, savedWork, settingsOf, settled, toFrame, typeAmount, useTool } from "./harness.ts";

const test = useBrowserTest();

async function openPose(page: Page, title: string): Promise<void> {
  await openClip(page, test.server.url, title);
  await page.getByRole("tab", { name: "Pose" }).click();
}

/** Where the selected part stands on the screen, once the view has drawn this frame. */
async function partOnScreen(page: Page): Promise<{ x: number; y: number }> {
  const frame = await page.getByLabel("Frame", { exact: true }).inputValue();
  const canvas = page.locator(`[data-testid=view3d] canvas[data-frame="${frame}"][data-part*=","]`);
  await canvas.waitFor();
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(resolve)))));
  const [x, y] = ((await canvas.getAttribute("data-part")) ?? "").split(",").map(Number);
  const box = await canvas.boundingBox();
  if (!box) throw new Error("no view");
  return { x: box.x + x, y: box.y + y };
}

async function dragBy(page: Page, from: { x: number; y: number }, dx: number, dy: number): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + dx / 2, from.y + dy / 2, { steps: 3 });
  await page.mouse.move(from.x + dx, from.y + dy, { steps: 3 });
  await page.mouse.up();
  await settled(page);
}

describe("posing in the view", () => {
  it("moves a hand by its axes with the mouse, finely with Shift, one undo each; the hand arrives and feet stay", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Porter, waiting");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await toFrame(page, 60);
    await page.getByRole("button", { name: "R hand" }).click();
    await useTool(page, "Move selected parts by reach", "world");
    await settled(page);
    const grounded = await savedWork(page, test.server.url);
    const before = grounded.evaluator.evaluate(grounded.document).result.clip;
    await dragBy(page, await partOnScreen(page), 60, -50);
    await page.getByRole("button", { name: "Touch-up f60", exact: true }).waitFor();
    const moved = await savedWork(page, test.server.url);
    const [edit] = settingsOf<TouchUpSettings>(moved.document, "touchUp").edits;
    if (edit.op !== "move") throw new Error("no move was written");
    expect(Math.hypot(...edit.centimetres)).toBeGreaterThan(5);
    const after = moved.evaluator.evaluate(moved.document).result.clip;
    const { skeleton } = moved.source;
    const went = placeOf(skeleton, after, 60, "RightHand").at.map((v, i) => (v - placeOf(skeleton, before, 60, "RightHand").at[i]) * 100);
    went.forEach((v, i) => {
      expect(v).toBeCloseTo(edit.centimetres[i], 1);
    });
    for (const foot of ["LeftFoot", "RightFoot"])
      expect(apart(placeOf(skeleton, after, 60, foot).at, placeOf(skeleton, before, 60, foot).at)).toBeLessThan(1e-4);

    // With Shift held the hand goes a tenth as far.
    const here = await partOnScreen(page);
    await page.keyboard.down("Shift");
    await dragBy(page, here, 60, -50);
    await page.keyboard.up("Shift");
    const fine = await savedWork(page, test.server.url);
    const [both] = settingsOf<TouchUpSettings>(fine.document, "touchUp").edits;
    if (both.op !== "move") throw new Error("the drags are not one move");
    const more = Math.hypot(...both.centimetres.map((v, i) => v - edit.centimetres[i]));
    expect(more).toBeGreaterThan(0.2);
    expect(more).toBeLessThan(0.25 * Math.hypot(...edit.centimetres));
    await page.keyboard.press("Control+z");
    await page.keyboard.press("Control+z");
    await settled(page);
    expect((await savedWork(page, test.server.url)).document).toEqual(grounded.document);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("drags a dot of a hand's trail: a touch-up with a soft falloff in time", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Diver, dock patrol");
    await toFrame(page, 70);
    await page.getByRole("button", { name: "L hand" }).click();
    await page.getByRole("button", { name: "Trail of the selected part" }).click();
    await dragBy(page, await partOnScreen(page), 0, -45);
    await page.getByRole("button", { name: "Trail of left hand, f 70", exact: true }).waitFor();
    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const [patch] = document.patches;
    expect(patch).toMatchObject({ kind: "touchUp", range: { start: 70 / 30, end: 70 / 30 }, rampIn: 8 / 30, rampOut: 8 / 30 });
    const { result } = evaluator.evaluate(document);
    const lift = (f: number) => placeOf(source.skeleton, result.clip, f, "LeftHand").at[1] - placeOf(source.skeleton, source.clip, f, "LeftHand").at[1];
    expect(lift(70)).toBeGreaterThan(0.05);
    expect(lift(66)).toBeCloseTo(lift(70) / 2, 2);
    expect(differences(source.clip, result.clip).frames.every((f) => f > 62 && f < 78)).toBe(true);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("curves", () => {
  it("keys an angle with the mouse, makes a stretch of a toe's height level, and shows what is changed", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Porter, night shift walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await page.getByRole("button", { name: "Head", exact: true }).click();
    await page.getByRole("radio", { name: "Curves" }).click();
    await page.getByRole("button", { name: "Head x", exact: true }).click();
    await toFrame(page, 50);
    await settled(page);
    await page.getByRole("button", { name: "Key", exact: true }).click();
    await settled(page);
    const key = page.locator("[data-key$=':x@50']");
    await key.waitFor();
    const box = await key.boundingBox();
    const plot = page.locator("svg[data-low]");
    const [low, high, height] = [
      Number(await plot.getAttribute("data-low")),
      Number(await plot.getAttribute("data-high")),
      (await plot.boundingBox())?.height ?? 0,
    ];
    if (!box) throw new Error("no key");
    await dragBy(page, { x: box.x + box.width / 2, y: box.y + box.height / 2 }, 0, -40);
    const keyed = await savedWork(page, test.server.url);
    const { keys } = settingsOf<LayerSettings>(keyed.document, "layer").channels[0];
    expect(keys.map((k) => frameAt(k.at, 30))).toEqual([38, 50, 62]);
    expect(keys[1].value).toBeCloseTo((40 * (high - low)) / (height - 24), 1);
    const head = keyed.source.skeleton.names.indexOf("Head");
    const plain = keyed.evaluator.evaluate({ ...keyed.document, patches: keyed.document.patches.filter((p) => p.kind !== "layer") }).result.clip;
    const changed = differences(plain, keyed.evaluator.evaluate(keyed.document).result.clip);
    expect(changed.joints).toEqual([head]);
    expect(changed.frames.every((f) => f > 38 && f < 62)).toBe(true);

    // A measured curve: the left toe, in the air, kept level over a stretch.
    await pickPart(page, "Left toe");
    for (const axis of ["x", "y", "z"]) await page.getByRole("button", { name: `Angles about ${axis}` }).click();
    await page.getByRole("button", { name: "Measure" }).click();
    await page.getByRole("menuitem", { name: "Left toe over the floor" }).click();
    const ruler = await page.locator(".sticky svg").boundingBox();
    if (!ruler) throw new Error("no ruler");
    const at = (f: number) => ruler.x + (ruler.width * (f + 0.5)) / 133;
    await page.keyboard.down("Shift");
    await page.mouse.move(at(54), ruler.y + 12);
    await page.mouse.down();
    await page.mouse.move(at(60), ruler.y + 12, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up("Shift");
    await page.getByText("f 54–60", { exact: true }).waitFor();
    await page.getByLabel("Operation on the stretch").selectOption("flat");
    await page.getByLabel("Amount of the operation").fill("6");
    await page.getByRole("button", { name: "Apply", exact: true }).click();
    await settled(page);
    const level = await savedWork(page, test.server.url);
    const motion = level.evaluator.evaluate(level.document).result;
    const curve = measuredCurve(
      level.source.skeleton,
      motion.clip,
      gaugeOf({ of: "height", part: { role: "leftToe" } }, motion.character.rig, motion.ground, (part) => findPart(motion.character, part) ?? -1),
    );
    // From a few frames after the lift on: until then the plant has the foot.
    for (const f of [58, 59]) expect(Math.abs(curve[f] - 6), `frame ${f}`).toBeLessThan(0.15);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("makes the chest's swing equal at both passing poses by copying a value, and the arms by a mirrored pose", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Porter, crouched walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    // The spine is straightened over the whole clip, the turn shared out.
    await page.getByRole("button", { name: "Chest", exact: true }).click();
    await page.getByRole("button", { name: "its whole chain" }).click();
    await useTool(page, "Turn selected parts", "own");
    await typeAmount(page, "Turn about x", -6);
    await page.getByRole("button", { name: "Over the whole clip instead" }).click();
    await settled(page);
    // Passing poses of this walk are half a cycle apart: 17.4 frames.
    const [left, right] = [50, 67];
    await page.getByRole("button", { name: "Chest", exact: true }).click();
    await page.getByRole("radio", { name: "Curves" }).click();
    await page.getByRole("button", { name: "Chest y", exact: true }).click();
    await toFrame(page, left);
    await page.getByRole("button", { name: "Copy value" }).click();
    const copied = Number((await page.getByTestId("curve-value").innerText()).split(" ")[0]);
    await toFrame(page, right);
    await page.getByRole("button", { name: "Paste opposite" }).click();
    await settled(page);
    await expect.poll(async () => Number((await page.getByTestId("curve-value").innerText()).split(" ")[0])).toBeCloseTo(-copied, 1);

    await page.getByRole("radio", { name: "Footfall" }).click();
    await page.getByRole("button", { name: "L hand" }).click();
    await page.getByRole("radio", { name: "limb" }).click();
    await toFrame(page, left);
    await page.getByRole("button", { name: "Copy pose" }).click();
    await toFrame(page, right);
    await page.locator("section[aria-label=Patches]").getByRole("button", { name: "Plant feet", exact: true }).click();
    await page.getByRole("button", { name: "Paste mirrored" }).click();
    await page.locator("section[aria-label=Patches]").getByRole("button", { name: "Touch-up f67", exact: true }).waitFor();
    await settled(page);
    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const spine = document.patches.find((p) => p.kind === "touchUp" && p.range === null)?.settings as TouchUpSettings;
    expect(spine.edits[0]).toMatchObject({ op: "turn", shared: true, parts: [{ role: "spine" }, { role: "spine2" }, { role: "chest" }], degrees: [-6, 0, 0] });
    const { result } = evaluator.evaluate(document);
    const names = source.skeleton.names;
    const y = angleCurves(result.clip, names.indexOf("Chest"));
    expect((y[right * 3 + 2] * 180) / Math.PI).toBeCloseTo((-y[left * 3 + 2] * 180) / Math.PI, 1);
    // The right forearm at one passing pose is the left one's mirror image at the other.
    const own = (f: number, name: string) => ownRotation(result.clip, names.indexOf(name), f);
    const [a, b] = [own(left, "LeftForearm"), own(right, "RightForearm")];
    [a[0], -a[1], -a[2], a[3]].forEach((v, i) => {
      expect(b[i]).toBeCloseTo(v, 4);
    });
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("the fall on the ice", () => {
  it("poses the body from its back: the chest stays on the ground while hips and legs turn; hands loosened", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Porter, slip on the ice");
    await toFrame(page, 150);
    await page.getByRole("button", { name: "Chest", exact: true }).click();
    await page.getByRole("button", { name: "At selected" }).click();
    await page.getByText("The body turns about chest.").waitFor();
    await pickPart(page, "Spine");
    await useTool(page, "Turn selected parts", "own");
    await typeAmount(page, "Turn about x", -20);
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByRole("option", { name: /^Hand shape/ }).click();
    await page.getByRole("tab", { name: "Patch" }).click();
    await page.getByRole("button", { name: "Relaxed" }).click();
    await page.getByRole("button", { name: "Mirror to the left hand" }).click();
    await settled(page);
    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const { result } = evaluator.evaluate(document);
    for (const name of ["Chest", "Head", "LeftHand"])
      expect(apart(placeOf(source.skeleton, result.clip, 150, name).at, placeOf(source.skeleton, source.clip, 150, name).at), name).toBeLessThan(1e-5);
    expect(apart(placeOf(source.skeleton, result.clip, 150, "LeftFoot").at, placeOf(source.skeleton, source.clip, 150, "LeftFoot").at)).toBeGreaterThan(0.15);
    expect(errors).toEqual([]);
    await context.close();
  });
});
