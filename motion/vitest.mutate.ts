import { fileURLToPath } from "node:url";
import { defineConfig } from "vitest/config";

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** The core's own tests, on the core that stands beside this file: what mutation runs copy is tested, not what is installed. */
export default defineConfig({
  resolve: { alias: { "@stride/motion": at("src/index.ts"), "@stride/demo": at("../demo/src/index.ts") } },
  // The longest property tests are left to the suite: they would be run again for every change.
  test: { include: [process.env.STRIDE_TESTS ?? "motion/src/**/*.test.ts"], exclude: ["**/renew.test.ts", "**/bodyReachPaths.test.ts"], testTimeout: 60_000 },
});
