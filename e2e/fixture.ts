import type { Browser } from "playwright-core";
import { afterAll, beforeAll } from "vitest";
import { type RunningServer, startBrowser, startServer } from "./harness.ts";

/** A server on an empty library and a browser for the tests of a file; both are there once its tests run. */
export function useBrowserTest(): { server: RunningServer; browser: Browser } {
  const held = {} as { server: RunningServer; browser: Browser };
  beforeAll(async () => {
    held.server = await startServer();
    held.browser = await startBrowser();
  });
  afterAll(async () => {
    await held.browser?.close();
    await held.server?.stop();
  });
  return held;
}
