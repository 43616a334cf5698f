import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createApp } from "../app.ts";
import { JobPool } from "../pool.ts";
import type { ClipRow } from "../store/clips.ts";
import { type Db, openDatabase } from "../store/database.ts";

type Answer<T> = Promise<{ readonly status: number; readonly data: T }>;

export interface TestServer extends ReturnType<typeof createApp> {
  readonly db: Db;
  /** Sends a request with a JSON body, a form, or raw JSON text, from this machine. */
  ask<T = { error: string }>(method: string, path: string, body?: unknown, headers?: Record<string, string>): Answer<T>;
  upload(name: string, text: string): Answer<ClipRow & { error?: string }>;
  close(): Promise<void>;
}

/** The whole server on a database file of its own, as tests ask it. */
export function testServer(): TestServer {
  const folder = mkdtempSync(join(tmpdir(), "stride-api-"));
  const db: Db = openDatabase(join(folder, "test.db"));
  const pool = new JobPool();
  const served = createApp(db, pool, { uploads: join(folder, "uploads") });

  const ask = async <T = { error: string }>(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Answer<T> => {
    const form = body instanceof FormData;
    const raw = typeof body === "string";
    const response = await served.app.request(`http://localhost${path}`, {
      method,
      headers: { host: "localhost:4173", ...(body !== undefined && !form && { "content-type": "application/json" }), ...headers },
      body: body === undefined ? undefined : form || raw ? body : JSON.stringify(body),
    });
    return { status: response.status, data: (await response.json()) as T };
  };
  const upload = (name: string, text: string) => {
    const form = new FormData();
    form.append("file", new File([text], name));
    return ask<ClipRow & { error?: string }>("POST", "/api/clips", form);
  };
  const close = async () => {
    await pool.close();
    db.close();
    rmSync(folder, { recursive: true, force: true });
  };
  return { ...served, db, ask, upload, close };
}
