import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { manyClips } from "../testing/manyClips.ts";
import { testServer } from "../testing/testServer.ts";
import { type ClipFacets, type ClipPage, wordsOf } from "./clipPages.ts";

const server = testServer();
const { ask, clips, db, deletions } = server;
afterAll(() => server.close());

const COUNT = 10_000;
/** How long something takes at best of five, milliseconds. */
function quickest(run: () => unknown): number {
  return Math.min(
    ...Array.from({ length: 5 }, () => {
      const started = performance.now();
      run();
      return performance.now() - started;
    }),
  );
}

describe("a library of ten thousand clips", () => {
  beforeAll(() => manyClips(db, clips, COUNT), 120_000);

  const page = async (query: string) => (await ask<ClipPage>("GET", `/api/clips?${query}`)).data;

  it("is read in pages by cursor: each clip once, in order, in any order and either way", async () => {
    for (const query of ["order=slide", "order=name&down=no", "order=length", "order=findings", "order=character&down=no"]) {
      const seen = new Set<string>();
      let after = "";
      let pages = 0;
      let before: ClipPage["clips"][number] | undefined;
      do {
        const { clips: rows, next, total } = await page(`${query}&limit=200&character=Ina${after && `&after=${after}`}`);
        expect(rows.every((r) => !seen.has(r.id))).toBe(true);
        for (const row of rows) {
          seen.add(row.id);
          if (before && query === "order=slide") expect(row.summary.slideWorstCm).toBeLessThanOrEqual(before.summary.slideWorstCm);
          if (before && query === "order=name&down=no") expect(row.name.toLowerCase() >= before.name.toLowerCase()).toBe(true);
          before = row;
        }
        if (next === null) expect(seen.size).toBe(total);
        after = next ?? "";
        pages++;
      } while (after);
      expect(pages).toBeGreaterThan(5);
    }
  });

  it("is found by words that are begun: name, tag, character, and what is wrong", async () => {
    const one = await page("search=harbour walk 00043");
    expect(one.clips.map((c) => c.name)).toEqual(["Harbour walk 00043"]);
    const part = await page("search=HARB slid");
    expect(part.total).toBeGreaterThan(100);
    expect(part.clips.every((c) => c.summary.worst?.title.includes("slides"))).toBe(true);
    expect((await page("search=nothing like this")).clips).toEqual([]);
    // What FTS5 takes for its own syntax is searched for, not run.
    for (const word of ['"', "a OR b", "name:", "NEAR(", "*", "-x"])
      expect((await ask("GET", `/api/clips?search=${encodeURIComponent(word)}`)).status).toBe(200);
    expect(wordsOf(' "Left" toe* OR ')).toBe('"Left"* "toe"* "OR"*');
    expect(wordsOf("…")).toBeNull();
  });

  it("follows what is renamed, read anew and deleted", async () => {
    const [first] = (await page("search=harbour walk 00008")).clips;
    clips.relabel([{ id: first.id, name: "Lighthouse keeper" }]);
    expect((await page("search=lighthouse")).clips.map((c) => c.id)).toEqual([first.id]);
    // Its file keeps its name.
    expect((await page("search=harbour walk 00008")).clips.map((c) => c.name)).toEqual(["Lighthouse keeper"]);
    deletions.remove({ clips: [first.id] });
    expect((await page("search=lighthouse")).clips).toEqual([]);
    expect(clips.count()).toBe(COUNT - 1);
    // Until it is swept away, it can be brought back with all that it has.
    expect(deletions.back({ clips: [first.id] })).toBe(1);
    expect((await page("search=lighthouse")).clips.map((c) => c.id)).toEqual([first.id]);
    expect(clips.bytes(first.id)?.length).toBeGreaterThan(0);
  });

  it("tells what there is to choose from, and refuses what it does not know by its field", async () => {
    const facets = (await ask<ClipFacets>("GET", "/api/clips/facets")).data;
    expect(facets.total).toBe(clips.count());
    expect(facets.characters.reduce((sum, c) => sum + c.count, 0)).toBe(facets.total);
    expect(facets.needsWork).toBeGreaterThan(0);
    expect(facets.needsWork).toBeLessThan(facets.total);
    const wrong = await ask("GET", "/api/clips?order=weight");
    expect(wrong.status).toBe(400);
    expect(wrong.data.error).toMatch(/^order: /);
    expect((await ask("GET", "/api/clips?after=nowhere")).data.error).toMatch(/this place in the list is not known/);
    expect((await ask("GET", `/api/clips?limit=${COUNT}`)).status).toBe(400);
  });

  it("is small and quick where it is asked, beside a pass over every row", async () => {
    const body = JSON.stringify(await page("limit=60"));
    expect(body.length).toBeLessThan(300_000);
    // Against reading every row as a whole, as lists once did; no figure in seconds would mean the same on every machine.
    const whole = quickest(() => clips.list());
    const { app } = server;
    expect(quickest(() => clips.count())).toBeLessThan(whole / 20);
    const asking = async (query: string) => {
      const started = performance.now();
      await (await app.request(`http://localhost/api/clips?${query}`, { headers: { host: "localhost" } })).text();
      return performance.now() - started;
    };
    await asking("limit=60");
    for (const query of ["limit=60", "limit=60&search=harb", `limit=60&search=${randomUUID()}`, "limit=60&order=name"])
      expect(Math.min(await asking(query), await asking(query), await asking(query)), query).toBeLessThan(whole);
  });
});
