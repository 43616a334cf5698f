import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createApp } from "../app.ts";
import { JobPool } from "../pool.ts";
import { COPIES_FOLDER } from "../safety/backups.ts";
import type { ClipRow } from "../store/clips.ts";
import { type Db, openDatabase } from "../store/database.ts";

type Answer<T> = Promise<{ readonly status: number; readonly data: T }>;

export interface TestServer extends ReturnType<typeof createApp> {
  readonly folder: string;
  /** Sends a request with a JSON body, a form, or raw JSON text, from this machine. */
  ask<T = { error: string }>(method: string, path: string, body?: unknown, headers?: Record<string, string>): Answer<T>;
  /** Brings a file in, also one whose content is there already. */
  upload(name: string, text: string): Answer<ClipRow & { error?: string }>;
  close(): Promise<void>;
}

/** The whole server on a database file of its own, as tests ask it; in a folder that is given, or one of its own; with threads that several share, or its own. */
export function testServer(given?: string, threads?: JobPool): TestServer {
  const folder = given ?? mkdtempSync(join(tmpdir(), "stride-api-"));
  const db: Db = openDatabase(join(folder, "test.db"));
  const pool = threads ?? new JobPool();
  const served = createApp(db, pool, { uploads: join(folder, "uploads"), copies: join(folder, COPIES_FOLDER) });

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
    return ask<ClipRow & { error?: string }>("POST", "/api/clips?again=yes", form);
  };
  const close = async () => {
    if (!threads) await pool.close();
    db.close();
    if (given === undefined) rmSync(folder, { recursive: true, force: true });
  };
  return { ...served, folder, ask, upload, close };
}
