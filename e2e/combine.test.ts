import { type Clip, type JoinSettings, type MixSettings, type MotionFile, quatAngleFlat, readMotion, type SettleSettings } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import type { Page } from "playwright-core";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import {
  addFromMenu,
  apart,
  chooseClip,
  exportFiles,
  newPage,
  openClip,
  ownRotation,
  pickClip,
  placeOf,
  savedWork,
  settingsOf,
  settled,
  toFrame,
} from "./harness.ts";

// What is tested here is what comes out; the view has tests of its own.
const test = useBrowserTest({ draws: false });

async function written(page: Page, frames: number) {
  await page.getByRole("heading", { name: "Findings" }).click();
  await page.keyboard.press("Control+e");
  await page.getByText(new RegExp(`Writes .*: ${frames} frames`)).waitFor();
  return exportFiles(page);
}

/** A clip of the library as it is, by its title. */
async function fromLibrary(title: string): Promise<MotionFile & { row: ClipRow }> {
  const { clips: rows } = (await (await fetch(`${test.server.url}/api/clips?limit=200`)).json()) as { clips: ClipRow[] };
  const row = rows.find((r) => r.name === title);
  if (!row) throw new Error(`the library has no ${title}`);
  const bytes = new Uint8Array(await (await fetch(`${test.server.url}/api/clips/${row.id}/source`)).arrayBuffer());
  return { ...readMotion(bytes, { fileName: row.fileName }), row };
}

/** Angle between a joint's own rotations in two clips, degrees. */
const turned = (a: Clip, f: number, b: Clip, g: number, joint: number) =>
  (quatAngleFlat(ownRotation(a, joint, f), 0, ownRotation(b, joint, g), 0) * 180) / Math.PI;

