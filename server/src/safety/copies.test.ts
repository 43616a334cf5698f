import { spawnSync } from "node:child_process";
import { chmodSync, copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { fileURLToPath } from "node:url";
import { emptyWork, makePatch, RECIPE_FORMAT } from "@stride/motion";
import { afterAll, describe, expect, it } from "vitest";
import { skatingBody } from "../../../motion/src/testing/skatingBody.ts";
import type { ClipRow } from "../store/clips.ts";
import { openDatabase } from "../store/database.ts";
import type { WorkRow } from "../store/works.ts";
import { type TestServer, testServer } from "../testing/testServer.ts";
import { Backups, COPIES_KEPT, type CopiesState, type LibraryCopy } from "./backups.ts";
import { type CopyContents, checkCopy } from "./checkCopy.ts";
import type { Merged } from "./merge.ts";
import { restoreCopy } from "./restore.ts";

const root = fileURLToPath(new URL("../../..", import.meta.url));
const folder = mkdtempSync(join(tmpdir(), "stride-copies-"));
const servers: TestServer[] = [];
const server = () => {
  const made = testServer();
  servers.push(made);
  return made;
};
afterAll(async () => {
  for (const one of servers) await one.close();
  rmSync(folder, { recursive: true, force: true });
});

const clipText = (n: number) => skatingBody().replace("OFFSET 0 0 0", `OFFSET 0 ${n / 1000} 0`);
const copyOf = async ({ ask }: TestServer) => (await ask<LibraryCopy & CopyContents>("POST", "/api/copies")).data;

describe("a copy of the whole library", () => {
  it("is made while it is in use, is checked, can be taken away as one file, and only the newest are kept", async () => {
    const { ask, app, upload, folder: own } = server();
    const clip = (await upload("a.bvh", clipText(1))).data;
    const [made] = await Promise.all([copyOf(servers[0]), ask("POST", "/api/works", { clipId: clip.id, name: "Meanwhile" })]);
    expect(made.clips).toBe(1);
    expect(readdirSync(join(own, "copies"))).toEqual([made.name]);
    const taken = await app.request(`http://localhost/api/copies/${made.name}`, { headers: { host: "localhost" } });
    expect(taken.headers.get("content-disposition")).toBe(`attachment; filename="${made.name}"`);
    const bytes = Buffer.from(await taken.arrayBuffer());
    expect(bytes.equals(readFileSync(join(own, "copies", made.name)))).toBe(true);
    for (let n = 0; n < COPIES_KEPT + 2; n++) await copyOf(servers[0]);
    const state = (await ask<CopiesState>("GET", "/api/copies")).data;
    expect(state.copies).toHaveLength(COPIES_KEPT);
    expect(state.copies.map((c) => c.name)).not.toContain(made.name);
    // No path comes from a name.
    for (const name of ["..%2Ftest.db", "test.db", "stride-1.db"]) expect((await ask("GET", `/api/copies/${name}`)).status).toBe(404);
  });

  it("is made by itself when a day has passed, and not before", async () => {
    const { db, pool, upload } = server();
    await upload("a.bvh", clipText(2));
    const place = join(folder, "daily");
    const backups = new Backups(db, pool, place);
    const count = () => (existsSync(place) ? readdirSync(place).filter((name) => name.endsWith(".db")).length : 0);
    const looked = async () => {
      backups.keepDaily();
      backups.stop();
      // Whatever it began is waited for.
      await (backups as unknown as { making: Promise<unknown> | null }).making;
    };
    await looked();
    expect(count()).toBe(1);
    await looked();
    expect(count()).toBe(1);
    const [only] = readdirSync(place);
    const yesterday = new Date(Date.now() - 25 * 3_600_000);
    utimesSync(join(place, only), yesterday, yesterday);
    await looked();
    expect(count()).toBe(2);
  });

  it("of another's library is taken in by content: nothing twice, nothing over what is here", async () => {
    const [mine, theirs] = [server(), server()];
    const both = (await mine.upload("both.bvh", clipText(10))).data;
    const theirsBoth = (await theirs.upload("same under another name.bvh", clipText(10))).data;
    const fresh = (await theirs.upload("new.bvh", clipText(11))).data;
    const work = (await theirs.ask<WorkRow>("POST", "/api/works", { clipId: theirsBoth.id, name: "Their repair" })).data;
    const document = { ...emptyWork(), patches: [makePatch("join", "On", "j", { clip: { name: fresh.fileName, sha256: fresh.sha256 } })] };
    await theirs.ask("PUT", `/api/works/${work.id}`, { base: 1, name: "Their repair", document, note: "Joined" });
    await theirs.ask("POST", `/api/works/${work.id}/versions`, { name: "sent over" });
    await theirs.ask("POST", "/api/patches", { name: "Knees", data: { format: RECIPE_FORMAT, name: "Knees", patches: [makePatch("repair", "Knees", "k")] } });
    await theirs.ask("POST", "/api/deleted", { clips: [(await theirs.upload("gone.bvh", clipText(12))).data.id] });
    const copy = await copyOf(theirs);
    const path = join(theirs.folder, "copies", copy.name);
    const merge = async () => {
      const response = await mine.app.request("http://localhost/api/copies/merge", {
        method: "POST",
        headers: { host: "localhost", "content-type": "application/octet-stream" },
        body: readFileSync(path),
      });
      return { status: response.status, data: (await response.json()) as Merged & { error?: string } };
    };
    expect((await merge()).data).toEqual({
      clips: { added: 1, known: 1 },
      works: { added: 1, known: 0, beside: 0 },
      poses: { added: 0, known: 0 },
      patches: { added: 1, known: 0 },
    });
    // Their work stands on my clip of the same content, with its past and what it draws on.
    const merged = (await mine.ask<WorkRow>("GET", `/api/works/${work.id}`)).data;
    expect(merged).toMatchObject({ name: "Their repair", clipId: both.id, revision: 2, document });
    expect((await mine.ask<{ version: number | null; versionName: string }[]>("GET", `/api/works/${work.id}/history`)).data[0]).toMatchObject({
      version: 1,
      versionName: "sent over",
    });
    expect((await mine.ask<{ drawing: { name: string }[] }>("GET", `/api/clips/${fresh.id}/used-by`)).data.drawing.map((w) => w.name)).toEqual([
      "Their repair",
    ]);
    // Once more brings nothing; a work that was changed here meanwhile is left, and theirs put beside it.
    expect((await merge()).data).toMatchObject({ clips: { added: 0, known: 2 }, works: { added: 0, known: 1, beside: 0 }, patches: { added: 0, known: 1 } });
    await mine.ask("PUT", `/api/works/${work.id}`, { base: 2, name: "Their repair", document: emptyWork(), note: "Cleared" });
    expect((await merge()).data.works).toEqual({ added: 0, known: 0, beside: 1 });
    expect((await mine.ask<WorkRow>("GET", `/api/works/${work.id}`)).data.document.patches).toEqual([]);
    expect(mine.works.list().map((w) => w.name)).toContain("Their repair (from the copy)");
    expect(mine.db.pragma("foreign_key_check")).toEqual([]);
    expect(mine.db.pragma("integrity_check", { simple: true })).toBe("ok");
    expect(readdirSync(join(mine.folder, "uploads"))).toEqual([]);
  });

  it("that is none, damaged or newer is refused with the reason, and changes nothing", async () => {
    const { ask, app, upload, folder: own, clips } = server();
    await upload("a.bvh", clipText(20));
    const { name } = await copyOf(servers[servers.length - 1]);
    const send = async (bytes: Buffer) => {
      const response = await app.request("http://localhost/api/copies/merge", { method: "POST", headers: { host: "localhost" }, body: bytes });
      return { status: response.status, error: ((await response.json()) as { error: string }).error };
    };
    const whole = readFileSync(join(own, "copies", name));
    const damaged = Buffer.from(whole);
    damaged.fill(0x5a, 4096 * 3, 4096 * 30);
    const newer = join(folder, "newer.db");
    copyFileSync(join(own, "copies", name), newer);
    const db = openDatabase(newer);
    db.pragma("user_version = 99");
    db.close();
    for (const [bytes, reason] of [
      [Buffer.from("no library at all".repeat(400)), /no library of this application/],
      [whole.subarray(0, whole.length / 2), /damaged|malformed|no library/],
      [damaged, /damaged/],
      [readFileSync(newer), /newer version \(schema 99/],
    ] as const) {
      const { status, error } = await send(bytes);
      expect([status, error]).toEqual([422, expect.stringMatching(reason)]);
    }
    expect(clips.count()).toBe(1);
    expect((await ask("GET", "/api/health")).status).toBe(200);
  });
});

/** A user who owns nothing. */
const NOBODY = 65534;
/** A command of the server as its own process. */
const run = (program: "server" | "restore", data: string, user?: number, ...args: string[]) =>
  spawnSync(process.execPath, [`.built/${program}.js`, ...args], {
    uid: user,
    cwd: root,
    env: { ...process.env, STRIDE_DATA: data, PORT: "0" },
    encoding: "utf8",
    timeout: 600_000,
  });

describe("a copy put back by one command", () => {
  it("takes the library's place, which is set aside; not while a server uses it", async () => {
    const one = server();
    const clip: ClipRow = (await one.upload("kept.bvh", clipText(30))).data;
    const { name } = await copyOf(one);
    const data = join(folder, "restored");
    mkdirSync(join(data, "copies"), { recursive: true });
    copyFileSync(join(one.folder, "copies", name), join(data, "copies", name));
    writeFileSync(join(data, "stride.db"), "this was a library once");

    // What is damaged is said at once, with what to do.
    const damaged = run("server", data);
    expect(damaged.status).toBe(1);
    expect(damaged.stderr.trim()).toBe(
      `${join(data, "stride.db")}: the library's file is damaged. Stop the server, and put the newest copy back with: npm run restore`,
    );
    const restored = run("restore", data);
    expect(restored.status).toBe(0);
    expect(restored.stdout).toContain(`Put back ${join(data, "copies", name)}: 1 clips, 0 works.`);
    const aside = readdirSync(data).find((file) => file.startsWith("stride-before-"));
    expect(aside && readFileSync(join(data, aside), "utf8")).toBe("this was a library once");
    const db = openDatabase(join(data, "stride.db"));
    expect(db.prepare("SELECT name FROM clip WHERE id = ?").get(clip.id)).toEqual({ name: "kept" });

    expect(() => restoreCopy(join(data, "copies", name), data)).toThrow(/is in use; stop the server first/);
    db.close();
    const before = readFileSync(join(data, "stride.db"));
    writeFileSync(join(folder, "no.db"), "nothing");
    const refused = run("restore", data, undefined, join(folder, "no.db"));
    expect([refused.status, refused.stderr]).toEqual([1, expect.stringMatching(/no\.db: it is no library of this application/)]);
    expect(readFileSync(join(data, "stride.db")).equals(before)).toBe(true);
    expect(checkCopy(join(data, "stride.db")).clips).toBe(1);
  });

  it("a library that cannot be written says so at once", () => {
    const data = join(folder, "locked");
    mkdirSync(data, { recursive: true });
    openDatabase(join(data, "stride.db")).close();
    const mounted = spawnSync("mount", ["--bind", data, data]).status === 0 && spawnSync("mount", ["-o", "remount,ro,bind", data]).status === 0;
    if (!mounted) chmodSync(data, 0o555);
    try {
      // Where no disk can be mounted, someone who may not write here asks.
      const { status, stderr } = run("server", data, !mounted && process.getuid?.() === 0 ? NOBODY : undefined);
      expect(status).toBe(1);
      expect(stderr.trim().split("\n")).toEqual([
        expect.stringMatching(/stride\.db: the library('s| lies on a) disk (that )?cannot be (read or )?written; nothing was changed\./),
      ]);
    } finally {
      if (mounted) spawnSync("umount", ["-l", data]);
      else chmodSync(data, 0o700);
    }
  });
});
