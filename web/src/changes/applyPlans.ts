import type { Work } from "@stride/motion";
import { toast } from "sonner";
import { ApiError, saveMany, takeBack } from "../api/client.ts";

/** One work of a step. */
export interface Change {
  readonly id: string;
  readonly base: number;
  readonly document: Work;
  readonly clipId?: string;
}

/** Long enough to see what it did. */
const UNDO_MS = 20_000;

/**
 * Saves works as one step, and offers to take it back: `all` at once. False where nothing was saved, which is told; `onSaved` hears when works have changed, also by
 * being taken back.
 */
export async function applyChanges(changes: readonly Change[], note: string, onSaved: () => void): Promise<boolean> {
  try {
    const { saved } = await saveMany([...changes], note);
    onSaved();
    const count = `${saved.length} ${saved.length === 1 ? "work" : "works"}`;
    toast.success(`${note}: ${count}`, {
      duration: UNDO_MS,
      action: { label: "Undo", onClick: () => void undoChanges(saved, note, onSaved) },
    });
    return true;
  } catch (error) {
    const moved = error instanceof ApiError && error.status === 409;
    toast.error(
      moved
        ? "Some of the works were saved elsewhere meanwhile; nothing was changed. They are worked out again."
        : error instanceof Error
          ? error.message
          : String(error),
    );
    return false;
  }
}

async function undoChanges(saved: readonly { readonly id: string; readonly revision: number }[], note: string, onSaved: () => void): Promise<void> {
  try {
    const { back, kept } = await takeBack([...saved], `Undo: ${note}`.slice(0, 200));
    onSaved();
    const stay =
      kept.length > 0
        ? `; ${kept.map((w) => `“${w.name}”`).join(", ")} ${kept.length === 1 ? "was" : "were"} changed since and ${kept.length === 1 ? "stays" : "stay"}`
        : "";
    toast.success(`${back.length} ${back.length === 1 ? "work is" : "works are"} as before${stay}`);
  } catch (error) {
    toast.error(error instanceof Error ? error.message : String(error));
  }
}
