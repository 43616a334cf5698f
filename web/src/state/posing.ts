import {
  type Edit,
  type Hold,
  type LayerSettings,
  makePatch,
  type Patch,
  type Pivot,
  rangeWeight,
  type Space,
  TOUCH_UP_RAMP,
  type TouchUpSettings,
  type TurnEdit,
  type Work,
} from "@stride/motion";
import { create } from "zustand";
import { type BenchState, freshId, shownDoc, useBench, withPatch, withSetting } from "./bench.ts";
import { keyEdit } from "./layerKeys.ts";
import { playhead } from "./playhead.ts";
import { composed } from "./rotationVectors.ts";

export type Tool = "look" | "turn" | "move";

/** How parts are posed: what the hand does, in which axes, by which steps. */
interface PosingState {
  readonly tool: Tool;
  readonly space: Space;
  /** degrees, or centimetres; 0 is free */
  readonly snap: 0 | 1 | 5 | 10;
  readonly shared: boolean;
  readonly pivot: Pivot | null;
  /** for the next touch-up; a patch that is edited has its own */
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

/** Kinds of patches that keep holds. */
const HOLDING = new Set(["touchUp", "layer", "amplitude"]);

/** Where an edit of the pose goes: into the selected touch-up or layer, or into a touch-up yet to be made at the playhead. */
export interface Target {
  readonly patch: Patch;
  readonly isNew: boolean;
}

let pendingId = freshId();

export function editTarget(state: BenchState, doc: Work, frame: number): Target {
  const selected = doc.patches.find((p) => p.id === state.patchId && !p.muted);
  if (selected?.kind === "layer") return { patch: selected, isNew: false };
  if (selected?.kind === "touchUp" && weightAt(selected, frame) > 0.05) return { patch: selected, isNew: false };
  const ramp = Math.round(TOUCH_UP_RAMP * ((state.after?.fps ?? 30) / 30));
  // A stretch that is set on the ruler is the window; else it is the frame alone.
  const stretch = playhead.range;
  const window = stretch && frame >= stretch[0] && frame <= stretch[1] ? { start: stretch[0], end: stretch[1] } : { start: frame, end: frame };
  const settings: TouchUpSettings = { frame, edits: [], holds: [...usePosing.getState().holds] };
  return {
    isNew: true,
    patch: {
      ...makePatch("touchUp", `Touch-up f${frame}`, pendingId, settings),
      range: window,
      rampInFrames: ramp,
      rampOutFrames: ramp,
    },
  };
}

function weightAt(patch: Patch, frame: number): number {
  if (!patch.range) return patch.weight;
  return patch.weight * rangeWeight(frame, patch.range.start, patch.range.end, patch.rampInFrames, patch.rampOutFrames, patch.rampShape);
}

/** The document with an edit written to its target. Amounts are what is wanted at the frame itself. */
export function withEdit(doc: Work, edit: Edit, frame: number): Work {
  const state = useBench.getState();
  const { patch, isNew } = editTarget(state, doc, frame);
  if (patch.kind === "layer") {
    const settings = keyEdit(patch.settings as Partial<LayerSettings>, edit, frame, state, weightAt(patch, frame));
    return withPatch(doc, patch.id, { settings: { ...patch.settings, ...settings } });
  }
  const weight = weightAt(patch, frame);
  // A pose that is put on is meant as it is: what waits to be held does not pull at it.
  const settings: TouchUpSettings = { ...(patch.settings as TouchUpSettings), ...(isNew && edit.op === "pose" ? { holds: [] } : {}) };
  const scaled = scaleEdit(edit, 1 / weight);
  const last = settings.edits.at(-1);
  const merged = last && mergeEdits(last, scaled);
  const next = { ...patch, settings: { ...settings, edits: merged ? [...settings.edits.slice(0, -1), merged] : [...(settings.edits ?? []), scaled] } };
  return { ...doc, patches: isNew ? [...doc.patches, next] : doc.patches.map((p) => (p.id === patch.id ? next : p)) };
}

/** Selects what an edit has just been written to; the next new touch-up gets an id of its own. */
export function editDone(): void {
  useBench.setState((s) => {
    const made = s.doc.patches.find((p) => p.id === pendingId);
    if (!made) return {};
    pendingId = freshId();
    return { patchId: made.id };
  });
}

function scaleEdit(edit: Edit, factor: number): Edit {
  const by = (v: readonly [number, number, number]): [number, number, number] => [round(v[0] * factor), round(v[1] * factor), round(v[2] * factor)];
  if (edit.op === "turn") return { ...edit, degrees: by(edit.degrees) };
  if (edit.op === "move") return { ...edit, centimetres: by(edit.centimetres) };
  return edit;
}

const round = (v: number) => Math.round(v * 1e6) / 1e6;

/** Two edits of the same parts in the same axes are one: turns composed as rotations, ways added. */
export function mergeEdits(a: Edit, b: Edit): Edit | null {
  if (a.op === "pose" || b.op === "pose" || a.op !== b.op || a.space !== b.space || a.joints.join() !== b.joints.join()) return null;
  if (a.op === "move" && b.op === "move") {
    return { ...a, centimetres: a.centimetres.map((v, i) => round(v + b.centimetres[i])) as [number, number, number] };
  }
  if (a.op !== "turn" || b.op !== "turn" || a.shared !== b.shared || JSON.stringify(a.pivot) !== JSON.stringify(b.pivot)) return null;
  const degrees = a.space === "own" ? composed(a.degrees, b.degrees) : composed(b.degrees, a.degrees);
  return { ...a, degrees } satisfies TurnEdit;
}

/** One list for all that hold nothing, so that it is the same list at every look. */
const NOTHING: readonly Hold[] = [];

/** Holds in force for what is edited now: the selected patch's own, or those that wait for the next touch-up. */
export function currentHolds(state: BenchState, doc: Work): readonly Hold[] {
  const patch = holdingPatch(state, doc);
  return patch ? ((patch.settings.holds as Hold[] | undefined) ?? NOTHING) : usePosing.getState().holds;
}

export function holdingPatch(state: BenchState, doc: Work): Patch | undefined {
  const patch = doc.patches.find((p) => p.id === state.patchId);
  return patch && HOLDING.has(patch.kind) && (patch.kind !== "touchUp" || weightAt(patch, playhead.frame) > 0.05) ? patch : undefined;
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
  const back = shown.map((v) => -v);
  return space === "own" ? composed(back, wanted) : composed(wanted, back);
}
