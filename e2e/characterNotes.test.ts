import { readFileSync } from "node:fs";
import { join } from "node:path";
import { Logger, NodeIO } from "@gltf-transform/core";
import { EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization } from "@gltf-transform/extensions";
import { readCharacterNotes, readMotion, restWorld } from "@stride/motion";
import draco3d from "draco3d";
import { MeshoptDecoder, MeshoptEncoder } from "meshoptimizer";
import type { Download, Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { verdict } from "../motion/src/testing/gltfChecks.ts";
import { useBrowserTest } from "./fixture.ts";
import { addFromMenu, chooseCharacter, newPage, openClip, settled } from "./harness.ts";

const test = useBrowserTest();
const ina = readFileSync(join(import.meta.dirname, "../demo/bodies/ina.glb"));

async function downloaded(page: Page, press: () => Promise<void>): Promise<{ bytes: Uint8Array; name: string }> {
  const [download]: [Download, void] = await Promise.all([page.waitForEvent("download"), press()]);
  return { bytes: new Uint8Array(readFileSync(await download.path())), name: download.suggestedFilename() };
}

async function openCharacter(page: Page, name: RegExp, file: RegExp): Promise<void> {
  await page.getByRole("navigation", { name: "Characters" }).getByRole("button", { name }).click();
  await page.getByText(file).waitFor();
  await page.locator("canvas[data-drawn=yes]").waitFor();
}

describe("what is read of a character", () => {
  it("is told otherwise: how it rests, where it touches, what it may do; kept, taken back, and heeded by a cast", async () => {
    const { page, context, errors } = await newPage(test.browser, undefined, "skin");
    await page.goto(`${test.server.url}/characters`);
    await openCharacter(page, /^Osk/, /osk\.glb, on two legs/);

    await page.getByRole("tab", { name: "Rest pose" }).click();
    await page.getByLabel("Head about x, degrees").fill("-20");
    await page.keyboard.press("Enter");
    await page.getByText("as it stands for casting").waitFor();
    await page.getByRole("button", { name: "Head as its file rests" }).waitFor();

    await page.getByRole("tab", { name: "Contacts" }).click();
    const heel = page.getByLabel("Left heel, y in cm");
    expect(await page.getByText("on the mesh").count()).toBeGreaterThan(8);
    await page.getByRole("button", { name: "Lay soles on the skin" }).click();
    await expect.poll(() => page.getByText(/placed by you/).count()).toBe(4);
    await expect.poll(() => heel.inputValue()).toBe("-7.2");
    // On the skin by a click: the chest's front, in the middle of the view; another part's skin is told.
    const back = page.getByLabel("Back, z in cm");
    const before = await back.inputValue();
    await page
      .getByRole("radio", { name: "Front" })
      .or(page.getByRole("button", { name: "Front" }))
      .first()
      .click();
    await page.getByRole("button", { name: "Place Back on the skin" }).click();
    const box = await page.locator("canvas[data-drawn=yes]").boundingBox();
    if (!box) throw new Error("no view");
    await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.86);
    await page.mouse.click(box.x + box.width * 0.56, box.y + box.height * 0.86);
    await page
      .getByText(/back lies on Chest or beside it/)
      .first()
      .waitFor();
    await page.mouse.click(box.x + box.width / 2, box.y + box.height * 0.33);
    await expect.poll(() => back.inputValue()).not.toBe(before);
    expect(Number(await back.inputValue())).toBeGreaterThan(8);
    await page.getByRole("button", { name: "Undo" }).click();
    await expect.poll(() => back.inputValue()).toBe(before);

    await page.getByRole("tab", { name: "Limits" }).click();
    await page.getByRole("button", { name: "Measure off its clips" }).click();
    await page.getByText(/Measured off 1 clip of Osk/).waitFor();
    const knee = page.getByLabel("Left shin, bend at most, degrees");
    const measured = Number(await knee.inputValue());
    expect(measured).toBeGreaterThan(40);
    await knee.fill("30");
    await page.keyboard.press("Enter");

    await page.getByRole("tab", { name: "Body map" }).click();
    await page.getByLabel("Joint of Neck").selectOption("");
    await page.getByText("no such part, as you say").waitFor();
    await page.getByRole("button", { name: "Neck as found" }).click();
    await page.getByLabel("Joint of Neck").waitFor();

    // All of it is kept: here after a reload, and in a file for the command line.
    await page.reload();
    await openCharacter(page, /^Osk/, /osk\.glb, on two legs/);
    const { bytes, name } = await downloaded(page, () => page.getByRole("button", { name: "Notes" }).click());
    expect(name).toBe("Osk.character.json");
    const notes = readCharacterNotes(JSON.parse(new TextDecoder().decode(bytes)));
    expect(notes.rest).toEqual({ Head: [-20, 0, 0] });
    expect(Object.keys(notes.points).sort()).toEqual(["leftHeel", "leftToe", "rightHeel", "rightToe"]);
    expect(notes.limits.LeftShin.bend[1]).toBe(30);
    expect(notes.body).toEqual({});

    // A cast heeds it.
    await openClip(page, test.server.url, "Porter, night shift walk");
    await addFromMenu(page, "Cast");
    await chooseCharacter(page, "Osk");
    const outcome = page.getByRole("table", { name: "How it came out" });
    await outcome.getByRole("row", { name: /Left shin past its limit/ }).waitFor();
    await page
      .getByText(/Left shin is past its limit/)
      .first()
      .waitFor();
    for (const point of ["Left heel", "Left toe", "Right heel", "Right toe"])
      expect(await outcome.getByRole("row", { name: new RegExp(`^${point} (slides|stays)`) }).innerText()).toMatch(/stays|slides 0\.[12] cm, f \d+/);

    await page.goto(`${test.server.url}/characters`);
    await openCharacter(page, /^Osk/, /osk\.glb, on two legs/);
    await page.getByRole("button", { name: "As found" }).click();
    await expect.poll(() => page.getByRole("button", { name: "Notes" }).count()).toBe(0);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("is read of compressed bodies too, their decoders fetched from the application itself", async () => {
    await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]);
    const io = new NodeIO()
      .registerExtensions([EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization])
      .registerDependencies({ "meshopt.decoder": MeshoptDecoder, "meshopt.encoder": MeshoptEncoder, "draco3d.encoder": await draco3d.createEncoderModule() })
      .setLogger(new Logger(Logger.Verbosity.SILENT));
    const { page, context, errors } = await newPage(test.browser, undefined, "skin");
    await page.goto(`${test.server.url}/characters`);
    await page.getByText(/a skin of/).waitFor();
    for (const [name, extension] of [
      ["draco", KHRDracoMeshCompression],
      ["meshopt", EXTMeshoptCompression],
    ] as const) {
      const document = await io.readBinary(new Uint8Array(ina));
      document.createExtension<KHRDracoMeshCompression | EXTMeshoptCompression>(extension).setRequired(true);
      await page
        .getByLabel("Bodies to bring in")
        .setInputFiles([{ name: `packed ${name}.glb`, mimeType: "model/gltf-binary", buffer: Buffer.from(await io.writeBinary(document)) }]);
      await page.getByText(new RegExp(`packed ${name}\\.glb, on two legs, a skin of 13,5\\d\\d vertices on 52 bones`)).waitFor();
      await page.locator("canvas[data-drawn=yes]").waitFor();
      // Its knees lie on the mesh, which was read in the page.
      await page.getByRole("tab", { name: "Contacts" }).click();
      await expect.poll(async () => Math.abs(Number(await page.getByLabel("Left knee, z in cm").inputValue()) - 7.3)).toBeLessThan(0.5);
    }
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("a result written as asked", () => {
  it("has its keys thinned, is a VRM animation, or holds the places of chosen points", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, late for the ferry");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    const dialog = page.getByRole("dialog");
    const write = async (choose: () => Promise<void>) => {
      await page.getByRole("button", { name: "Export…" }).click();
      const note = dialog.getByLabel("a note of the measured results (JSON)");
      if (await note.isChecked()) await note.uncheck();
      await choose();
      return downloaded(page, () => dialog.getByRole("button", { name: "Write file" }).click());
    };
    const file = dialog.getByLabel("File", { exact: true });
    const all = await write(() => file.selectOption(".glb").then(() => undefined));
    const thin = await write(async () => {
      await file.selectOption(".glb");
      await dialog.getByText("one a frame; thin them").click();
      await dialog.getByLabel("Degrees that thinned keys may be off").fill("0.5");
    });
    expect(thin.bytes.length).toBeLessThan(0.85 * all.bytes.length);
    expect(await verdict(thin.bytes)).toMatchObject({ errors: 0, warnings: 0 });
    const vrma = await write(() => file.selectOption(".vrma").then(() => undefined));
    expect(vrma.name).toBe("Porter, late for the ferry.vrma");
    const { skeleton } = readMotion(vrma.bytes, { fileName: "x.vrma" });
    expect(skeleton.said?.by).toMatch(/VRM/);
    const { positions } = restWorld(skeleton);
    const at = (role: "leftUpperArm" | "leftHand") =>
      positions.slice((skeleton.said?.roles[role] as number) * 3, (skeleton.said?.roles[role] as number) * 3 + 3);
    expect(at("leftHand")[0] - at("leftUpperArm")[0]).toBeGreaterThan(0.4);
    expect(Math.abs(at("leftHand")[1] - at("leftUpperArm")[1])).toBeLessThan(0.01);
    const named = await write(async () => {
      await file.selectOption("");
      await dialog.getByLabel("Joints called").selectOption("hanim");
    });
    expect(new TextDecoder().decode(named.bytes)).toMatch(/ROOT sacroiliac[\s\S]*JOINT l_elbow/);
    const trc = await write(async () => {
      await file.selectOption(".trc");
      await dialog.getByText("chosen points").click();
      for (const point of ["Left hand", "Right hand", "Back", "Seat", "Head"])
        await dialog.getByRole("checkbox", { name: point, exact: true }).first().uncheck();
      await dialog.getByLabel("Find a point").fill("Hips");
      await dialog.getByRole("checkbox", { name: "Hips", exact: true }).check();
    });
    const lines = new TextDecoder().decode(trc.bytes).split("\n");
    expect(lines[3].split("\t").filter((word) => word !== "")).toEqual([
      "Frame#",
      "Time",
      ...["leftHeel", "leftToe", "rightHeel", "rightToe", "leftToeTip", "rightToeTip", "leftKnee", "leftElbow", "rightKnee", "rightElbow", "Hips"],
    ]);
    expect(errors).toEqual([]);
    await context.close();
  });
});
