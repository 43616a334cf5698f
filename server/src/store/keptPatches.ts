import { randomUUID } from "node:crypto";
import { checkRecipe, type Recipe } from "@stride/motion";
import { z } from "zod";
import type { Db } from "./database.ts";

const name = z.string().trim().min(1, "a name is needed").max(120, "a name has at most 120 characters");
/** What is sent to keep patches; the recipe itself is checked where it is kept. */
export const newPatchesSchema = z.strictObject({ name, data: z.record(z.string(), z.unknown()) });

/** Patches with their settings, kept under a name. What this version cannot read says so, hides no other and can be deleted. */
export interface KeptPatches {
  readonly id: string;
  readonly name: string;
  readonly recipe: Recipe | null;
  readonly problem: string | null;
  readonly createdAt: string;
}

interface Raw {
  id: string;
  name: string;
  data: string;
  created_at: string;
}

/** The shelf of kept patches. */
export function keptPatchesStore(db: Db) {
  const all = db.prepare<[], Raw>("SELECT id, name, data, created_at FROM kept_patches WHERE deleted_at IS NULL ORDER BY created_at, rowid");
  const insert = db.prepare("INSERT INTO kept_patches (id, name, data, created_at) VALUES (?, ?, ?, ?)");
  return {
    list: (): KeptPatches[] => all.all().map(fromRaw),
    /** Throws DocumentError for what is no recipe. */
    add(named: string, data: unknown): KeptPatches {
      const recipe = checkRecipe(data);
      const row = { id: randomUUID(), name: named, data: JSON.stringify(recipe), created_at: new Date().toISOString() };
      insert.run(row.id, row.name, row.data, row.created_at);
      return fromRaw(row);
    },
  };
}

export type KeptPatchesStore = ReturnType<typeof keptPatchesStore>;

function fromRaw({ id, name, data, created_at }: Raw): KeptPatches {
  try {
    return { id, name, recipe: checkRecipe(JSON.parse(data)), problem: null, createdAt: created_at };
  } catch (error) {
    return { id, name, recipe: null, problem: error instanceof Error ? error.message : String(error), createdAt: created_at };
  }
}
