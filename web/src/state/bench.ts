import { type BodyMap, type Clocks, carriedAlong, emptyWork, type InStep, type Patch, type PatchNote, type Work } from "@stride/motion";
import type { ClipRow, WorkRow } from "@stride/server";
import { create } from "zustand";
import type { BodyView, CharacterView, Figures, MotionView, Opened, PosedFrame, Problem } from "../worker/views.ts";
import { lengthOfOther } from "./otherClips.ts";

export type Compare = "before" | "after" | "both" | "side";
/** What the right of the bench shows. */
export type Panel = "patch" | "pose" | "shelf";
export type Camera = "orbit" | "front" | "side" | "above";
export type SaveState = "saved" | "unsaved" | "saving" | "failed" | "refused" | "conflict";

/** A contact that is picked: known by its point and its span in frames of the result. */
export interface PickedContact {
  readonly point: string;
  readonly start: number;
  readonly end: number;
}

/** Another motion that the result is compared with. */
export interface Beside {
  readonly label: string;
  readonly view: MotionView;
  readonly character: CharacterView;
  /** [frame of the result] frame of the other */
  readonly frames: Float64Array;
  readonly by: InStep;
  /** footfalls by which they are in step; null by the clock */
  readonly footfalls: number | null;
}

interface Step {
  readonly label: string;
  readonly doc: Work;
}

export interface BenchState {
  readonly row: WorkRow | null;
  readonly clip: ClipRow | null;
  readonly opened: Opened | null;
  readonly name: string;
  /** the document as it stands; `draft` lies over it while something is dragged */
  readonly doc: Work;
  readonly draft: Work | null;
  readonly past: readonly Step[];
  readonly future: readonly Step[];
  readonly revision: number;
  readonly save: SaveState;
  readonly savedAt: string | null;
  readonly conflict: WorkRow | null;
  readonly before: MotionView | null;
  readonly after: MotionView | null;
  /** another motion that is shown in the place of the source, in step with the result */
  readonly beside: Beside | null;
  readonly character: CharacterView | null;
  readonly body: BodyMap | null;
  /** the source's body, where a cast has put another in its place: `opened.skeleton`, `character` and `body` are the result's */
  readonly sourceBody: BodyView | null;
  /** which moments of which stage the others show */
  readonly clocks: Clocks;
  /** why the document was not taken, when it was refused or could not be saved */
  readonly refusal: string | null;
  readonly figures: Figures | null;
  /** the document that the figures were measured for */
  readonly measuredDoc: Work | null;
  readonly problem: Problem | null;
  /** what patches say beside their motions */
  readonly notes: readonly PatchNote[];
  readonly patchId: string | null;
  readonly contact: PickedContact | null;
  /** joints that are selected, the last one picked last */
  readonly parts: readonly number[];
  /** one frame as it stands while something is dragged, until the whole is evaluated */
  readonly posed: PosedFrame | null;
  /** a joint to bring into view; a new object each time it is asked for */
  readonly focus: { readonly joint: number; readonly size: number; readonly outOf: number | null } | null;
  readonly panel: Panel;
  readonly desk: "footfall" | "curves";
  readonly findingId: string | null;
  readonly compare: Compare;
  readonly camera: Camera;
  readonly follow: boolean;
  /** side by side: does each figure run at its own speed, rather than in step? */
  readonly ownSpeed: boolean;
  readonly planLarge: boolean;
  /** changes that are being computed and not in the document yet */
  readonly computing: number;
  /** are the source's contacts still to be found? */
  readonly searching: boolean;
  /** share of a long evaluation that is done, 0..1; null while none takes long */
  readonly progress: number | null;
}

export const useBench = create<BenchState>(() => initialState());

