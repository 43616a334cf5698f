import { emptyWork } from "@stride/motion";
import { afterAll, beforeAll, expect, it } from "vitest";
import { skatingBody } from "../../../motion/src/testing/skatingBody.ts";
import { testServer } from "../testing/testServer.ts";
import { LARGEST_HISTORY, NEWEST_KEPT } from "./historyThinning.ts";
import { workStore } from "./works.ts";

const server = testServer();
afterAll(() => server.close());
let clipId: string;
beforeAll(async () => {
  clipId = (await server.upload("walk.bvh", skatingBody())).data.id;
});

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;

it("keeps every save of the last day, one an hour for a week, one a day before that, and milestones for ever", () => {
  let now = new Date("2026-03-01T00:00:00Z");
  const works = workStore(server.db, () => now);
  const { id } = works.create(clipId, "Long", emptyWork());
  const savedAt = new Map<number, number>([[1, now.getTime()]]);
  let milestone = 0;
  // Twelve days of a save every ten minutes.
  for (let revision = 1; revision < 12 * 144; revision++) {
    now = new Date(now.getTime() + 10 * MINUTE);
    const result = works.save(id, revision, "Long", emptyWork(), `save ${revision}`);
    if (!result || !("saved" in result)) throw new Error("the save was not taken");
    savedAt.set(revision + 1, now.getTime());
    if (revision === 300) {
      milestone = revision;
      works.milestone(id, revision);
    }
  }
  const kept = works.history(id);
  const age = (revision: number) => now.getTime() - (savedAt.get(revision) ?? 0);
  const within = (from: number, to: number) => kept.filter((h) => age(h.revision) > from && age(h.revision) <= to && !h.milestone);
  // Thinning looks once in twenty saves: up to that many may not have been looked at.
  expect(within(-1, DAY - 21 * 10 * MINUTE).length).toBeGreaterThan(120);
  const hours = (7 - 1) * 24;
  expect(within(DAY, 7 * DAY).length).toBeGreaterThanOrEqual(hours - 2);
  expect(within(DAY, 7 * DAY).length).toBeLessThanOrEqual(hours + 30);
  expect(within(7 * DAY, 12 * DAY).length).toBeLessThanOrEqual(8);
  expect(within(7 * DAY, 12 * DAY).length).toBeGreaterThanOrEqual(4);
  expect(kept.map((h) => h.revision)).toEqual(expect.arrayContaining([1, milestone, 12 * 144]));
  expect(works.version(id, milestone)).toEqual(emptyWork());
});

it("stays within its size, the newest kept whatever they weigh", () => {
  const works = workStore(server.db);
  const document = { ...emptyWork(), contacts: [] };
  const { id } = works.create(clipId, "Heavy", document);
  // Weight that is no document's, straight into the table: half a megabyte a revision.
  const heavy = JSON.stringify(document) + " ".repeat(512 * 1024);
  const put = server.db.prepare("INSERT INTO history (work_id, revision, document, note, saved_at, milestone) VALUES (?, ?, ?, '', ?, 0)");
  for (let revision = 2; revision < 260; revision++) put.run(id, revision, heavy, new Date().toISOString());
  server.db.prepare("UPDATE work SET revision = 259 WHERE id = ?").run(id);
  works.save(id, 259, "Heavy", document, "thin");
  const { bytes, count } = server.db.prepare("SELECT sum(length(document)) AS bytes, count(*) AS count FROM history WHERE work_id = ?").get(id) as {
    bytes: number;
    count: number;
  };
  expect(bytes).toBeLessThan(LARGEST_HISTORY + 1024 * 1024);
  expect(count).toBeGreaterThan(NEWEST_KEPT);
  expect(count).toBeLessThan(140);
});
