import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    root: new URL("..", import.meta.url).pathname,
    include: ["e2e/**/*.test.ts"],
    testTimeout: 180_000,
    hookTimeout: 120_000,
    // What is polled for comes when the machine gets round to it.
    expect: { poll: { timeout: 15_000 } },
    fileParallelism: false,
    pool: "forks",
  },
});
