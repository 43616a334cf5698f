import { type ClipKey, DocumentError, patchKind, type SourceRef, sourceKeyOf, type Work } from "@stride/motion";
import type { ClipRow } from "./clips.ts";
import type { Db } from "./database.ts";

/** A work that draws on a clip. */
export interface UsingWork {
  readonly id: string;
  readonly name: string;
}

/** A clip by the content of its file and its animation, as rows have it. */
type KeptKey = Pick<ClipRow, "sha256" | "take">;

/** What a work draws on, as its row has it. */
interface DrawnOn extends KeptKey {
  readonly name: string;
  /** 0: the clip as it came */
  readonly revision: number;
}

/** The other clips that a document draws on, each once; muted patches count, since they can be taken in again. */
export function inputsOf(work: Work): SourceRef[] {
  const found = new Map<string, SourceRef>();
  for (const patch of work.patches) for (const ref of patchKind(patch.kind)?.inputs(patch.settings) ?? []) found.set(sourceKeyOf(ref), ref);
  return [...found.values()];
}

/** Who draws on what. Written with every save, so that a clip knows it without any document being read. */
export function sourceStore(db: Db) {
  const clear = db.prepare("DELETE FROM work_source WHERE work_id = ?");
  const insert = db.prepare("INSERT INTO work_source (work_id, sha256, take, name, revision) VALUES (?, ?, ?, ?, ?)");
  const using = db.prepare<[string, string | null], UsingWork>(
    "SELECT DISTINCT work.id, work.name FROM work_source JOIN work ON work.id = work_id WHERE sha256 = ? AND take IS ? AND deleted_at IS NULL ORDER BY work.name",
  );
  const drawnBy = db.prepare<[string], DrawnOn>("SELECT sha256, take, name, revision FROM work_source WHERE work_id = ?");
  const self = db.prepare<[string], { name: string }>("SELECT name FROM work WHERE id = ?");
  const hasRevision = db.prepare<[string, string | null, number], { work_id: string }>(
    `SELECT work_id FROM history JOIN work ON work.id = work_id JOIN clip ON clip.id = history.clip_id
     WHERE clip.sha256 = ? AND clip.take IS ? AND history.revision = ? AND work.deleted_at IS NULL ORDER BY work.saved_at DESC LIMIT 1`,
  );
  return {
    /** Takes down what a work draws on. To be called in the transaction that saves it. */
    record(workId: string, document: Work): void {
      clear.run(workId);
      for (const { sha256, take, name, work } of inputsOf(document)) insert.run(workId, sha256, take ?? null, name, work ?? 0);
    },
    /** Works that draw on a clip. */
    usedBy: ({ sha256, take }: KeptKey): UsingWork[] => using.all(sha256, take ?? null),
    /** The work whose revision a reference means: of those that stand on the clip the one saved last. */
    workAt: ({ sha256, take }: ClipKey, revision: number): string | undefined => hasRevision.get(sha256, take ?? null, revision)?.work_id,
    /**
     * Refuses a document that would draw on its own work's result, also round corners. Throws DocumentError naming the chain.
     */
    refuseCircle(workId: string, document: Work): void {
      const own = self.get(workId);
      if (!own) return;
      const seen = new Set<string>();
      const walk = (inputs: readonly DrawnOn[], chain: readonly string[]): void => {
        for (const { sha256, take, name, revision } of inputs) {
          if (revision === 0) continue;
          const id = hasRevision.get(sha256, take, revision)?.work_id;
          const work = id === undefined ? undefined : self.get(id);
          if (id === undefined || !work) continue;
          const path = [...chain, work.name];
          if (id === workId) throw new DocumentError("patches", `"${name}" cannot be drawn on: the work would draw on itself (${path.join(" → ")})`);
          if (seen.has(id)) continue;
          seen.add(id);
          walk(drawnBy.all(id), path);
        }
      };
      walk(
        inputsOf(document).map(({ sha256, take, name, work }) => ({ sha256, take: take ?? null, name, revision: work ?? 0 })),
        [own.name],
      );
    },
  };
}

export type SourceStore = ReturnType<typeof sourceStore>;
