import { spawn } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../motion/src/testing/skatingBody.ts";
import { emptyLibrary } from "./testing/emptyLibrary.ts";

const data = mkdtempSync(join(tmpdir(), "stride-upload-"));
emptyLibrary(data);
const child = spawn(process.execPath, [fileURLToPath(new URL("../../.built/server.js", import.meta.url))], {
  env: { ...process.env, STRIDE_DATA: data, PORT: "0" },
  stdio: ["ignore", "pipe", "inherit"],
});
let url: string;

beforeAll(async () => {
  url = await new Promise<string>((resolve, reject) => {
    child.stdout.on("data", (chunk: Buffer) => {
      const found = /http:\/\/localhost:\d+/.exec(chunk.toString());
      if (found) resolve(found[0]);
    });
    child.on("exit", (code) => reject(new Error(`the server ended with ${code}`)));
  });
});
afterAll(async () => {
  const ended = new Promise((resolve) => child.once("exit", resolve));
  child.kill("SIGTERM");
  await ended;
  rmSync(data, { recursive: true, force: true });
});

/** The most memory that the server's process has held, MB, as the kernel counts it. */
function peak(): number {
  return Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${child.pid}/status`, "utf8"))?.[1]) / 1024;
}

/** Sends a file in pieces of a megabyte: what it begins with, and zeros behind. */
async function sendZeros(name: string, begin: string, megabytes: number): Promise<{ status: number; error: string }> {
  const edge = "----edge";
  const piece = new Uint8Array(1024 * 1024);
  const text = new TextEncoder();
  let sent = 0;
  const body = new ReadableStream<Uint8Array>({
    start: (stream) =>
      stream.enqueue(text.encode(`--${edge}\r\nContent-Disposition: form-data; name="file"; filename="${name}"\r\nContent-Type: text/plain\r\n\r\n${begin}`)),
    pull(stream) {
      if (sent++ < megabytes) stream.enqueue(piece);
      else {
        stream.enqueue(text.encode(`\r\n--${edge}--\r\n`));
        stream.close();
      }
    },
  });
  const response = await fetch(`${url}/api/clips`, {
    method: "POST",
    headers: { "content-type": `multipart/form-data; boundary=${edge}` },
    body,
    duplex: "half",
  } as RequestInit);
  return { status: response.status, error: ((await response.json()) as { error: string }).error };
}

describe("bringing a file in", () => {
  it("of 200 MB of zeros is refused from its first kilobytes and costs next to no memory", async () => {
    const before = peak();
    const { status, error } = await sendZeros("zeros.bvh", "", 200);
    expect(status).toBe(422);
    expect(error).toMatch(/zeros\.bvh:1: .*does not begin like one/);
    expect(peak() - before).toBeLessThan(100);
    expect(readdirSync(join(data, "uploads"))).toEqual([]);
  });

  it("over the limit is refused while it comes, and leaves nothing behind", async () => {
    const before = peak();
    const { status, error } = await sendZeros("long.bvh", "HIERARCHY\nROOT Hips", 300);
    expect(status).toBe(413);
    expect(error).toMatch(/larger than/);
    expect(peak() - before).toBeLessThan(150);
    expect(readdirSync(join(data, "uploads"))).toEqual([]);
  });

  it("still works afterwards", async () => {
    const form = new FormData();
    form.append("file", new File([skatingBody()], "walk.bvh"));
    const response = await fetch(`${url}/api/clips`, { method: "POST", body: form });
    expect(response.status).toBe(201);
    expect(readdirSync(join(data, "uploads"))).toEqual([]);
  });
});
