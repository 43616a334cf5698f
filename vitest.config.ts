import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["{motion,demo,server,cli,web}/src/**/*.test.ts", "scripts/**/*.test.ts"],
    // Tests of whole programs run them built.
    globalSetup: "scripts/programsSetup.mjs",
    testTimeout: 900_000,
    hookTimeout: 600_000,
    pool: "forks",
    // Files share what they import: loading it anew for each took a third of the time. What a test changes of it, it puts back.
    isolate: false,
    fileParallelism: true,
    // A test that waits for a process of its own leaves its core to another.
    maxWorkers: 2,
  },
});
