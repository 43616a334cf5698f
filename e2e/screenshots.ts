import { mkdirSync } from "node:fs";
import { join } from "node:path";
import { demoClips } from "@stride/demo";
import { writeFresh } from "@stride/motion";
import { clipStore } from "../server/src/store/clips.ts";
import { openDatabase } from "../server/src/store/database.ts";
import { summarize } from "../server/src/summary.ts";
import { manyClips } from "../server/src/testing/manyClips.ts";
import { addFromMenu, chooseCharacter, chooseClip, newPage, openClip, pickClip, searchLibrary, settled, startBrowser, startServer } from "./harness.ts";

// npm run shots: one current picture of each main view, from the demo data, at 1280x800.

const folder = new URL("../docs/screenshots/", import.meta.url).pathname;
mkdirSync(folder, { recursive: true });
const server = await startServer();
const browser = await startBrowser();
const { page } = await newPage(browser, undefined, "skin");

/** A picture once the 3D view shows the frame that the playhead is at. */
async function shot(name: string): Promise<void> {
  await page.mouse.move(640, 795);
  const canvas = page.locator("[data-testid=view3d] canvas");
  if ((await canvas.count()) > 0) {
    const frame = await page.getByLabel("Frame", { exact: true }).inputValue();
    await page.locator(`[data-testid=view3d] canvas[data-frame="${frame}"]`).waitFor();
  }
  // Two pictures later everything asked for has been drawn.
  await page.evaluate(() => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(resolve)))));
  await page.screenshot({ path: `${folder}${name}.png` });
}

async function toFrame(frame: number): Promise<void> {
  await page.getByLabel("Frame", { exact: true }).fill(String(frame));
  await page.keyboard.press("Enter");
}

/** Thousands of clips, with the pictures of the demo's. */
async function thousands(): Promise<void> {
  const like = demoClips().map(({ id, truth, clip, tags }) => {
    const bytes = Buffer.from([...writeFresh(truth.character.skeleton, clip, 0.01)].join(""));
    return { picture: summarize(bytes, { fileName: `${id}.bvh` }).picture, tags: [truth.character.name, ...tags] };
  });
  const many = await startServer({
    prepare: (data) => {
      const db = openDatabase(join(data, "stride.db"));
      manyClips(db, clipStore(db), 4000, { like });
      db.close();
    },
  });
  try {
    await page.goto(many.url);
    await page
      .getByRole("checkbox", { name: /^Pick / })
      .first()
      .waitFor();
    for (const i of [1, 3, 4])
      await page
        .getByRole("checkbox", { name: /^Pick / })
        .nth(i)
        .check();
    await page
      .getByRole("checkbox", { name: /^Pick / })
      .nth(8)
      .waitFor();
    await page.waitForLoadState("networkidle");
    await shot("library");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Table" }).click();
    await searchLibrary(page, "harb trembl");
    await page.getByRole("button", { name: "Filter" }).click();
    await page.getByLabel("Folder").selectOption("shift 3");
    await page.getByLabel("Longest, seconds").fill("20");
    await page.keyboard.press("Escape");
    await page.getByRole("button", { name: "Length" }).click();
    await page.waitForLoadState("networkidle");
    await shot("library-table");
    await page.getByRole("button", { name: "Cards" }).click();
  } finally {
    await many.stop();
  }
}

/** Begins a work on each clip of a character. */
async function worksOf(character: string): Promise<void> {
  const { clips } = (await (await fetch(`${server.url}/api/clips?limit=60&order=name&down=no&character=${character}`)).json()) as {
    clips: { id: string; name: string }[];
  };
  for (const { id, name } of clips)
    await fetch(`${server.url}/api/works`, { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify({ clipId: id, name }) });
}

/** Waits until a change has been worked out for every work in the open dialog. */
async function planned(verb: RegExp): Promise<void> {
  await page.getByRole("dialog").getByRole("button", { name: verb, disabled: false }).waitFor();
}

