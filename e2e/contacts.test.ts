import { jointTrack, PointTracks } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { BODIES, gaitsOf } from "../demo/src/grid/rolled.ts";
import { performedActs } from "../demo/src/rolling/acts.ts";
import { spoiled } from "../demo/src/rolling/spoil.ts";
import { rolledText } from "../demo/src/rolling/text.ts";
import { rolledWalk } from "../demo/src/rolling/walker.ts";
import { useBrowserTest } from "./fixture.ts";
import { addFromMenu, exportFiles, findingTitles, newPage, openClip, savedWork, settled, toFrame } from "./harness.ts";

const test = useBrowserTest({ draws: false });

/** The most that a joint of the written file is away from where it is on a frame, over some frames, cm. */
function strays(file: { skeleton: Parameters<typeof jointTrack>[0]; clip: Parameters<typeof jointTrack>[1] }, name: string, from: number, to: number): number {
  const { positions: p } = jointTrack(file.skeleton, file.clip, file.skeleton.names.indexOf(name));
  let most = 0;
  for (let f = from; f <= to; f++) most = Math.max(most, 100 * Math.hypot(...[0, 1, 2].map((i) => p[f * 3 + i] - p[from * 3 + i])));
  return most;
}

describe("contacts of any part", () => {
  it("are hands on a hook: found, shown as rows, kept on it when the body is planted; and feet may be told to carry after all", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, hanging from the davit");
    const rows = page.getByRole("region", { name: "Footfall" });
    for (const hand of ["leftHand", "rightHand"]) await rows.locator(`[data-contact='${hand}:0-120']`).waitFor();
    const note = page.getByRole("note");
    await note.getByText(/taken for a body that hangs/).waitFor();
    expect(await findingTitles(page)).toEqual([]);
    await page.keyboard.press("g");
    await settled(page);
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 121 frames/).waitFor();
    const { clip } = await exportFiles(page);
    for (const hand of ["LeftHand", "RightHand"]) expect(strays(clip, hand, 0, 120), hand).toBeLessThan(0.3);
    expect(strays(clip, "Hips", 0, 120)).toBeGreaterThan(10);
    await page.keyboard.press("Escape");

    // Told otherwise, and back.
    await note.getByRole("radio", { name: "feet" }).click();
    await settled(page);
    await note.getByText(/ground and travel are read off them/).waitFor();
    expect((await savedWork(page, test.server.url)).document.carriedBy).toBe("feet");
    await note.getByRole("radio", { name: "found" }).click();
    await settled(page);
    await note.getByText(/taken for a body that hangs/).waitFor();
    expect(errors).toEqual([]);
    await context.close();
  });

  it("are those of a walk on the spot, on the ground that passes under it: the file stays on the spot, travels once that is put in, and may be said to stand on still ground", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    const walk = rolledWalk(BODIES[0], gaitsOf(BODIES[0].height)[0], 30, 4.5);
    const { turns, roots } = spoiled(walk, { way: 0 }, 1);
    await page
      .getByLabel("Files to bring in")
      .setInputFiles([
        { name: "on the spot.bvh", mimeType: "text/plain", buffer: Buffer.from(rolledText(walk, turns, roots, { order: ["z", "x", "y"], unit: 100 })) },
      ]);
    await page.getByRole("region", { name: "Files being brought in" }).getByText("1 of 1 brought in").waitFor();
    await openClip(page, test.server.url, "on the spot");
    const rows = page.getByRole("region", { name: "Footfall" });
    const note = page.getByRole("note");
    await note.getByText(/goes on the spot, and the ground passes under it at 1\.3\d m\/s/).waitFor();
    const found = await rows.locator("[data-contact^='leftToe:']").evaluateAll((all) => all.map((one) => one.getAttribute("data-contact")));
    const rests = walk.contacts.filter((c) => c.point === "leftToe");
    expect(found).toHaveLength(rests.length);
    rests.forEach(({ start, end }) => {
      const near = found.some((id) => {
        const [from, to] = id?.split(":")[1].split("-").map(Number) ?? [];
        return Math.abs(from - start) <= 2 && Math.abs(to - end) <= 2;
      });
      expect(near, `${start}-${end} of ${found}`).toBe(true);
    });
    expect((await findingTitles(page)).filter((title) => /slide|travel/i.test(title))).toEqual([]);
    const goes = async () => {
      await page.keyboard.press("Control+e");
      await page.getByText(/Writes .*: 136 frames/).waitFor();
      const { clip: file } = await exportFiles(page);
      await page.keyboard.press("Escape");
      const { positions: p } = jointTrack(file.skeleton, file.clip, 0);
      return p[135 * 3 + 2] - p[2];
    };
    await page.keyboard.press("g");
    await settled(page);
    expect(Math.abs(await goes())).toBeLessThan(0.05);
    await addFromMenu(page, "Travel");
    await page.getByRole("radio", { name: "From feet" }).click();
    await settled(page);
    expect((await goes()) / 4.5).toBeCloseTo(1.37, 1);
    await note.getByRole("radio", { name: "still ground" }).click();
    await settled(page);
    await note.getByText(/ground and travel are read off them/).waitFor();
    expect((await savedWork(page, test.server.url)).document.carriedBy).toBe("stillGround");
    expect(errors).toEqual([]);
    await context.close();
  });

  it("are those of a walk whose feet slip one by one, whose body leaps and of which a frame was dropped: grounded, the file has each toe still and the body on its way", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    const walk = rolledWalk(BODIES[0], gaitsOf(BODIES[0].height)[0], 30, 4.5);
    const { turns, roots } = spoiled(walk, { slips: [0.05, "z"], leaps: 3, drops: 61 }, 4);
    await page
      .getByLabel("Files to bring in")
      .setInputFiles([
        { name: "slipping.bvh", mimeType: "text/plain", buffer: Buffer.from(rolledText(walk, turns, roots, { order: ["z", "x", "y"], unit: 100 })) },
      ]);
    await page.getByRole("region", { name: "Files being brought in" }).getByText("1 of 1 brought in").waitFor();
    await openClip(page, test.server.url, "slipping");
    await page.getByRole("region", { name: "Footfall" }).locator("[data-contact^='leftToe:']").first().waitFor();
    const before = await findingTitles(page);
    expect(before.some((title) => /slides/.test(title))).toBe(true);
    expect(before.some((title) => /jump/.test(title))).toBe(true);
    await page.keyboard.press("g");
    await settled(page);
    expect((await findingTitles(page)).filter((title) => /slides|jump|travel/i.test(title))).toEqual([]);
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 136 frames/).waitFor();
    const { clip: file } = await exportFiles(page);
    for (const { joint, start, end } of walk.contacts)
      if (joint !== undefined && end - start > 4) expect(strays(file, walk.joints[joint], start + 1, end - 1)).toBeLessThan(0.2);
    const { positions: hips } = jointTrack(file.skeleton, file.clip, 0);
    // How high it stands a file cannot say to the millimetre, nor where in the world it begins.
    walk.roots.forEach(([x, , z], f) =>
      expect(Math.hypot(hips[f * 3] - hips[0] - x + walk.roots[0][0], hips[f * 3 + 2] - hips[2] - z + walk.roots[0][2])).toBeLessThan(0.01),
    );
    expect(errors).toEqual([]);
    await context.close();
  });

  it("are knees and palms of a crawl, a seat on a bench, and hands and feet on a ladder that says nothing of a floor: of files that are brought in", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    const acts = performedActs(BODIES[0], 60).filter((act) => /bench|ladder|crawling/.test(act.name));
    const fileOf = (act: (typeof acts)[number]) => rolledText(act, act.turns, act.roots, { order: ["z", "x", "y"], unit: 100 });
    await page
      .getByLabel("Files to bring in")
      .setInputFiles(acts.map((act) => ({ name: `${act.name}.bvh`, mimeType: "text/plain", buffer: Buffer.from(fileOf(act)) })));
    await page.getByRole("region", { name: "Files being brought in" }).getByText("3 of 3 brought in").waitFor();
    await openClip(page, test.server.url, "crawling");
    await page.getByRole("region", { name: "Footfall" }).locator("[data-contact^='leftKnee:']").first().waitFor();
    // Knees and palms have rows of their own, each on its own side.
    for (const [point, start, end] of [
      ["leftKnee", 66, 109],
      ["rightHand", 70, 113],
      ["rightKnee", 99, 142],
    ] as const) {
      const seen = await page
        .getByRole("region", { name: "Footfall" })
        .locator(`[data-contact^='${point}:']`)
        .evaluateAll((all) => all.map((one) => one.getAttribute("data-contact")));
      const near = seen.some((id) => {
        const [from, to] = id?.split(":")[1].split("-").map(Number) ?? [];
        return Math.abs(from - start) <= 3 && Math.abs(to - end) <= 3;
      });
      expect(near, `${point} ${seen}`).toBe(true);
    }
    expect(await findingTitles(page)).toEqual([]);
    await openClip(page, test.server.url, "sitting down on a bench");
    const rows = page.getByRole("region", { name: "Footfall" });
    const seat = rows.locator("[data-contact^='seat:']");
    await seat.waitFor();
    const [start, end] = (await seat.getAttribute("data-contact"))?.slice(5).split("-").map(Number) ?? [];
    expect(Math.abs(start - 108)).toBeLessThan(12);
    expect(Math.abs(end - 252)).toBeLessThan(12);
    expect(await findingTitles(page)).toEqual([]);
    await openClip(page, test.server.url, "climbing a ladder");
    await page
      .getByRole("note")
      .getByText(/each on a hold of its own: taken for climbing/)
      .waitFor();
    for (const span of ["leftToe:120-192", "rightToe:72-144"]) await rows.locator(`[data-contact='${span}']`).waitFor();
    expect(await findingTitles(page)).toEqual([]);
    await page.keyboard.press("g");
    await settled(page);
    await page.keyboard.press("Control+e");
    await page.getByText(/Writes .*: 385 frames/).waitFor();
    const { clip } = await exportFiles(page);
    expect(strays(clip, "LeftToes", 121, 191)).toBeLessThan(0.1);
    expect(strays(clip, "RightHand", 145, 215)).toBeLessThan(0.5);
    expect(strays(clip, "Hips", 0, 384)).toBeGreaterThan(100);
    expect(errors).toEqual([]);
    await context.close();
  });

  it("are a back on the ice, held at a height that is typed; the toes' contact is added and leads its foot", async () => {
    const { page, context, errors } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, slip on the ice");
    await page.keyboard.press("g");
    await settled(page);
    const back = page.locator("[data-contact^='back:']").first();
    const [, from, to] = (/back:(\d+)-(\d+)/.exec((await back.getAttribute("data-contact")) ?? "") ?? []).map(Number);
    await back.click();
    const panel = page.getByRole("region", { name: "Selected contact" });
    await panel.getByLabel("height cm").fill("6");
    await page.keyboard.press("Enter");
    await settled(page);
    // A toe is given a contact at the playhead, early in the clip, and leads.
    await toFrame(page, 12);
    await page.getByRole("button", { name: "Add a contact of the left toe at the playhead" }).click();
    await settled(page);
    await panel.getByRole("checkbox", { name: "leads the foot" }).check();
    await settled(page);

    const { document, source, evaluator } = await savedWork(page, test.server.url);
    expect(document.contacts.find((c) => c.point === "back")).toMatchObject({ height: 0.06 });
    const toe = document.contacts.find((c) => c.point === "leftToe");
    expect(toe).toMatchObject({ leads: true });
    const { result } = evaluator.evaluate(document);
    // The back lies at its height, to a hundredth of a millimetre where it rests.
    const tracks = new PointTracks(source.skeleton, result.clip, result.points);
    const course = tracks.course("back") as Float64Array;
    const clearance = tracks.point("back")?.clearance ?? 0;
    for (let f = from; f <= to; f++) expect(course[f * 3 + 1] - clearance, `${f}`).toBeCloseTo(0.06, 4);
    // While the toe leads, the heel rests nowhere, and the toe does.
    const [start, end] = [Math.round((toe?.start ?? 0) * 60), Math.round((toe?.end ?? 0) * 60)];
    expect(result.contacts.filter((c) => c.point === "leftHeel" && c.start <= end && c.end >= start)).toEqual([]);
    const toes = tracks.course("leftToe") as Float64Array;
    for (let f = start; f <= end; f++) expect(Math.hypot(toes[f * 3] - toes[start * 3], toes[f * 3 + 2] - toes[start * 3 + 2])).toBeLessThan(1e-4);

    // Cleared, and set to where it is at the playhead.
    await back.click();
    await toFrame(page, to - 2);
    await panel.getByRole("button", { name: "Clear and set height here" }).click();
    await settled(page);
    const height = (await savedWork(page, test.server.url)).document.contacts.find((c) => c.point === "back")?.height ?? Number.NaN;
    expect(height).toBeCloseTo(0.06, 2);
    await panel.getByRole("button", { name: "Back to found" }).click();
    await settled(page);
    expect((await savedWork(page, test.server.url)).document.contacts.some((c) => c.point === "back")).toBe(false);
    expect(errors).toEqual([]);
    await context.close();
  });
});
