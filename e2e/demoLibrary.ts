import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { TestProject } from "vitest/node";
import { startServer } from "./harness.ts";

declare module "vitest" {
  interface ProvidedContext {
    /** a data folder as a server leaves it that was started once on an empty one: the demo is in it */
    readonly demoLibrary: string;
  }
}

/** Before any test: a server makes the library of the demo, which the servers of the tests begin with. */
export async function setup(project: TestProject): Promise<() => void> {
  const folder = mkdtempSync(join(tmpdir(), "stride-demo-"));
  const server = await startServer({ folder });
  await server.stop();
  project.provide("demoLibrary", folder);
  return () => rmSync(folder, { recursive: true, force: true });
}
