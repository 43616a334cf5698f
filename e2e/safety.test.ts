import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { describe, expect, it } from "vitest";
import { useBrowserTest } from "./fixture.ts";
import { newPage, openClip, savedWork, settled } from "./harness.ts";

const test = useBrowserTest({ draws: false });

describe("the page's guard", () => {
  it("runs no script but its own, asks no other server, and stands in no frame", async () => {
    const { page, context } = await newPage(test.browser);
    await page.goto(test.server.url);
    await page.getByText("Porter, late for the ferry").first().waitFor();
    const tried = await page.evaluate(async () => {
      const inline = document.createElement("script");
      inline.textContent = "window.smuggled = 1";
      document.body.append(inline);
      // From a timer: what the debugger itself evaluates is let through.
      const evaluated = await new Promise<boolean>((done) => {
        setTimeout(() => {
          try {
            done(new Function("return true")() as boolean);
          } catch {
            done(false);
          }
        });
      });
      const other = await fetch(location.origin.replace("localhost", "127.0.0.1")).then(
        () => "answered",
        () => "refused",
      );
      return { inline: "smuggled" in window, evaluated, other };
    });
    expect(tried).toEqual({ inline: false, evaluated: false, other: "refused" });

    // A page of another port, as anything else on this machine may serve one.
    const stranger = createServer((_, response) => {
      response.setHeader("Content-Type", "text/html");
      response.end(`<title>stranger</title><iframe src="${test.server.url}"></iframe>`);
    });
    await new Promise<void>((done) => stranger.listen(0, "127.0.0.1", done));
    try {
      await page.goto(`http://localhost:${(stranger.address() as AddressInfo).port}`);
      await page.locator("iframe").waitFor();
      expect(await page.frameLocator("iframe").getByText("Library").count()).toBe(0);
      const answers = await page.evaluate(async (url) => {
        const ask = (path: string, init: RequestInit) =>
          fetch(`${url}${path}`, init).then(
            (r) => (r.type === "opaque" ? "opaque" : r.status),
            () => "refused",
          );
        return [
          await ask("/api/works", { method: "GET" }),
          await ask("/api/clips", { method: "POST", mode: "no-cors", body: new FormData() }),
          await ask("/api/poses/none", { method: "DELETE" }),
        ];
      }, test.server.url);
      expect(answers[0]).toBe("refused");
      expect(answers[2]).toBe("refused");
      expect(await (await fetch(`${test.server.url}/api/health`)).json()).toMatchObject({ ok: true, clips: 16 });
    } finally {
      stranger.closeAllConnections();
      stranger.close();
      await context.close();
    }
  });

  it("starts its worker anew when it dies, says so, and loses nothing", async () => {
    const { page, context } = await newPage(test.browser);
    await openClip(page, test.server.url, "Porter, turn and stop");
    await page.getByRole("button", { name: "Ground the feet" }).click();
    await settled(page);
    const before = (await savedWork(page, test.server.url)).document;
    const [worker] = page.workers();
    await worker.evaluate(() => {
      setTimeout(() => {
        throw new Error("broken on purpose");
      });
    });
    await page.getByText(/broken on purpose/).waitFor();
    await settled(page);
    expect(page.workers()[0]).not.toBe(worker);
    expect((await savedWork(page, test.server.url)).document).toEqual(before);
    // And it still works: the figures of a change come from the fresh one.
    await page.getByRole("button", { name: "Mute Plant feet" }).click();
    await settled(page);
    await page
      .locator("section[aria-label='List of findings']")
      .getByText(/slides/)
      .first()
      .waitFor();
    expect((await savedWork(page, test.server.url)).document.patches[1].muted).toBe(true);
    await context.close();
  });
});
