import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    root: new URL("..", import.meta.url).pathname,
    include: ["e2e/**/*.test.ts"],
    testTimeout: 180_000,
    hookTimeout: 120_000,
    fileParallelism: false,
    pool: "forks",
  },
});
