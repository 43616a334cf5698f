import { defineConfig } from "vitest/config";

/** Files that measure how long the page takes: nothing else runs beside them. */
const PACE = ["e2e/longClip.test.ts", "e2e/manyClips.test.ts"];

const root = new URL("..", import.meta.url).pathname;
const every = {
  root,
  testTimeout: 600_000,
  hookTimeout: 600_000,
  // What is polled for comes when the machine gets round to it.
  expect: { poll: { timeout: 90_000 } },
  pool: "forks",
  // One process, one browser and one reading of all modules serve the files that one worker takes.
  isolate: false,
} as const;

export default defineConfig({
  test: {
    root,
    globalSetup: ["scripts/programsSetup.mjs", "e2e/demoLibrary.ts"],
    projects: [
      { test: { ...every, name: "uses", include: ["e2e/**/*.test.ts"], exclude: PACE, maxWorkers: 2, sequence: { groupOrder: 0 } } },
      { test: { ...every, name: "pace", include: PACE, maxWorkers: 1, sequence: { groupOrder: 1 } } },
    ],
  },
});