try {
  await thousands();
  await page.goto(server.url);
  await page.getByText("Porter, late for the ferry").first().waitFor();
  await worksOf("Ina");

  await openClip(page, server.url, "Porter, night shift walk");
  await page
    .getByRole("button", { name: /Right toe slides/ })
    .first()
    .click();
  await shot("findings-grouped");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await page.getByRole("radio", { name: "Side", exact: true }).click();
  await page.getByRole("radio", { name: "Orbit" }).click();
  await toFrame(72);
  await page.getByRole("radio", { name: "Both" }).click();
  await shot("bench-planted");
  await page.getByRole("radio", { name: "After", exact: true }).click();
  await page.getByRole("button", { name: "Work menu" }).click();
  await page.getByRole("menuitem", { name: /^Copy patches/ }).click();
  await page.getByRole("dialog").getByRole("button", { name: "All 2" }).click();
  await page
    .getByRole("dialog")
    .getByRole("button", { name: /^All 1\d/ })
    .click();
  await page.getByRole("button", { name: "See what they do" }).click();
  await planned(/^Copy to \d+ works/);
  await page.getByRole("checkbox", { name: "Change Porter, hanging from the davit" }).uncheck();
  await page.screenshot({ path: `${folder}works-copied.png` });
  await page.keyboard.press("Escape");
  await page.getByRole("link", { name: "Checkup" }).click();
  await page.getByText("Slide, contact by contact").waitFor();
  await page.getByRole("row", { name: /Speed by the formula/ }).waitFor();
  await page.screenshot({ path: `${folder}checkup.png` });

  await openClip(page, server.url, "Porter, down the gangway");
  await addFromMenu(page, "Travel");
  await page.getByRole("button", { name: /^Set the travel to/ }).waitFor();
  await page.getByRole("button", { name: /^Set the travel to/ }).scrollIntoViewIfNeeded();
  await toFrame(40);
  await shot("time-travel");
  await page.keyboard.press("Control+z");
  await settled(page);

  await openClip(page, server.url, "Porter, turn and stop");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await toFrame(108);
  await page.getByRole("tab", { name: "Pose" }).click();
  await page.getByRole("button", { name: "L hand" }).click();
  await page.getByRole("button", { name: "Hold selected" }).click();
  await page.getByRole("button", { name: "Chest", exact: true }).click();
  await page.getByRole("button", { name: "Turn selected parts" }).click();
  await page.getByLabel("Turn about y").fill("20");
  await page.keyboard.press("Enter");
  await settled(page);
  await page.getByRole("button", { name: "R hand" }).click();
  await page.getByRole("button", { name: "Trail of the selected part" }).click();
  await shot("bench-posing");
  await page.getByRole("button", { name: "Trail of the selected part" }).click();
  await page.getByRole("button", { name: "Look: nothing is changed" }).click();

  await openClip(page, server.url, "Porter, crouched walk");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await page.getByRole("tab", { name: "Pose" }).click();
  await page.getByRole("button", { name: "Head", exact: true }).click();
  await page.getByRole("radio", { name: "Curves" }).click();
  await toFrame(60);
  await page.getByRole("button", { name: "Key", exact: true }).click();
  await settled(page);
  const key = page.locator("[data-key$=':x@60']");
  await key.focus();
  for (let i = 0; i < 12; i++) await page.keyboard.press("ArrowUp");
  await settled(page);
  await shot("curves-angles");
  await page.getByRole("radio", { name: "Footfall" }).click();

  await openClip(page, server.url, "Diver, dock patrol");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await addFromMenu(page, "Loop");
  await page.getByRole("table", { name: "Cycles found, best first" }).getByRole("row").nth(1).waitFor();
  await page.getByRole("textbox", { name: "Repeats" }).fill("3");
  await page.keyboard.press("Enter");
  await settled(page);
  await page.getByRole("table", { name: "Cycles found, best first" }).getByRole("row").nth(5).scrollIntoViewIfNeeded();
  await shot("time-loop");

  await openClip(page, server.url, "Porter, hands through the apron");
  await addFromMenu(page, "Mirror");
  await toFrame(46);
  await page.getByRole("radio", { name: "Side by side" }).click();
  await page.getByRole("radio", { name: "Front" }).click();
  await shot("time-mirror");
  await page.getByRole("radio", { name: "After", exact: true }).click();

  await openClip(page, server.url, "Pim, down the quay");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await toFrame(48);
  await addFromMenu(page, "Settle");
  await chooseClip(page, /^Pose from/, "Pim, standing at the bollard");
  await toFrame(36);
  await page.getByText("Still differs at f 36").waitFor();
  await page.getByRole("region", { name: "What still differs" }).scrollIntoViewIfNeeded();
  await shot("combine-settle");

  await openClip(page, server.url, "Porter, unhurried walk");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await addFromMenu(page, "Join");
  await chooseClip(page, /^Clip that follows/, "Porter, turn and stop");
  await page.getByRole("table", { name: "Seams found, best first" }).getByRole("button").first().click();
  await settled(page);
  await addFromMenu(page, "Join");
  await chooseClip(page, /^Clip that follows/, "Porter, calm talk");
  await page.getByRole("table", { name: "Seams found, best first" }).scrollIntoViewIfNeeded();
  await toFrame(160);
  await shot("combine-strip");
  await settled(page);
  await page.goto(server.url);
  await searchLibrary(page, "turn and stop");
  await page.getByRole("checkbox", { name: "Pick Porter, turn and stop" }).waitFor();
  await page.getByRole("button", { name: "Clip menu" }).first().click();
  await page.getByRole("menuitem", { name: /^Replace/ }).click();
  await page.getByRole("button", { name: /^By this clip/ }).click();
  await pickClip(page, "night shift");
  await planned(/^Replace in \d+ works/);
  await page.screenshot({ path: `${folder}works-replaced.png` });
  await page.keyboard.press("Escape");

  await openClip(page, server.url, "Porter, up the quay steps");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await toFrame(70);
  await shot("ground-steps");
  await openClip(page, server.url, "Porter, down the gangway");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await toFrame(60);
  await shot("ground-gangway");
  await openClip(page, server.url, "Porter, slip on the ice");
  await page.keyboard.press("g");
  await settled(page);
  await toFrame(60);
  await page.getByRole("heading", { name: "Findings" }).click();
  await page.keyboard.press("d");
  await settled(page);
  await page.getByRole("button", { name: "Propose" }).click();
  await page.getByRole("list", { name: "Proposed beats" }).waitFor();
  for (const take of [/Take Back lands/, /Take Left toe lifts/, /Take Right foot is fastest/]) {
    const button = page.getByRole("button", { name: take }).first();
    if ((await button.count()) > 0) await button.click();
    await settled(page);
  }
  await page.getByLabel("Stretch behind beat 3, frames").fill("150");
  await page.keyboard.press("Enter");
  await settled(page);
  await shot("time-beats");

  await openClip(page, server.url, "Porter, late for the ferry");
  await page.getByRole("button", { name: "Ground the feet" }).click();
  await settled(page);
  await addFromMenu(page, "Cast");
  await chooseCharacter(page, "Osk");
  await page.getByRole("table", { name: "How it came out" }).scrollIntoViewIfNeeded();
  await page.getByRole("radio", { name: "Side by side" }).click();
  await toFrame(66);
  await shot("cast");
  await page.goto(`${server.url}/characters`);
  await page.getByRole("button", { name: /^Pim/ }).click();
  await page.getByText(/pim\.glb, on four legs/).waitFor();
  await page.locator("canvas[data-drawn=yes]").waitFor();
  await page.getByRole("tab", { name: "Contacts" }).click();
  await shot("characters");
} finally {
  await browser.close();
  await server.stop();
}
