import { type Patch, patchKind, type SettleSettings, type Work } from "@stride/motion";
import { create } from "zustand";
import type { SettleView } from "../worker/views.ts";
import { type BenchState, change, preview, shownDoc, withPatch } from "./bench.ts";

/** What the worker last told of the settle that is picked: its landings, its pose in its place, and what differs. */
export const useSettling = create<{ readonly patchId: string | null; readonly view: SettleView | null }>(() => ({ patchId: null, view: null }));

/** The settle that is picked and takes part; null where another patch is. */
export function settleOf(s: BenchState): Patch | null {
  const patch = shownDoc(s).patches.find((p) => p.id === s.patchId);
  return patch?.kind === "settle" && !patch.muted ? patch : null;
}

export function settleSettings(patch: Patch): SettleSettings {
  return { ...patchKind("settle")?.defaults, ...patch.settings } as SettleSettings;
}

/** A settle with one leg landing on another frame; the others stay where they are, as set or as proposed. */
export function withLanding(doc: Work, patch: Patch, landings: SettleView["landings"], point: string, frame: number, fps: number): Work {
  const all = landings.map((l) => ({ point: l.point, at: (l.point === point ? frame : l.land) / fps }));
  return withPatch(doc, patch.id, { settings: { ...patch.settings, landings: all } });
}

/** Takes a leg's landing to a frame of what the patch makes, while it is dragged or for good. */
export function moveLanding(patch: Patch, view: SettleView, point: string, frame: number, fps: number, done: boolean): void {
  const edit = (d: Work) => withLanding(d, patch, view.landings, point, Math.max(1, frame), fps);
  if (done) change(`Landing in ${patch.name}`, edit);
  else preview(edit);
}
