import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Database from "better-sqlite3";
import { afterAll, describe, expect, it } from "vitest";
import { clipPages } from "./clipPages.ts";
import { clipStore } from "./clips.ts";
import { openDatabase } from "./database.ts";
import { deletionStore } from "./deletions.ts";

const folder = mkdtempSync(join(tmpdir(), "stride-migrations-"));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** A database as a version of long ago left it: the first so many steps, and nothing after. */
function databaseOf(version: number): Database.Database {
  const db = new Database(join(folder, `${version}.db`));
  const steps = new URL("../../migrations/", import.meta.url);
  for (const name of readdirSync(steps).sort().slice(0, version)) db.exec(readFileSync(new URL(name, steps), "utf8"));
  db.pragma(`user_version = ${version}`);
  return db;
}

describe("a library of an older version", () => {
  it("keeps its clips' bytes and pictures, and they are found by their words", () => {
    const old = databaseOf(3);
    const picture = { poses: [], prints: [], width: 1, height: 2 };
    const summary = {
      fps: 30,
      frames: 91,
      joints: 24,
      slideWorstCm: 3.5,
      findings: 2,
      worst: { kind: "slide", title: "Left heel slides", value: 3.5, unit: "cm" },
      picture,
    };
    const insert = old.prepare("INSERT INTO clip (id, name, file_name, sha256, bytes, tags, summary, created_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)");
    for (const id of ["a", "b"])
      insert.run(id, `Walk ${id}`, `${id}.bvh`, id.repeat(64), Buffer.from(`bytes of ${id}`), '["Ina","walk"]', JSON.stringify(summary), "2026-01-01");
    old.prepare("INSERT INTO work (id, clip_id, name, revision, document, created_at, saved_at) VALUES ('w', 'a', 'Work', 1, '{}', '', '')").run();
    old.close();

    const db = openDatabase(join(folder, "3.db"));
    const clips = clipStore(db);
    expect(clips.bytes("a")?.toString()).toBe("bytes of a");
    expect(clips.picture("b")).toEqual(picture);
    expect(clips.get("a")?.summary).not.toHaveProperty("picture");
    expect(clips.get("a")?.summary.worst?.title).toBe("Left heel slides");
    const found = clipPages(db).page({ search: "walk heel", order: "length", down: "yes", limit: 10 });
    expect(found.clips.map((c) => c.id).sort()).toEqual(["a", "b"]);
    const deletions = deletionStore(db);
    expect(deletions.standingOn("a")).toEqual([{ id: "w", name: "Work" }]);
    expect(deletions.standingOn("b")).toEqual([]);
    expect(clips.get("a")?.summary.wrong).toEqual([{ kind: "slide", title: "Left heel slides", count: 1 }]);
    expect(clipPages(db).page({ fault: "slide", order: "length", down: "yes", limit: 10 }).total).toBe(2);
    expect(db.pragma("integrity_check", { simple: true })).toBe("ok");
    db.close();
  });
});
