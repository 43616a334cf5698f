import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, describe, expect, it } from "vitest";
import { JobPool } from "./pool.ts";
import type { Job } from "./worker.ts";

const folder = mkdtempSync(join(tmpdir(), "stride-pool-"));
const filename = join(folder, "worker.mjs");
writeFileSync(
  filename,
  `export default async function work(job) {
    if (job.fileName === "for ever") for (;;);
    if (job.fileName === "dies") process.exit(3);
    if (job.fileName === "slow") await new Promise((done) => setTimeout(done, 600));
    return { result: job.fileName };
  }`,
);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const job = (fileName: string): Job => ({ kind: "summarize", source: { path: "" }, fileName });

describe("the pool", () => {
  it("stops a job that takes too long, says so, and goes on with those behind it", async () => {
    const pool = new JobPool({ filename, longestMs: 3000, threads: 1 });
    const stuck = pool.run(job("for ever"));
    const behind = ["a", "b", "c"].map((name) => pool.run<string>(job(name)));
    await expect(stuck).rejects.toMatchObject({ message: "this took too long and was stopped", expected: true });
    expect(await Promise.all(behind)).toEqual(["a", "b", "c"]);
    await pool.close();
  });

  it("fails the job whose worker dies, and serves the next with a fresh one", async () => {
    const pool = new JobPool({ filename, threads: 1 });
    await expect(pool.run(job("dies"))).rejects.toThrow();
    expect(await pool.run(job("next"))).toBe("next");
    await pool.close();
  });

  it("gives those that wait the time of those before them, and refuses when too many wait", async () => {
    const pool = new JobPool({ filename, longestMs: 3500, threads: 1, longestQueue: 6 });
    const jobs = Array.from({ length: 7 }, () => pool.run<string>(job("slow")));
    // Over four seconds of work, each job within three and a half; that is long beside what a busy machine takes to start a worker.
    expect(await Promise.all(jobs)).toHaveLength(7);
    const many = Array.from({ length: 12 }, () => pool.run(job("slow")));
    const ends = await Promise.allSettled(many);
    const refused = ends.filter((e) => e.status === "rejected");
    expect(refused.length).toBeGreaterThan(0);
    for (const end of refused) expect(String(end.reason)).toMatch(/too many files/);
    await pool.close();
  });
});
