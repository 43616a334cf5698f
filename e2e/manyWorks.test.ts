import { demoClips } from "@stride/demo";
import type { HandShapeSettings, Work } from "@stride/motion";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { addFromMenu, exportFiles, frameAt, newPage, openClip, pickClip, savedWork, searchLibrary, settingsOf, settled, toFrame } from "./harness.ts";

const test = useBrowserTest({ draws: false });

const WALK = "Porter, night shift walk";
const OTHERS = ["Porter, waiting, weight shift", "Porter, hands through the apron", "Porter, late for the ferry"] as const;

interface Row {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
  readonly document: Work;
}
const json = async <T>(path: string, body?: unknown): Promise<T> =>
  (await (
    await fetch(
      `${test.server.url}/api${path}`,
      body === undefined ? {} : { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body) },
    )
  ).json()) as T;
const workOn = async (name: string): Promise<Row> => {
  const { clips } = await json<{ clips: { id: string; name: string }[] }>(`/clips?search=${encodeURIComponent(name)}`);
  return json<Row>("/works", { clipId: clips[0].id, name: clips[0].name });
};
const read = (id: string) => json<Row>(`/works/${id}`);
const workMenu = async (page: Page, item: RegExp) => {
  await page.getByRole("button", { name: "Work menu" }).click();
  await page.getByRole("menuitem", { name: item }).click();
  return page.getByRole("dialog");
};