describe("mood over errand", () => {
  it("lays another clip's arms over an idle, tries how much while it plays, keeps that, and records it as a new clip", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, waiting, weight shift");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await addFromMenu(page, "Mix");
    await page.getByText("no clip has been chosen yet").waitFor();
    await chooseClip(page, /^Other clip/, "Porter, angry argument");
    await page.getByRole("button", { name: "Arms", exact: true }).click();
    await settled(page);
    // By single joints, and back by the limb.
    await page.getByRole("radio", { name: "Joint", exact: true }).click();
    await page.getByRole("button", { name: "Left hand", exact: true }).press("Enter");
    await settled(page);
    const joints = (await savedWork(page, test.server.url)).document.patches[2].parts?.length ?? 0;
    await page.getByRole("button", { name: "Left hand", exact: true }).press("Enter");
    await settled(page);
    expect((await savedWork(page, test.server.url)).document.patches[2].parts).toHaveLength(joints + 1);

    // Tried while it plays.
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Play", exact: true }).click();
    const strength = page.getByRole("slider", { name: "Strength" });
    await strength.focus();
    for (let i = 0; i < 4; i++) await strength.press("PageDown");
    await settled(page);
    await page.getByRole("button", { name: "Pause", exact: true }).click();
    const kept = (await savedWork(page, test.server.url)).document.patches[2];
    expect(kept.weight).toBeLessThan(0.95);
    expect(kept.weight).toBeGreaterThan(0.3);

    // The other clip's arms by that much, everything else as it was.
    const { clip } = await written(page, 211);
    await page.keyboard.press("Escape");
    const [idle, angry] = [await fromLibrary("Porter, waiting, weight shift"), await fromLibrary("Porter, angry argument")];
    const arm = clip.skeleton.names.indexOf("RightForearm");
    const thigh = clip.skeleton.names.indexOf("LeftThigh");
    for (const f of [30, 75, 120]) {
      const way = turned(idle.clip, f, angry.clip, f, arm);
      expect(turned(idle.clip, f, clip.clip, f, arm)).toBeCloseTo(kept.weight * way, 0);
      expect(turned(angry.clip, f, clip.clip, f, thigh)).toBeGreaterThan(0);
    }

    // Recorded from press to press.
    await toFrame(page, 40);
    await page.getByRole("heading", { name: "Findings" }).click();
    await page.keyboard.press("r");
    await page.getByRole("button", { name: /Recording from frame 40/ }).waitFor();
    await page.getByRole("button", { name: "Pause", exact: true }).click();
    await toFrame(page, 99);
    await page.getByRole("button", { name: /Recording from frame 40/ }).click();
    await page.getByText(/Frames 40–99 are in the library as “Porter, waiting, weight shift 40-99”/).waitFor();
    const recorded = await fromLibrary("Porter, waiting, weight shift 40-99");
    expect(recorded.clip.frameCount).toBe(60);
    for (const f of [0, 33, 59]) expect(turned(recorded.clip, f, clip.clip, f + 40, arm)).toBeLessThan(0.01);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("takes a walk's legs under an argument: they travel on, repeated, and their feet stay", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, calm talk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await addFromMenu(page, "Mix");
    // Pressed before the list is that of the words, nothing is chosen.
    let answer = () => {};
    const held = new Promise<void>((resolve) => {
      answer = resolve;
    });
    await page.getByRole("button", { name: /^Other clip/ }).click();
    await page.getByRole("option").first().waitFor();
    await page.route(/\/api\/clips\?.*unhurried/, (route) => held.then(() => route.continue()));
    await page.getByPlaceholder("Which clip?").fill("unhurried");
    await page.keyboard.press("Enter");
    answer();
    await page.locator("[cmdk-list][aria-busy=false]").getByRole("option").first().waitFor();
    expect(await page.getByRole("button", { name: /^Other clip: none chosen/, includeHidden: true }).count()).toBe(1);
    await page.keyboard.press("Enter");
    await page.getByRole("button", { name: /^Other clip: Porter, unhurried walk/ }).waitFor();
    await settled(page);
    await page.getByRole("button", { name: "Legs and hips" }).click();
    await settled(page);
    await page.getByRole("radio", { name: "To fill" }).click();
    await settled(page);
    const { clip, note } = await written(page, 181);
    await page.keyboard.press("Escape");
    expect(note.after.slideWorstCm).toBeLessThan(0.2);
    // 0.54 m a step of 0.66 s, for six seconds.
    const way = (f: number) => placeOf(clip.skeleton, clip.clip, f, "Hips").at;
    expect(apart(way(0), way(180))).toBeGreaterThan(0.9 * 6 * (0.54 / 0.66));
    expect(await page.getByRole("button", { name: /came with porter-unhurried-walk/ }).count()).toBeGreaterThan(8);
    expect(settingsOf<MixSettings>((await savedWork(page, test.server.url)).document, "mix")).toMatchObject({ repeat: "fill" });
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("several clips in a row", () => {
  it("stand in a strip: joined at a good seam, trimmed, overlapped and reordered there, and written as one", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, night shift walk");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await addFromMenu(page, "Join");
    await chooseClip(page, /^Clip that follows/, "Porter, unhurried walk");
    await page.getByRole("table", { name: "Seams found, best first" }).getByRole("button").first().click();
    await settled(page);
    const seam = settingsOf<JoinSettings>((await savedWork(page, test.server.url)).document, "join");
    expect(seam.leave).not.toBeNull();
    await page.getByText(/What stands there slides by 0\.\d cm/).waitFor();
    await addFromMenu(page, "Join");
    await chooseClip(page, /^Clip that follows/, "Porter, waiting, weight shift");
    const strip = page.getByRole("region", { name: "Clips in a row" });
    await strip.getByText("3 in a row").waitFor();

    // The last one trimmed at its end by dragging, and the overlap made longer.
    const trim = strip.locator("[data-trim=end]").last();
    const box = await trim.boundingBox();
    if (!box) throw new Error("the strip shows no end to trim");
    await page.mouse.move(box.x + 3, box.y + 10);
    await page.mouse.down();
    await page.mouse.move(box.x - 150, box.y + 10, { steps: 5 });
    await page.mouse.up();
    await settled(page);
    const joins = (await savedWork(page, test.server.url)).document.patches.filter((p) => p.kind === "join").map((p) => p.settings as JoinSettings);
    expect(joins[1].to).toBeGreaterThan(1);
    expect(joins[1].to).toBeLessThan(6.9);
    const frames = Number(/\/ (\d+)/.exec((await page.getByText(/\/ \d+ · /).innerText()) ?? "")?.[1]);
    const walk = await fromLibrary("Porter, unhurried walk");
    const own = Math.round((joins[0].leave ?? 0) * 30) + (walk.clip.frameCount - 1 - Math.round((joins[0].from ?? 0) * 30)) - 12;
    expect(frames).toBe(own + Math.round((joins[1].to ?? 0) * 30) - 12);

    const { clip, note } = await written(page, frames + 1);
    await page.keyboard.press("Escape");
    expect(clip.clip.frameCount).toBe(frames + 1);
    expect(note.after.slideWorstCm).toBeLessThan(0.3);
    const arm = clip.skeleton.names.indexOf("RightForearm");
    const idle = await fromLibrary("Porter, waiting, weight shift");
    expect(turned(clip.clip, frames, idle.clip, Math.round((joins[1].to ?? 0) * 30), arm)).toBeLessThan(0.1);

    // The two that follow change places.
    await strip.getByRole("button", { name: /^Porter, waiting/ }).press("Alt+ArrowLeft");
    await settled(page);
    const order = (await savedWork(page, test.server.url)).document.patches
      .filter((p) => p.kind === "join")
      .map((p) => (p.settings as JoinSettings).clip?.name);
    expect(order).toEqual(["porter-waiting-weight-shift.bvh", "porter-unhurried-walk.bvh"]);

    // And another one is put in behind the one that is picked.
    await strip.getByRole("button", { name: /^Porter, waiting/ }).click();
    await strip.getByRole("button", { name: "Put a clip into the row" }).click();
    await pickClip(page, "calm", /^Porter, calm talk/);
    await settled(page);
    await strip.getByText("4 in a row").waitFor();
    const row = (await savedWork(page, test.server.url)).document.patches.filter((p) => p.kind === "join").map((p) => (p.settings as JoinSettings).clip?.name);
    expect(row).toEqual(["porter-waiting-weight-shift.bvh", "porter-calm-talk.bvh", "porter-unhurried-walk.bvh"]);

    // The clips know that they are drawn on.
    await page.goto(test.server.url);
    await page
      .getByRole("button", { name: /Porter, unhurried walk/ })
      .getByText(/in \d other works?/)
      .waitFor();
    expect(errors).toEqual([]);
    await context.close();
  });
});

describe("Pim stops", () => {
  it("in its standing pose at frame 48, each leg on the frame it is dragged to, the last frame the pose on every bone but those left out", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Pim, down the quay");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    await toFrame(page, 48);
    await addFromMenu(page, "Settle");
    await chooseClip(page, /^Pose from/, "Pim, standing at the bollard");
    await page.getByLabel(/^Its frame/).fill("40");
    await page.keyboard.press("Tab");
    await settled(page);

    // Landings typed and dragged, in any order.
    for (const [leg, frame] of [
      ["Left hind hoof", 15],
      ["Right hind hoof", 30],
      ["Left fore hoof", 24],
    ] as const) {
      await page.getByRole("spinbutton", { name: `${leg} lands at frame` }).fill(String(frame));
      await page.keyboard.press("Enter");
      await settled(page);
    }
    const last = page.getByRole("region", { name: "Landings" }).getByRole("button", { name: /^Right fore hoof lands at frame/ });
    const box = await last.boundingBox();
    const ruler = await page.getByRole("region", { name: "Landings" }).boundingBox();
    if (!box || !ruler) throw new Error("there is no landing to drag");
    const per = (ruler.width - 190) / 49;
    const from = Number(/frame (\d+)/.exec((await last.getAttribute("aria-label")) ?? "")?.[1]);
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + (43 - from) * per, box.y + box.height / 2, { steps: 4 });
    await page.mouse.up();
    await settled(page);
    const settings = settingsOf<SettleSettings>((await savedWork(page, test.server.url)).document, "settle");
    const landed = Object.fromEntries((settings.landings ?? []).map((l) => [l.point, Math.round(l.at * 30)]));
    expect(landed).toEqual({ leftHind: 15, rightHind: 30, leftFore: 24, rightFore: 43 });

    // What still differs shrinks to nothing at the pose.
    await toFrame(page, 30);
    await page.getByText(/Still differs at f 30: \d+ parts/).waitFor();
    await page.getByRole("button", { name: "Go to the pose" }).click();
    await page.getByText("Still differs at f 48: nothing").waitFor();

    const { clip } = await written(page, 49);
    await page.keyboard.press("Escape");
    const stand = await fromLibrary("Pim, standing at the bollard");
    for (let j = 1; j < clip.skeleton.names.length; j++) expect(turned(clip.clip, 48, stand.clip, 40, j), clip.skeleton.names[j]).toBeLessThan(0.001);
    // Each hoof is dead still from its landing on.
    for (const [name, f] of [
      ["LeftHoof", 15],
      ["RightHoof", 30],
      ["LeftForeHoof", 24],
      ["RightForeHoof", 43],
    ] as const) {
      const end = placeOf(clip.skeleton, clip.clip, 48, name).at;
      for (let g = f; g <= 48; g++) expect(apart(placeOf(clip.skeleton, clip.clip, g, name).at, end), `${name} ${g}`).toBeLessThan(1e-4);
    }
    expect(errors).toEqual([]);
    await context.close();
  });
});
