import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    root: new URL("..", import.meta.url).pathname,
    include: ["e2e/**/*.test.ts"],
    globalSetup: ["scripts/programsSetup.mjs", "e2e/demoLibrary.ts"],
    testTimeout: 180_000,
    hookTimeout: 120_000,
    // What is polled for comes when the machine gets round to it.
    expect: { poll: { timeout: 15_000 } },
    maxWorkers: 2,
    // One process, one browser and one reading of all modules serve every file.
    isolate: false,
    pool: "forks",
  },
});
