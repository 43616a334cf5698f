// npm test: installs what it needs, runs checks, unit, API and browser tests, and ends with one line that counts them all.
import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { nodeVersionOrExit, ROOT, readyDebian, readyPackages, readyPage } from "./ready.mjs";

nodeVersionOrExit();
readyPackages();
readyDebian();
readyPage();

const folder = mkdtempSync(join(tmpdir(), "stride-test-"));
let passed = 0;
let failed = 0;
/** What failed, by name: said once more at the end, where a long output is cut. */
const failures = [];

function step(name, command, args) {
  console.log(`\n== ${name}`);
  const { status } = spawnSync(command, args, { cwd: ROOT, stdio: "inherit" });
  return status === 0;
}

/** A check that passes or fails as a whole. */
function check(name, command, args) {
  if (step(name, command, args)) passed++;
  else {
    failed++;
    failures.push(name);
  }
}

/** A Vitest run, counted test by test. */
function suite(name, args) {
  const report = join(folder, `${name.replaceAll(" ", "-")}.json`);
  const ok = step(name, "npx", ["vitest", "run", "--reporter=default", "--reporter=json", `--outputFile.json=${report}`, ...args]);
  try {
    const { numPassedTests, numFailedTests, numFailedTestSuites, testResults } = JSON.parse(readFileSync(report, "utf8"));
    passed += numPassedTests;
    failed += numFailedTests;
    for (const file of testResults) {
      if (file.status === "failed" && file.assertionResults.every((t) => t.status !== "failed")) failures.push(`${file.name}: ${file.message}`);
      for (const test of file.assertionResults)
        if (test.status === "failed") failures.push(`${file.name}: ${test.fullName}\n    ${(test.failureMessages?.[0] ?? "").split("\n")[0]}`);
    }
    // A file that could not even be loaded has no failed tests of its own.
    if (!ok && numFailedTests === 0) failed += Math.max(1, numFailedTestSuites);
  } catch {
    failed++;
    failures.push(name);
  }
}

check("types", "npx", ["tsc", "-b", "motion", "demo", "server", "cli", "web", "e2e", "scripts"]);
check("lint, format and import directions", "npx", ["biome", "check", "--diagnostic-level=error", "."]);
suite("unit and API tests", []);
suite("browser tests", ["--config", "e2e/vitest.config.ts"]);
rmSync(folder, { recursive: true, force: true });
if (failures.length > 0) console.log(`\nFailed:\n  ${failures.join("\n  ")}`);
console.log(`\n${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