export function initialState(): BenchState {
  return {
    row: null,
    clip: null,
    opened: null,
    name: "",
    doc: emptyWork(),
    draft: null,
    past: [],
    future: [],
    revision: 0,
    save: "saved",
    savedAt: null,
    conflict: null,
    before: null,
    after: null,
    beside: null,
    character: null,
    body: null,
    sourceBody: null,
    clocks: { fps: 30, seconds: 0, warps: [], receives: {} },
    refusal: null,
    figures: null,
    measuredDoc: null,
    problem: null,
    notes: [],
    patchId: null,
    contact: null,
    parts: [],
    posed: null,
    focus: null,
    panel: "patch",
    desk: "footfall",
    findingId: null,
    compare: "after",
    camera: "orbit",
    follow: true,
    ownSpeed: false,
    planLarge: false,
    computing: 0,
    searching: false,
    progress: null,
  };
}

const MOST_STEPS = 500;

/** An edit of the document with everything that hangs on time gone along with what it does to time. */
function edited({ doc, clocks }: BenchState, edit: (doc: Work) => Work): Work {
  return carriedAlong(doc, edit(doc), { seconds: clocks.seconds, fps: clocks.fps, lengthOf: lengthOfOther });
}

/** Changes the document as one step that can be undone. `label` is what the step is called in menus and history. */
export function change(label: string, edit: (doc: Work) => Work): void {
  useBench.setState((s) => {
    const doc = edited(s, edit);
    if (doc === s.doc) return { draft: null };
    return { doc, draft: null, past: [...s.past.slice(-MOST_STEPS), { label, doc: s.doc }], future: [], save: s.save === "conflict" ? s.save : "unsaved" };
  });
}

/** Makes a change that has to be computed first; the bench is not settled until it is made. Throws what `make` throws. */
export async function whileComputing(make: () => Promise<void>): Promise<void> {
  const by = (n: number) => useBench.setState((s) => ({ computing: Math.max(0, s.computing + n) }));
  by(1);
  try {
    await make();
  } finally {
    by(-1);
  }
}

/** Shows a change without making it, while something is dragged. */
export function preview(edit: (doc: Work) => Work): void {
  useBench.setState((s) => ({ draft: edited(s, edit) }));
}

export function undo(): void {
  useBench.setState((s) => {
    const step = s.past.at(-1);
    if (!step) return {};
    return { doc: step.doc, draft: null, past: s.past.slice(0, -1), future: [{ label: step.label, doc: s.doc }, ...s.future], save: "unsaved" };
  });
}

export function redo(): void {
  useBench.setState((s) => {
    const step = s.future[0];
    if (!step) return {};
    return { doc: step.doc, draft: null, past: [...s.past, { label: step.label, doc: s.doc }], future: s.future.slice(1), save: "unsaved" };
  });
}

/** The document that is shown now: the draft while dragging. */
export function shownDoc(s: BenchState): Work {
  return s.draft ?? s.doc;
}

export function withPatch(doc: Work, id: string, part: Partial<Patch>): Work {
  return { ...doc, patches: doc.patches.map((p) => (p.id === id ? { ...p, ...part } : p)) };
}

export function withSetting(doc: Work, id: string, key: string, value: unknown): Work {
  return { ...doc, patches: doc.patches.map((p) => (p.id === id ? { ...p, settings: { ...p.settings, [key]: value } } : p)) };
}

/** Selects one part, or with `add` takes it in or out of the selection. */
export function pickPart(joint: number | null, add = false): void {
  useBench.setState((s) => {
    if (joint === null) return { parts: add ? s.parts : [] };
    if (!add) return { parts: [joint] };
    return { parts: s.parts.includes(joint) ? s.parts.filter((j) => j !== joint) : [...s.parts, joint] };
  });
}

/** Brings a joint into view, as large as a hand or as a body; with `outOf` from the side away from that joint. */
export function lookAtPart(joint: number, size: number, outOf: number | null = null): void {
  useBench.setState({ focus: { joint, size, outOf } });
}

export function freshId(): string {
  return crypto.randomUUID().slice(0, 18);
}
