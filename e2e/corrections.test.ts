import {
  type Clip,
  type Evaluation,
  type LayerSettings,
  type Patch,
  quatAngleFlat,
  rangeOfMotion,
  rotationBetween,
  type Skeleton,
  type TouchUpSettings,
  type Work,
} from "@stride/motion";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { differences } from "../motion/src/testing/patched.ts";
import { useBrowserTest } from "./fixture.ts";
import { apart, exportFiles, frameAt, newPage, openClip, ownRotation, pickPart, placeOf, savedWork, settled, toFrame, typeAmount, useTool } from "./harness.ts";

const test = useBrowserTest({ draws: false });

async function openPose(page: Page, title: string): Promise<void> {
  await openClip(page, test.server.url, title);
  await page.getByRole("tab", { name: "Pose" }).click();
}

const common = (page: Page, name: string) => page.getByRole("button", { name, exact: true });

/** Waits until a patch stands on the desk, and is measured and saved. */
async function lane(page: Page, name: string): Promise<void> {
  await page.locator("section[aria-label=Patches]").getByRole("button", { name, exact: true }).waitFor();
  await settled(page);
}

const without = (work: Work, gone: (patch: Patch) => boolean): Work => ({ ...work, patches: work.patches.filter((p) => !gone(p)) });
const touchUps = (work: Work) => work.patches.filter((p) => p.kind === "touchUp");

