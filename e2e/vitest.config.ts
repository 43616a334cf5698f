import { defineConfig } from "vitest/config";

const root = new URL("..", import.meta.url).pathname;
const shared = { root, testTimeout: 180_000, hookTimeout: 120_000, pool: "forks" as const };
/** Files whose pages draw nothing and measure no time: two run side by side. The others have the machine to themselves. */
const SIDE_BY_SIDE = ["time", "library", "contacts", "ground", "corrections", "combine", "keeping"].map((name) => `e2e/${name}.test.ts`);

export default defineConfig({
  test: {
    root,
    projects: [
      { test: { ...shared, name: "side by side", include: SIDE_BY_SIDE, maxWorkers: 2, sequence: { groupOrder: 0 } } },
      { test: { ...shared, name: "alone", include: ["e2e/**/*.test.ts"], exclude: SIDE_BY_SIDE, maxWorkers: 1, sequence: { groupOrder: 1 } } },
    ],
  },
});
