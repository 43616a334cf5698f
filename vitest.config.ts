import { defineConfig } from "vitest/config";

export default defineConfig({
  test: {
    include: ["{motion,demo,server,cli,web}/src/**/*.test.ts", "scripts/**/*.test.ts"],
    testTimeout: 60_000,
    pool: "forks",
    fileParallelism: true,
  },
});
