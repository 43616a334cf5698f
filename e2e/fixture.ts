import type { Browser } from "playwright-core";
import { afterAll, beforeAll } from "vitest";
import { type RunningServer, startBrowser, startServer } from "./harness.ts";

/** A server on an empty library and a browser (which may leave out 3D) for the tests of a file; both are there once its tests run. */
export function useBrowserTest(options: { readonly draws?: boolean } = {}): { server: RunningServer; browser: Browser } {
  const held = {} as { server: RunningServer; browser: Browser };
  beforeAll(async () => {
    held.server = await startServer();
    held.browser = await startBrowser(options);
  });
  afterAll(async () => {
    await held.browser?.close();
    await held.server?.stop();
  });
  return held;
}