describe("broken fingers", () => {
  it("are cleared once, made a hand shape, mirrored, and put on idle, reach and run in one go, with an exception, and one undo", async () => {
    const { page, context, errors } = await newPage(test.browser);
    const others: Row[] = [];
    for (const name of OTHERS) others.push(await workOn(name));
    await openClip(page, test.server.url, WALK);
    await addFromMenu(page, "Hand shape");
    await page.getByRole("button", { name: "Relaxed" }).click();
    await settled(page);
    await page.getByRole("button", { name: /^Mirror to the/ }).click();
    await settled(page);
    const shape = settingsOf<HandShapeSettings>((await savedWork(page, test.server.url)).document, "handShape");
    expect(shape.left).toEqual(shape.right);

    const dialog = await workMenu(page, /^Copy patches/);
    for (const name of OTHERS) await dialog.getByRole("checkbox", { name: new RegExp(name) }).check();
    await dialog.getByText("3 picked").waitFor();
    await dialog.getByRole("button", { name: "See what they do" }).click();
    const rows = dialog.getByRole("region", { name: /what the change does/ });
    await expect.poll(() => rows.getByText(/frames changed, \d+\.\d cm on average|nothing moved/).count()).toBe(3);
    // Nothing is saved before it is wanted.
    for (const { id } of others) expect((await read(id)).revision).toBe(1);
    await dialog.getByRole("checkbox", { name: `Change ${OTHERS[1]}` }).uncheck();
    await dialog.getByRole("button", { name: "Copy to 2 works" }).click();
    await page.getByText(`Hand shape copied from ${WALK}: 2 works`).waitFor();
    const after = await Promise.all(others.map(({ id }) => read(id)));
    expect(after.map((w) => w.revision)).toEqual([2, 1, 2]);
    for (const w of [after[0], after[2]]) {
      expect(settingsOf<HandShapeSettings>(w.document, "handShape")).toEqual(shape);
      expect(w.document.patches[0].range).toBeNull();
    }
    await page.getByRole("button", { name: "Undo", exact: true }).last().click();
    await page.getByText("2 works are as before").waitFor();
    expect((await Promise.all(others.map(({ id }) => read(id)))).map((w) => [w.revision, w.document.patches.length])).toEqual([
      [3, 0],
      [1, 0],
      [3, 0],
    ]);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("a repair of one step", () => {
  it("lies on the same step of another walk, its range by the contacts of both", async () => {
    const { page, context, errors } = await newPage(test.browser);
    const slow = await workOn("Porter, unhurried walk");
    await openClip(page, test.server.url, WALK);
    await toFrame(page, 40);
    await addFromMenu(page, "Touch-up");
    const range = (await savedWork(page, test.server.url)).document.patches.find((p) => p.kind === "touchUp")?.range;
    if (!range) throw new Error("the touch-up has no range");
    const dialog = await workMenu(page, /^Copy patches/);
    await dialog.getByRole("checkbox", { name: /unhurried/ }).check();
    await dialog.getByRole("button", { name: "See what they do" }).click();
    await dialog.getByRole("button", { name: "Copy to 1 work" }).click();
    await page
      .getByText(/copied from/)
      .first()
      .waitFor();
    const there = (await read(slow.id)).document.patches[0].range;
    if (!there) throw new Error("the copy has no range");
    // By the generator's own footfalls (found contacts are up to a frame off in either clip): as far from the left foot's landing to the right one's, in frames of the other.
    const share = (id: string, frame: number) => {
      const truth = demoClips().find((c) => c.id === id)?.truth;
      const landings = (point: string) => (truth?.contacts ?? []).filter((c) => c.point === point && c.start > 0).map((c) => c.start);
      const left = landings("leftHeel").findLast((f) => f <= frame + 1) ?? Number.NaN;
      const right = landings("rightHeel").find((f) => f > left) ?? Number.NaN;
      return { share: (frame - left) / (right - left), step: right - left };
    };
    const [here, other] = [share("porter-night-shift-walk", range.start * 30), share("porter-unhurried-walk", there.start * 30)];
    expect(Math.abs(here.share - other.share) * other.step).toBeLessThan(2);
    expect(there.start).not.toBeCloseTo(range.start, 2);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("versions of a work", () => {
  it("are made by a press or a name, seen beside the work in step, and gone back to", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, turn and stop");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await page.keyboard.press("Control+Shift+V");
    await page.getByLabel("Name, if you like").fill("before the director saw it");
    await page.keyboard.press("Enter");
    await page.getByText("This is version 1, before the director saw it").waitFor();
    await addFromMenu(page, "Trim");
    await page.getByRole("button", { name: "History" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByRole("radio", { name: "Versions" }).click();
    await dialog.getByText("version 1, before the director saw it").waitFor();
    expect(await dialog.getByRole("listitem").count()).toBe(1);
    await dialog.getByRole("button", { name: "Compare" }).click();
    await dialog.waitFor({ state: "detached" });
    await page.getByTestId("beside").getByText("version 1, before the director saw it").waitFor();
    expect(await page.getByRole("radio", { name: "Side by side" }).getAttribute("aria-checked")).toBe("true");
    await page.getByRole("button", { name: "End the comparison" }).click();
    await page.getByTestId("beside").waitFor({ state: "detached" });
    await page.getByRole("button", { name: "History" }).click();
    await dialog.getByRole("radio", { name: "Versions" }).click();
    await dialog.getByRole("button", { name: "Restore" }).click();
    await dialog.waitFor({ state: "detached" });
    await settled(page);
    expect((await savedWork(page, test.server.url)).document.patches.map((p) => p.kind)).toEqual(["floor", "plant"]);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("two motions side by side", () => {
  it("of one body or two go in step by time or by their steps, and stay so while the work is changed", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, WALK);
    const choose = async (clip: string) => {
      await workMenu(page, /^Compare with/);
      await pickClip(page, clip);
      await page.getByTestId("beside").getByText(new RegExp(clip, "i")).waitFor();
    };
    await choose("dock patrol");
    await page.getByRole("radio", { name: "steps" }).click();
    await expect.poll(() => page.getByRole("radio", { name: "steps" }).getAttribute("aria-checked")).toBe("true");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await page.getByTestId("beside").waitFor();
    await choose("down the quay");
    expect(await page.getByRole("radio", { name: "Other", exact: true }).count()).toBe(1);
    await page.getByRole("button", { name: "End the comparison" }).click();
    expect(await page.getByRole("radio", { name: "Before", exact: true }).count()).toBe(1);
    // Two that are picked in the library stand side by side at once.
    await page.goto(test.server.url);
    await searchLibrary(page, "pim");
    for (const name of ["Pim, down the quay", "Pim, standing at the bollard"]) await page.getByRole("checkbox", { name: `Pick ${name}` }).check();
    await page.getByRole("button", { name: "Side by side" }).click();
    await page.getByTestId("beside").waitFor();
    expect(await page.getByRole("radio", { name: "Side by side" }).getAttribute("aria-checked")).toBe("true");
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("the shelf", () => {
  it("keeps patches, which are typed or dragged onto another work at a frame", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, WALK);
    await toFrame(page, 30);
    await addFromMenu(page, "Touch-up");
    const made = (await savedWork(page, test.server.url)).document.patches.at(-1);
    const dialog = await workMenu(page, /^Keep patches/);
    await dialog.getByLabel("Name", { exact: true }).fill("Soft knees");
    await dialog.getByRole("button", { name: "Keep", exact: true }).click();
    await page.getByText("Soft knees is on the shelf").waitFor();

    await openClip(page, test.server.url, "Porter, crouched walk");
    const ranges = async () => (await savedWork(page, test.server.url)).document.patches.map((p) => frameAt(p.range?.start, 30));
    await toFrame(page, 50);
    await page.getByRole("button", { name: "Patch", exact: true }).click();
    await page.getByPlaceholder("Which patch?").fill("soft kn");
    await page.keyboard.press("Enter");
    await settled(page);
    expect(await ranges()).toEqual([50]);
    expect((await savedWork(page, test.server.url)).document.patches[0].settings).toEqual({ ...made?.settings, at: 50 / 30 });
    await page.keyboard.press("k");
    const item = page.getByRole("button", { name: /^Soft knees/ });
    const chart = page.locator("[data-contact]").first();
    const box = await chart.boundingBox();
    if (!box) throw new Error("there is no footfall chart");
    await item.hover();
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2, box.y + 4, { steps: 6 });
    await page.mouse.move(box.x + box.width - 3, box.y + 4, { steps: 3 });
    await page.mouse.up();
    await settled(page);
    const [, dropped] = await ranges();
    expect(dropped).toBeGreaterThan(0);
    expect(dropped).not.toBe(50);
    await page.getByRole("searchbox", { name: "Search the shelf" }).fill("soft");
    await page.keyboard.press("Enter");
    await settled(page);
    expect((await ranges())[2]).toBe(50);
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("a range handed over", () => {
  it("is saved as a clip with a name, tags and a folder, found by them, and opens as it was made", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, late for the ferry");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    const dialog = await workMenu(page, /^Save as a clip/);
    await dialog.getByLabel("first").fill("40");
    await dialog.getByLabel("last").fill("99");
    await dialog.getByLabel("Name", { exact: true }).fill("Ferry {first}-{last}");
    await dialog.getByLabel("Folder").fill("hand-over/run");
    await dialog.getByLabel("Tags").fill("Ina, run, ready");
    await dialog.getByText("60 frames, 0.98 s").waitFor();
    await dialog.getByRole("button", { name: "Save clip" }).click();
    await page.getByText("Ferry 40-99 is in the library: 60 frames").waitFor();
    const { document, evaluator } = await savedWork(page, test.server.url);
    const result = evaluator.evaluate(document).result.clip;
    const { clips } = await json<{ clips: { name: string; folder: string; tags: string[]; fileName: string }[] }>("/clips?search=ready ferry");
    expect(clips).toMatchObject([{ name: "Ferry 40-99", folder: "hand-over/run", tags: ["Ina", "run", "ready"] }]);
    // The source stands beside it, untouched.
    expect((await json<{ total: number }>("/clips?search=late for the ferry")).total).toBe(1);
    await openClip(page, test.server.url, "Ferry 40-99");
    await page.getByRole("button", { name: "Export…", exact: true }).click();
    const { clip } = await exportFiles(page);
    expect(clip.clip.frameCount).toBe(60);
    const hips = clip.clip.positions[0];
    const theirs = result.positions[0];
    const at = (track: typeof hips, f: number) => Array.from(track[Math.floor(f / 64)].slice((f % 64) * 3, (f % 64) * 3 + 3));
    for (const f of [0, 30, 59]) at(hips, f).forEach((v, i) => expect(v).toBeCloseTo(at(theirs, f + 40)[i], 4));
    expect(errors).toEqual([]);
    await context.close();
  });
});
