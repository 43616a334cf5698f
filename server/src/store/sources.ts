import { DocumentError, patchKind, type SourceRef, type Work } from "@stride/motion";
import type { Db } from "./database.ts";

/** A work that draws on a clip. */
export interface UsingWork {
  readonly id: string;
  readonly name: string;
}

/** The other clips that a document draws on, each once; muted patches count, since they can be taken in again. */
export function inputsOf(work: Work): SourceRef[] {
  const found = new Map<string, SourceRef>();
  for (const patch of work.patches) for (const ref of patchKind(patch.kind)?.inputs(patch.settings) ?? []) found.set(`${ref.sha256}@${ref.work ?? 0}`, ref);
  return [...found.values()];
}

/** Who draws on what. Written with every save, so that a clip knows it without any document being read. */
export function sourceStore(db: Db) {
  const clear = db.prepare("DELETE FROM work_source WHERE work_id = ?");
  const insert = db.prepare("INSERT INTO work_source (work_id, sha256, name, revision) VALUES (?, ?, ?, ?)");
  const using = db.prepare<[string], UsingWork>(
    "SELECT DISTINCT work.id, work.name FROM work_source JOIN work ON work.id = work_id WHERE sha256 = ? AND deleted_at IS NULL ORDER BY work.name",
  );
  const drawnBy = db.prepare<[string], { sha256: string; name: string; revision: number }>("SELECT sha256, name, revision FROM work_source WHERE work_id = ?");
  const self = db.prepare<[string], { name: string }>("SELECT name FROM work WHERE id = ?");
  const hasRevision = db.prepare<[string, number], { work_id: string }>(
    `SELECT work_id FROM history JOIN work ON work.id = work_id JOIN clip ON clip.id = history.clip_id
     WHERE clip.sha256 = ? AND history.revision = ? AND work.deleted_at IS NULL ORDER BY work.saved_at DESC LIMIT 1`,
  );
  return {
    /** Takes down what a work draws on. To be called in the transaction that saves it. */
    record(workId: string, document: Work): void {
      clear.run(workId);
      for (const { sha256, name, work } of inputsOf(document)) insert.run(workId, sha256, name, work ?? 0);
    },
    /** Works that draw on a clip of this content. */
    usedBy: (sha256: string): UsingWork[] => using.all(sha256),
    /** The work whose revision a reference means: of those that stand on the clip the one saved last. */
    workAt: (sha256: string, revision: number): string | undefined => hasRevision.get(sha256, revision)?.work_id,
    /**
     * Refuses a document that would draw on its own work's result, also round corners. Throws DocumentError naming the chain.
     */
    refuseCircle(workId: string, document: Work): void {
      const own = self.get(workId);
      if (!own) return;
      const seen = new Set<string>();
      const walk = (inputs: readonly { readonly sha256: string; readonly name: string; readonly revision: number }[], chain: readonly string[]): void => {
        for (const { sha256, name, revision } of inputs) {
          if (revision === 0) continue;
          const id = hasRevision.get(sha256, revision)?.work_id;
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
        inputsOf(document).map(({ sha256, name, work }) => ({ sha256, name, revision: work ?? 0 })),
        [own.name],
      );
    },
  };
}

export type SourceStore = ReturnType<typeof sourceStore>;