describe("hands through the apron", () => {
  it("gets a touch-up a moment, one mirrored from the other hand, shoulders changed under held hands; all else keeps its bits", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Porter, hands through the apron");
    // First moment: the left hand is moved out, away from the belly.
    await toFrame(page, 30);
    await common(page, "L hand").click();
    await useTool(page, "Move selected parts by reach", "body");
    await page.getByText("writes to: new touch-up, Left hand, f 24–36").waitFor();
    await typeAmount(page, "Move along x", 14);
    await typeAmount(page, "Move along z", 9);
    await page.getByText("writes to: Touch-up f30, Left hand, f 24–36").waitFor();
    // Its window is made wider with the mouse: the whole cut.
    for (const [handle, by] of [
      ["rampIn", -12],
      ["rampOut", 12],
    ] as const) {
      const box = await page.locator(`[data-patch=touchUp] [data-handle=${handle}]`).boundingBox();
      const ruler = await page.locator(".sticky svg").boundingBox();
      if (!box || !ruler) throw new Error("the lane has no handles");
      const per = ruler.width / 157;
      await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
      await page.mouse.down();
      await page.mouse.move(box.x + box.width / 2 + by * per, box.y + box.height / 2, { steps: 4 });
      await page.mouse.up();
    }
    await settled(page);
    await page.getByText("writes to: Touch-up f30, Left hand, f 12–48").waitFor();

    // Second moment: the left arm's pose, mirrored onto the right.
    await page.getByRole("radio", { name: "limb" }).click();
    await page.getByRole("button", { name: "Copy pose" }).click();
    await toFrame(page, 75);
    await page.getByRole("button", { name: "Paste mirrored" }).click();
    await lane(page, "Touch-up f75");

    // Third moment: out as the first, then the shoulder is lowered while both hands are held.
    await toFrame(page, 120);
    await typeAmount(page, "Move along x", 14);
    await typeAmount(page, "Move along z", 9);
    await toFrame(page, 140);
    await page.getByRole("button", { name: "Hands", exact: true }).click();
    await pickPart(page, "Left collar");
    await useTool(page, "Turn selected parts", "own");
    await typeAmount(page, "Turn about z", -8);
    await expect.poll(() => page.locator("[data-hold=leftHand] .figure").innerText()).toBe("0.00 cm 0.0°");

    const { document, source, evaluator } = await savedWork(page, test.server.url);
    expect(touchUps(document).map((p) => frameAt(p.range?.start, 30))).toEqual([30, 75, 120, 140]);
    const { result } = evaluator.evaluate(document);
    const { skeleton, clip } = source;
    for (const [f, hand] of [
      [30, "LeftHand"],
      [75, "RightHand"],
      [120, "LeftHand"],
    ] as const) {
      const belly = (c: Clip) => apart(placeOf(skeleton, c, f, hand).at, placeOf(skeleton, c, f, "Spine").at);
      expect(belly(clip), `${hand} at ${f}`).toBeLessThan(0.16);
      expect(belly(result.clip), `${hand} at ${f}`).toBeGreaterThan(0.2);
    }
    // The windows are 12–48, 69–81, 114–126 and 134–146: nothing else has changed a bit.
    const windows = touchUps(document).map((p) => [frameAt((p.range?.start ?? 0) - p.rampIn, 30), frameAt((p.range?.end ?? 0) + p.rampOut, 30)]);
    for (const f of differences(clip, result.clip).frames)
      expect(
        windows.some(([a, b]) => f > a && f < b),
        `frame ${f}`,
      ).toBe(true);
    // The hands stayed while the collar turned.
    expect(apart(placeOf(skeleton, clip, 140, "LeftHand").at, placeOf(skeleton, result.clip, 140, "LeftHand").at)).toBeLessThan(1e-5);
    expect(apart(placeOf(skeleton, clip, 140, "LeftForearm").at, placeOf(skeleton, result.clip, 140, "LeftForearm").at)).toBeGreaterThan(0.003);

    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 157 frames/).waitFor();
    const { clip: written } = await exportFiles(page);
    for (const f of [5, 30, 75, 120, 140])
      for (const hand of ["LeftHand", "RightHand"])
        expect(apart(placeOf(skeleton, written.clip, f, hand).at, placeOf(skeleton, result.clip, f, hand).at)).toBeLessThan(1e-4);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("swinging from the davit", () => {
  it("turns the body about the grip, then from chest and mid-spine, and comes back to a neutral of one's own", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openPose(page, "Porter, hanging from the davit");
    await toFrame(page, 40);
    await page.getByRole("button", { name: "Set neutral here" }).click();
    await toFrame(page, 60);
    await common(page, "L hand").click();
    await common(page, "R hand").click({ modifiers: ["Shift"] });
    await page.getByRole("button", { name: "At selected" }).click();
    await page.getByText("The body turns about left hand and right hand.").waitFor();
    // A pivot alone changes nothing.
    await settled(page);
    const before = await savedWork(page, test.server.url);
    expect(before.document.patches).toEqual([]);

    await common(page, "Hips").click();
    await useTool(page, "Turn selected parts", "world");
    await typeAmount(page, "Turn about x", 18);
    // Nested: from the chest the middle of the spine turns what hangs below it; the hands are held.
    await page.getByRole("button", { name: "Hands", exact: true }).click();
    await common(page, "Chest").click();
    await page.getByRole("button", { name: "At selected" }).click();
    await pickPart(page, "Spine 2");
    await useTool(page, "Turn selected parts", "own");
    await typeAmount(page, "Turn about x", -12);
    await expect.poll(() => page.locator("[data-hold=leftHand] .figure").innerText()).toMatch(/^0\.0\d cm/);

    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const [patch] = touchUps(document);
    const settings = patch.settings as TouchUpSettings;
    expect(settings.edits.map((e) => (e.op === "turn" ? [e.parts[0], e.pivot?.parts] : null))).toEqual([
      [{ role: "hips" }, [{ role: "leftHand" }, { role: "rightHand" }]],
      [{ role: "spine2" }, [{ role: "chest" }]],
    ]);
    const { result } = evaluator.evaluate(document);
    const grip = (clip: Clip) =>
      placeOf(source.skeleton, clip, 60, "LeftHand").at.map((v, i) => (v + placeOf(source.skeleton, clip, 60, "RightHand").at[i]) / 2);
    expect(apart(grip(result.clip), grip(source.clip))).toBeLessThan(1e-3);
    expect(apart(placeOf(source.skeleton, result.clip, 60, "Hips").at, placeOf(source.skeleton, source.clip, 60, "Hips").at)).toBeGreaterThan(0.15);

    // Back to the neutral, at another frame.
    await toFrame(page, 100);
    await page.getByRole("button", { name: "None", exact: true }).click();
    await page.getByRole("button", { name: "my neutral", exact: true }).click();
    await lane(page, "Touch-up f100");
    const after = await savedWork(page, test.server.url);
    const neutral = after.evaluator.evaluate(after.document).result.clip;
    for (const name of ["LeftUpperArm", "RightShin", "Chest"]) {
      const j = source.skeleton.names.indexOf(name);
      expect(rotationBetween(neutral, 100, source.clip, 40, j), name).toBeLessThan(1e-5);
    }
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("the coil of rope", () => {
  it("keys an arm on a layer that is neutral by itself, without stray frames, and is written under a new name", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, crouched walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    const plain = await savedWork(page, test.server.url);
    const grounded = plain.evaluator.evaluate(plain.document).result.clip;
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByRole("option", { name: /^Layer/ }).click();
    await settled(page);
    const empty = await savedWork(page, test.server.url);
    expect(differences(grounded, empty.evaluator.evaluate(empty.document).result.clip).frames).toEqual([]);

    await page.getByRole("tab", { name: "Pose" }).click();
    await pickPart(page, "Left upper arm");
    await useTool(page, "Turn selected parts", "own");
    for (const [frame, degrees] of [
      [30, 25],
      [70, 40],
    ]) {
      await toFrame(page, frame);
      await page.getByText(`Changes are keyed at f ${frame} on Layer`).waitFor();
      await typeAmount(page, "Turn about y", degrees);
    }
    await page.getByRole("tab", { name: "Patch" }).click();
    await page.getByRole("button", { name: "Zero at both ends" }).click();
    await settled(page);
    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const layer = document.patches.find((p) => p.kind === "layer")?.settings as LayerSettings;
    const keys = layer.channels.find((c) => c.target.drives === "turn" && c.target.axis === "y")?.keys ?? [];
    expect(keys.map((k) => frameAt(k.at, 30))).toEqual([0, 30, 70, 126]);
    expect([keys[0].value, keys[3].value]).toEqual([0, 0]);
    const { result } = evaluator.evaluate(document);
    expect(differences(grounded, result.clip).joints.map((j) => source.skeleton.names[j])).toEqual(["LeftUpperArm"]);
    const arm = source.skeleton.names.indexOf("LeftUpperArm");
    const turned = (f: number) => (rotationBetween(result.clip, f, grounded, f, arm) * 180) / Math.PI;
    expect(turned(30)).toBeCloseTo(25, 2);
    expect(turned(0)).toBeLessThan(1e-4);

    await page.keyboard.press("Control+e");
    await page.getByLabel("Name", { exact: true }).fill("porter-with-the-coil");
    await page.getByText(/Writes .*: 127 frames/).waitFor();
    const { clip } = await exportFiles(page);
    expect(clip.clip.frameCount).toBe(127);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("broken fingers", () => {
  it("relaxes a hand in steps, mirrors it, keeps it by name and uses it on another clip", async () => {
    const { page, context, errors } = await newPage(test.browser);
    const addShape = async () => {
      await page.getByRole("button", { name: "Patch", exact: true }).click();
      await page.getByRole("option", { name: /^Hand shape/ }).click();
      await settled(page);
    };
    await openClip(page, test.server.url, "Porter, waiting");
    await addShape();
    await page.getByRole("button", { name: "Relaxed" }).click();
    await page.getByLabel("Single joint").selectOption("Index2");
    await page.getByRole("button", { name: "Bend Index2 by 10°" }).click();
    await page.getByRole("button", { name: "Bend Index2 by 5°" }).click();
    await page.getByRole("button", { name: "Mirror to the left hand" }).click();
    await page.getByLabel("Name of the hand shape").fill("Quay rest");
    await page.getByRole("button", { name: "Keep shape" }).click();
    await page.getByRole("button", { name: "Use Quay rest" }).waitFor();
    await settled(page);
    const still = ({ result }: Evaluation, skeleton: Skeleton, names: readonly string[]) => {
      let most = 0;
      for (const name of names) {
        const j = skeleton.names.indexOf(name);
        for (let f = 0; f < result.clip.frameCount; f++) most = Math.max(most, rotationBetween(result.clip, f, result.clip, 0, j));
      }
      return most;
    };
    const first = await savedWork(page, test.server.url);
    const shaped = first.document.patches[0].settings as { left: { single: Record<string, number>; index: number }; right: unknown };
    expect(shaped.left).toEqual(shaped.right);
    expect(shaped.left).toMatchObject({ index: 6, single: { Index2: 15 } });
    const fingers = ["LeftIndex", "LeftThumb2", "RightIndex2", "RightRing3", "RightLittle"];
    expect(still(first.evaluator.evaluate(first.document), first.source.skeleton, fingers)).toBeLessThan(1e-6);
    // Mirrored: the same bend on both sides.
    const bend = (name: string) => {
      const clip = first.evaluator.evaluate(first.document).result.clip;
      return (quatAngleFlat(ownRotation(clip, first.source.skeleton.names.indexOf(name), 0), 0, [0, 0, 0, 1], 0) * 180) / Math.PI;
    };
    expect(bend("RightIndex2")).toBeCloseTo(21, 4);
    expect(bend("LeftIndex2")).toBeCloseTo(21, 4);

    await openClip(page, test.server.url, "Porter, late for the ferry");
    await addShape();
    await page.getByRole("button", { name: "Use Quay rest" }).click();
    await settled(page);
    const second = await savedWork(page, test.server.url);
    expect((second.document.patches[0].settings as { right: unknown }).right).toEqual(shaped.right);
    expect(still(second.evaluator.evaluate(second.document), second.source.skeleton, ["RightIndex", "RightIndex2", "RightLittle3"])).toBeLessThan(1e-6);

    // It stands in the library, with its picture.
    await page.goto(test.server.url);
    await page.getByRole("region", { name: "Shelf" }).getByText("Quay rest").waitFor();
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("less sway", () => {
  it("halves hips' sway and swivel while the chest is held; the file proves it", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, night shift walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByRole("option", { name: /^Amplitude/ }).click();
    await page.getByLabel("Hips sway, side to side").check();
    await page.getByLabel("Hips swivel, about the vertical").check();
    await page.getByRole("textbox", { name: "Size of the movement" }).fill("50");
    await page.keyboard.press("Enter");
    await page.getByRole("tab", { name: "Pose" }).click();
    await common(page, "Chest").click();
    await page.getByRole("button", { name: "Hold selected" }).click();
    await settled(page);
    await expect.poll(() => page.locator("[data-hold=chest] .figure").innerText()).toBe("0.00 cm 0.0°");

    const { document, source, evaluator } = await savedWork(page, test.server.url);
    const before = evaluator.evaluate(without(document, (p) => p.kind === "amplitude")).result;
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 133 frames/).waitFor();
    const { clip } = await exportFiles(page);
    const was = rangeOfMotion(before, 0, 132);
    const now = rangeOfMotion({ ...before, clip: clip.clip }, 0, 132);
    expect(now.swayCm / was.swayCm).toBeGreaterThan(0.49);
    expect(now.swayCm / was.swayCm).toBeLessThan(0.51);
    expect(now.swivelDegrees / was.swivelDegrees).toBeGreaterThan(0.49);
    expect(now.swivelDegrees / was.swivelDegrees).toBeLessThan(0.51);
    for (let f = 0; f <= 132; f++) {
      const a = placeOf(source.skeleton, before.clip, f, "Chest");
      const b = placeOf(source.skeleton, clip.clip, f, "Chest");
      expect(apart(a.at, b.at) * 100, `frame ${f}`).toBeLessThan(0.01);
      expect((quatAngleFlat(a.turn, 0, b.turn, 0) * 180) / Math.PI, `frame ${f}`).toBeLessThan(0.01);
    }
    expect(errors).toEqual([]);
    await context.close();
  });
});
