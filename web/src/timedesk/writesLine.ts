import { type Patch, partOf, patchKind, pointLabel } from "@stride/motion";
import { type BenchState, shownDoc } from "../state/bench.ts";
import { partName } from "../state/partWords.ts";
import { editTarget } from "../state/posing.ts";
import { frameSpansOf } from "../state/times.ts";

/** Frames of the result over which a patch has any weight: "f 24–36", "whole clip", or that it is cut away. */
export function framesWritten(state: BenchState, patch: Patch, isNew: boolean): string {
  const { clocks } = state;
  if (!patch.range) return "whole clip";
  const { fps } = clocks;
  const spans = isNew ? [[patch.range.start * fps, patch.range.end * fps]] : frameSpansOf(clocks, patch.id, patch.range.start, patch.range.end);
  if (spans.length === 0) return "no frame: its stretch is cut away";
  const last = (state.after?.frameCount ?? 1) - 1;
  const from = Math.max(0, Math.round(spans[0][0] - patch.rampIn * fps));
  const to = Math.min(last, Math.round(spans[spans.length - 1][1] + patch.rampOut * fps));
  return `f ${from}–${to}`;
}

/** One line that says what an edit would write now: which patch, which parts, which frames. */
export function writesLine(state: BenchState, posing: boolean, frame: number): string {
  const { opened, body } = state;
  if (posing && state.parts.length > 0 && opened && body) {
    const { patch, isNew } = editTarget(state, shownDoc(state), frame);
    const names = state.parts.map((joint) => partName(partOf({ skeleton: opened.skeleton, body }, joint))).join(", ");
    const kind = patchKind(patch.kind);
    const frames = kind?.posing?.keyed ? `key at f ${frame}` : framesWritten(state, patch, isNew);
    return `writes to: ${isNew ? `new ${(kind?.title ?? patch.kind).toLowerCase()}` : patch.name}, ${names}, ${frames}`;
  }
  const patch = shownDoc(state).patches.find((p) => p.id === state.patchId);
  const contact = state.contact ? `${pointLabel(state.contact.point).toLowerCase()}, f ${state.contact.start}–${state.contact.end}` : null;
  if (!patch) return contact ? `writes to: contact ${contact}` : "writes to: nothing yet — add a patch or pick a contact";
  const parts = patch.parts ? `${patch.parts.length} part${patch.parts.length === 1 ? "" : "s"}` : "all parts";
  const frames = framesWritten(state, { ...patch, rampIn: 0, rampOut: 0 }, false);
  // What holds contacts is edited contact by contact.
  return `writes to: ${patch.name}, ${contact && patchKind(patch.kind)?.treats?.kinds.includes("slide") ? contact : `${parts}, ${frames}`}`;
}
