import {
  composeTurns,
  type Edit,
  type EditView,
  type Hold,
  headingOf,
  makePatch,
  PATCH_KINDS,
  type Patch,
  type Pivot,
  patchKind,
  rangeWeight,
  type Space,
  type Work,
} from "@stride/motion";
import { create } from "zustand";
import { type BenchState, freshId, shownDoc, useBench, withPatch, withSetting } from "./bench.ts";
import { playhead } from "./playhead.ts";
import { momentIn } from "./times.ts";

export type Tool = "look" | "turn" | "move";

/** How parts are posed: what the hand does, in which axes, by which steps. */
interface PosingState {
  readonly tool: Tool;
  readonly space: Space;
  /** degrees, or centimetres; 0 is free */
  readonly snap: 0 | 1 | 5 | 10;
  readonly shared: boolean;
  readonly pivot: Pivot | null;
  /** for the next new patch; a patch that is edited has its own */
  readonly holds: readonly Hold[];
  readonly copied: import("@stride/motion").StoredPose | null;
  readonly trail: boolean;
  /** frames (at 30 a second) on either side over which a dragged dot of a trail fades */
  readonly trailRamp: number;
}

export const usePosing = create<PosingState>(() => ({
  tool: "look",
  space: "own",
  snap: 0,
  shared: false,
  pivot: null,
  holds: [],
  copied: null,
  trail: false,
  trailRamp: 8,
}));

/** Where an edit of the pose goes: into the selected patch, if its kind takes poses there, or into a patch yet to be made at the playhead. */
export interface Target {
  readonly patch: Patch;
  readonly isNew: boolean;
  /** the moment, in the time that the patch receives */
  readonly moment: number;
  /** the patch's weight there */
  readonly weight: number;
}

let pendingId = freshId();

/** The kind of patch that an edit makes where none is there to take it: the first that takes poses over a window. */
const MADE_BY_POSING = PATCH_KINDS.find((k) => k.posing && !k.posing.keyed);

export function editTarget(state: BenchState, doc: Work, frame: number): Target {
  const selected = doc.patches.find((p) => p.id === state.patchId && !p.muted);
  const posing = selected && patchKind(selected.kind)?.posing;
  if (selected && posing) {
    const moment = momentIn(state.clocks, selected.id, frame);
    const weight = weightAt(selected, moment);
    if (posing.takes(weight)) return { patch: selected, isNew: false, moment, weight };
  }
  if (!MADE_BY_POSING) throw new Error("no kind of patch takes poses");
  const { fps } = state.clocks;
  const moment = frame / fps;
  const made: Patch = { ...makePatch(MADE_BY_POSING.kind, MADE_BY_POSING.title, pendingId), ...MADE_BY_POSING.begin?.(moment, fps) };
  // A stretch that is set on the ruler is the window; else it is the frame alone.
  const stretch = playhead.range;
  const range = stretch && frame >= stretch[0] && frame <= stretch[1] ? { start: stretch[0] / fps, end: stretch[1] / fps } : made.range;
  const settings = MADE_BY_POSING.holds ? { ...made.settings, holds: [...usePosing.getState().holds] } : made.settings;
  return { patch: { ...made, range, settings }, isNew: true, moment, weight: 1 };
}

/** Weight of a patch at a moment of what it receives. */
export function weightAt(patch: Patch, moment: number): number {
  if (!patch.range) return patch.weight;
  // Moments of frames are fractions: what is nearest to the range's end is at it.
  const near = 1e-6;
  const { start, end } = patch.range;
  return patch.weight * rangeWeight(moment, start - near, end + near, patch.rampIn, patch.rampOut, patch.rampShape);
}

/** The pose that is shown at a frame, as edits read it. */
function viewAt(state: BenchState, frame: number): EditView | null {
  const view = state.after;
  const skeleton = state.opened?.skeleton;
  if (!view || !skeleton || !state.character) return null;
  const f = Math.min(frame, view.frameCount - 1);
  const r = view.jointCount * 4;
  const rotations = view.rotations.subarray(f * r, (f + 1) * r);
  return { skeleton, body: state.character.body, rotations, heading: headingOf({ worldRotations: rotations }, state.character.rig) };
}

/** The document with an edit written to its target. Amounts are what is wanted at the frame itself. */
export function withEdit(doc: Work, edit: Edit, frame: number): Work {
  const state = useBench.getState();
  const { patch, isNew, moment, weight } = editTarget(state, doc, frame);
  const posing = patchKind(patch.kind)?.posing;
  const view = viewAt(state, frame);
  if (!posing || !view) return doc;
  const next = { ...patch, settings: posing.write(patch.settings, edit, { moment, weight, isNew, view }) };
  return isNew ? { ...doc, patches: [...doc.patches, next] } : withPatch(doc, patch.id, { settings: next.settings });
}

/** Selects what an edit has just been written to; the next new patch gets an id of its own. */
export function editDone(): void {
  useBench.setState((s) => {
    const made = s.doc.patches.find((p) => p.id === pendingId);
    if (!made) return {};
    pendingId = freshId();
    return { patchId: made.id };
  });
}

/** One list for all that hold nothing, so that it is the same list at every look. */
const NOTHING: readonly Hold[] = [];

/** Holds in force for what is edited now: the selected patch's own, or those that wait for the next new patch. */
export function currentHolds(state: BenchState, doc: Work): readonly Hold[] {
  const patch = holdingPatch(state, doc);
  return patch ? ((patch.settings.holds as Hold[] | undefined) ?? NOTHING) : usePosing.getState().holds;
}

/** The selected patch, if it keeps holds and is what the next edit goes into. */
export function holdingPatch(state: BenchState, doc: Work): Patch | undefined {
  const patch = doc.patches.find((p) => p.id === state.patchId);
  const kind = patch && patchKind(patch.kind);
  if (!patch || !kind?.holds) return undefined;
  return !kind.posing || kind.posing.takes(weightAt(patch, momentIn(state.clocks, patch.id, playhead.frame))) ? patch : undefined;
}

export function setHolds(label: string, make: (holds: readonly Hold[]) => readonly Hold[], commit: (label: string, edit: (doc: Work) => Work) => void): void {
  const state = useBench.getState();
  const patch = holdingPatch(state, shownDoc(state));
  const next = make(currentHolds(state, shownDoc(state)));
  usePosing.setState({ holds: next });
  if (patch) commit(label, (doc) => withSetting(doc, patch.id, "holds", next));
}

/** What has to be added to the amounts shown for one of them to be as typed. */
export function composeTyped(tool: Tool, space: Space, shown: readonly number[], axis: number, value: number): [number, number, number] {
  const wanted = shown.map((v, i) => (i === axis ? value : v));
  if (tool === "move") return wanted.map((v, i) => v - shown[i]) as [number, number, number];
  return composeTurns(
    space,
    shown.map((v) => -v),
    wanted,
  );
}
