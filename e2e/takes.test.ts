import { readFileSync } from "node:fs";
import { NodeIO } from "@gltf-transform/core";
import { describe, expect, it } from "vitest";
import { severalTakes } from "../motion/src/testing/severalTakes.ts";
import { useBrowserTest } from "./fixture.ts";
import { newPage, openClip, searchLibrary } from "./harness.ts";

const test = useBrowserTest({ draws: false });

describe("a file of several animations", () => {
  it("comes in as a clip of each, says which could not be read, and gives its body to be cast onto", async () => {
    const bytes = await severalTakes([
      { name: "Idle", seconds: 1, degrees: 30 },
      { name: "Look about", seconds: 2, degrees: 60 },
      { name: "Torn", seconds: 1, degrees: 10, broken: true },
    ]);
    const { page, context, errors } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByLabel("Files to bring in").setInputFiles([{ name: "signpost.glb", mimeType: "model/gltf-binary", buffer: Buffer.from(bytes) }]);
    const panel = page.getByRole("region", { name: "Files being brought in" });
    await panel.getByText("is in the library as 2 clips, one of each of its animations").waitFor();
    expect(await panel.getByText('; "Torn" could not be read: signpost.glb').innerText()).toContain("its times do not grow at key 1");
    const cards = page.getByRole("main").getByRole("button", { name: /signpost · .* s · 10 fps/ });
    await searchLibrary(page, "signpost");
    await expect.poll(() => cards.count()).toBe(2);
    // The second is opened as itself.
    await openClip(page, test.server.url, "signpost · Look about");
    await page.getByRole("button", { name: "Export…" }).click();
    const dialog = page.getByRole("dialog");
    await dialog.getByLabel("a note of the measured results (JSON)").uncheck();
    const [download] = await Promise.all([page.waitForEvent("download"), dialog.getByRole("button", { name: "Write file" }).click()]);
    const document = await new NodeIO().readBinary(new Uint8Array(readFileSync(await download.path())));
    const animations = document.getRoot().listAnimations();
    expect(animations.map((a) => [a.getName(), a.listSamplers()[0].getInput()?.getCount()])).toEqual([
      ["Idle", 11],
      ["Look about", 21],
      ["Torn", 11],
    ]);
    await page.goto(test.server.url);
    await searchLibrary(page, "signpost look");
    await expect.poll(() => cards.count()).toBe(1);
    expect(await cards.innerText()).toContain("2.1 s");
    await page.getByRole("button", { name: "Clip menu" }).click();
    await page.getByRole("menuitem", { name: "Its body as a character" }).click();
    await page.waitForURL(/\/characters\//);
    await expect
      .poll(() =>
        page
          .getByRole("navigation", { name: "Characters" })
          .getByRole("button", { name: /^signpost/ })
          .count(),
      )
      .toBe(1);
    await page
      .getByText(/signpost\.glb/)
      .first()
      .waitFor();
    expect(errors).toEqual([]);
    await context.close();
  });
});
