import { type CharacterNotes, emptyNotes } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { saveNotes } from "../../api/client.ts";
import { type Change, kept } from "./notes.ts";

/** What is said of a character, and how it is changed: each change is saved at once and can be taken back. */
export interface Notes {
  readonly said: CharacterNotes;
  change(change: Change): void;
  /** null where nothing was changed since the screen was opened */
  readonly undo: (() => void) | null;
  /** null where nothing is said */
  readonly clear: (() => void) | null;
}

const NOTHING = emptyNotes();

export function useNotes(row: ClipRow): Notes {
  const queries = useQueryClient();
  const [past, setPast] = useState<readonly (CharacterNotes | null)[]>([]);
  const put = async (notes: CharacterNotes | null) => {
    const show = (made: CharacterNotes | null) =>
      queries.setQueryData<ClipRow[]>(["characters"], (rows) => rows?.map((one) => (one.id === row.id ? { ...one, notes: made } : one)));
    const before = row.notes;
    show(notes);
    try {
      await saveNotes(row.id, notes);
    } catch (error) {
      show(before);
      toast.error(`What was said of ${row.name} could not be saved: ${error instanceof Error ? error.message : String(error)}`);
    }
  };
  const said = row.notes ?? NOTHING;
  const set = (notes: CharacterNotes | null) => {
    setPast([...past, row.notes]);
    void put(notes);
  };
  return {
    said,
    change: (change) => set(kept(change(said))),
    undo:
      past.length === 0
        ? null
        : () => {
            setPast(past.slice(0, -1));
            void put(past[past.length - 1]);
          },
    clear: row.notes ? () => set(null) : null,
  };
}
