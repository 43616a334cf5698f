// npm run mutate -- <folder of the core> [--files a.ts,b.ts] [--share 0.2] [--own]: breaks the core on purpose, one small change at a time, and
// tells which changes its tests would not notice. The tests beside the folder are asked first, and all of the core, on the demo as well, about what they let
// pass; with --own the first alone, which is quick and counts too little. A share draws so many of all changes, the same ones each time.
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { Stryker } from "@stryker-mutator/core";
import { ROOT } from "../ready.mjs";
import { mutantKey } from "./chosen.mjs";

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    files: { type: "string" },
    share: { type: "string", default: "1" },
    workers: { type: "string", default: "2" },
    own: { type: "boolean", default: false },
  },
});
const [folder] = positionals;
const share = Number(values.share);
if (!folder || !(share > 0 && share <= 1)) {
  console.error("usage: npm run mutate -- <folder of the core, such as plants> [--files a.ts,b.ts] [--share 0.2] [--own]");
  process.exit(2);
}
const names = values.files?.split(",");
const files = readdirSync(join(ROOT, "motion/src", folder))
  .filter((name) => name.endsWith(".ts") && !name.endsWith(".test.ts") && (!names || names.includes(name)))
  .map((name) => `motion/src/${folder}/${name}`);
const scratch = mkdtempSync(join(tmpdir(), "stride-mutate-"));

/** One run over the changes in `only` (null for all), judged by the tests that match `tests`. */
async function run(tests, only) {
  process.env.STRIDE_MUTANTS = join(scratch, "chosen.json");
  process.env.STRIDE_TESTS = tests;
  writeFileSync(process.env.STRIDE_MUTANTS, JSON.stringify({ share, only }));
  return await new Stryker({
    mutate: files,
    testRunner: "vitest",
    vitest: { configFile: "motion/vitest.mutate.ts", related: false },
    checkers: ["chosen"],
    plugins: ["@stryker-mutator/vitest-runner", join(ROOT, "scripts/mutate/chosen.mjs")],
    coverageAnalysis: "perTest",
    // Words are read over by people, and what a kind or a choice is called is held by its types.
    mutator: { excludedMutations: ["StringLiteral"] },
    ignoreStatic: true,
    ignorePatterns: ["web", "e2e", "server", "cli", "docs", "**/dist", ".types", ".data", "*.md"],
    tempDirName: ".mutants",
    reporters: [],
    concurrency: Number(values.workers),
    // All of the core on instrumented code takes its time.
    dryRunTimeoutMinutes: 20,
    // A machine with other work beside it must not pass for a change that never ends.
    timeoutMS: 60_000,
    logLevel: "error",
    allowConsoleColors: false,
  }).runMutationTest();
}

const own = readdirSync(join(ROOT, "motion/src", folder)).some((name) => name.endsWith(".test.ts"));
const first = own ? (await run(`motion/src/${folder}/**/*.test.ts`, null)).filter((m) => m.status !== "CompileError") : null;
const open = first?.filter((m) => m.status === "Survived" || m.status === "NoCoverage").map(mutantKey) ?? null;
const second =
  open?.length === 0 || (first && values.own) ? [] : (await run("{motion,demo}/src/**/*.test.ts", open)).filter((m) => m.status !== "CompileError");
const judged = new Map([...(first ?? []), ...second].map((mutant) => [mutantKey(mutant), mutant]));
rmSync(scratch, { recursive: true, force: true });

const score = (mutants) => {
  const counted = mutants.filter((m) => m.status !== "Ignored" && m.status !== "RuntimeError");
  const noticed = counted.filter((m) => m.status === "Killed" || m.status === "Timeout").length;
  const endless = counted.filter((m) => m.status === "Timeout").length;
  return { counted: counted.length, noticed, endless, percent: (100 * noticed) / Math.max(1, counted.length) };
};
const line = (what, { counted, noticed, endless, percent }) =>
  console.log(
    `${what.padEnd(40)} ${percent.toFixed(1).padStart(6)} %  ${noticed} of ${counted}${endless > 0 ? `, ${endless} of them as they took too long` : ""}`,
  );
const all = [...judged.values()];
for (const file of files) {
  const mine = all.filter((m) => m.fileName.endsWith(file));
  line(file.slice("motion/src/".length), score(mine));
  for (const m of mine.filter((each) => each.status === "Survived" || each.status === "NoCoverage"))
    console.log(
      `    ${m.location.start.line}:${m.location.start.column} ${m.mutatorName} → ${m.replacement.replace(/\s+/g, " ").slice(0, 90)}${m.status === "NoCoverage" ? "   (no test comes here)" : ""}`,
    );
}
line(folder, score(all));
