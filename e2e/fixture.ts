import { cpSync } from "node:fs";
import type { Browser } from "playwright-core";
import { afterAll, beforeAll, inject } from "vitest";
import { type RunningServer, startBrowser, startServer } from "./harness.ts";

/** Browsers with and without 3D, started when first asked for; they end with the process. */
const browsers = new Map<boolean, Promise<Browser>>();

/** The browser that the files of tests share. */
export function sharedBrowser({ draws = true } = {}): Promise<Browser> {
  const browser = browsers.get(draws) ?? startBrowser({ draws });
  browsers.set(draws, browser);
  return browser;
}

/** A server on a library of its own with the demo, and a browser (which may leave out 3D), for the tests of a file; both are there once its tests run. */
export function useBrowserTest(options: { readonly draws?: boolean } = {}): { server: RunningServer; browser: Browser } {
  const held = {} as { server: RunningServer; browser: Browser };
  beforeAll(async () => {
    held.server = await startServer({ prepare: (data) => cpSync(inject("demoLibrary"), data, { recursive: true }) });
    held.browser = await sharedBrowser(options);
  });
  afterAll(async () => {
    await held.server?.stop();
  });
  return held;
}
