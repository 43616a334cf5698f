import { axisAngleQuatFlat, type Edit, findPart, headingOf, type PartRef, type Pivot, partOf } from "@stride/motion";
import { type RefObject, useEffect } from "react";
import type { Vector3 } from "three";
import { type BenchState, change, preview, useBench } from "../state/bench.ts";
import { partInWords } from "../state/partWords.ts";
import { playhead, usePlayheadFrame } from "../state/playhead.ts";
import { editDone, usePosing, withEdit } from "../state/posing.ts";
import type { Follower } from "../ui/useFollow.ts";
import type { GizmoPlace } from "./gizmo.ts";
import type { Stage } from "./stage.ts";

/** Rings or axes at the part selected last, the pivot's mark and the trail, kept in step with what is selected and shown. */
export function usePoseHandles(stage: RefObject<Stage | null>, ready: boolean): void {
  const parts = useBench((s) => s.parts);
  const after = useBench((s) => s.after);
  const posed = useBench((s) => s.posed);
  const compare = useBench((s) => s.compare);
  const frame = usePlayheadFrame();
  const { tool, space, snap, pivot, trail } = usePosing();

  useEffect(() => stage.current?.setPosed(posed), [stage, posed]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the handles follow the motion and the frame
  useEffect(() => {
    const s = stage.current;
    if (!s || !ready) return;
    s.gizmo.snap(snap);
    const state = useBench.getState();
    const joint = parts.at(-1);
    s.showGizmo(tool === "look" ? null : tool, joint === undefined || compare === "before" ? null : placeOf(state, joint, space));
    s.showPivot(pivot ? pivotPlace(state, pivot) : null);
  }, [stage, ready, parts, after, frame, tool, space, snap, pivot, compare]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: the trail follows the motion and the frame
  useEffect(() => {
    const s = stage.current;
    if (!s || !ready) return;
    const joint = parts.at(-1);
    const [from, to] = trailRange();
    s.showTrail(trail && joint !== undefined ? joint : null, from, to);
  }, [stage, ready, parts, after, frame, trail]);

  useEffect(() => {
    const gizmo = stage.current?.gizmo;
    if (!gizmo || !ready) return;
    let wanted: Edit | null = null;
    const at = () => playhead.frame;
    gizmo.onStart = () => {
      playhead.pause();
      wanted = null;
    };
    gizmo.onDrag = (vector) => {
      wanted = gizmoEdit(useBench.getState(), vector);
      const edit = wanted;
      if (edit) preview((doc) => withEdit(doc, edit, at()));
    };
    gizmo.onEnd = () => {
      const edit = wanted;
      if (!edit) return;
      change(editLabel(edit), (doc) => withEdit(doc, edit, at()));
      editDone();
    };
  }, [stage, ready]);
}

function editLabel(edit: Edit): string {
  return edit.op === "pose"
    ? edit.label
    : `${edit.op === "turn" ? "Turn" : "Move"} ${edit.parts.length > 1 ? `${edit.parts.length} parts` : partInWords(edit.parts[0])}`;
}

/** What the hand asks for, as an edit of the selected parts. */
function gizmoEdit(state: BenchState, vector: Vector3): Edit | null {
  const { tool, space, shared, pivot } = usePosing.getState();
  if (state.parts.length === 0 || tool === "look" || vector.length() < 1e-9) return null;
  const parts = state.parts.flatMap((joint) => refOf(state, joint) ?? []);
  const round = (v: number) => Math.round(v * 1e4) / 1e4;
  if (tool === "turn") {
    return {
      op: "turn",
      parts,
      space,
      degrees: vector.toArray().map((v) => round((v * 180) / Math.PI)) as [number, number, number],
      shared: shared && parts.length > 1,
      pivot,
    };
  }
  return { op: "move", parts, space, centimetres: vector.toArray().map((v) => round(v * 100)) as [number, number, number] };
}

function placeOf(state: BenchState, joint: number, space: string): GizmoPlace | null {
  const view = state.after;
  if (!view) return null;
  const f = Math.min(playhead.frame, view.frameCount - 1);
  const at = (j: number, size: number, from: ArrayLike<number>) => Array.from({ length: size }, (_, i) => from[(f * view.jointCount + j) * size + i]);
  const position = at(joint, 3, view.positions);
  const parent = state.opened?.skeleton.parents[joint] ?? -1;
  if (space === "own") return { position, axes: at(joint, 4, view.rotations) };
  if (space === "parent" && parent >= 0) return { position, axes: at(parent, 4, view.rotations) };
  if (space === "body" && state.character) {
    const r = view.jointCount * 4;
    const heading = headingOf({ worldRotations: view.rotations.subarray(f * r, (f + 1) * r) }, state.character.rig);
    return { position, axes: axisAngleQuatFlat([0, 0, 0, 1], 0, 0, 1, 0, heading) as number[] };
  }
  return { position, axes: [0, 0, 0, 1] };
}

function pivotPlace(state: BenchState, pivot: Pivot): number[] | null {
  if (pivot.point) return [...pivot.point];
  const view = state.after;
  const { opened, body } = state;
  const joints = opened && body ? pivot.parts.flatMap((part) => findPart({ skeleton: opened.skeleton, body }, part) ?? []) : [];
  if (!view || joints.length === 0) return null;
  const f = Math.min(playhead.frame, view.frameCount - 1);
  return [0, 1, 2].map((c) => joints.reduce((sum, j) => sum + view.positions[(f * view.jointCount + j) * 3 + c], 0) / joints.length);
}

/** The stretch that a trail shows: what is played, or a second to either side. */
function trailRange(): [number, number] {
  if (playhead.range) return [playhead.range[0], playhead.range[1]];
  const around = Math.round(playhead.fps);
  return [Math.max(0, playhead.frame - around), Math.min(playhead.last, playhead.frame + around)];
}

/** How documents name a joint of the body that is open. */
function refOf(state: BenchState, joint: number): PartRef | null {
  return state.opened && state.body ? partOf({ skeleton: state.opened.skeleton, body: state.body }, joint) : null;
}

/** Drags a dot of the trail in the plane of the screen: a patch of its own whose ramps fade as softly as is set. */
export function followDot(stage: Stage, dot: { readonly frame: number; readonly place: Vector3 }): Follower | null {
  const state = useBench.getState();
  const joint = state.parts.at(-1);
  const part = joint === undefined ? null : refOf(state, joint);
  if (!part) return null;
  stage.turnCamera(false);
  playhead.pause();
  playhead.seek(dot.frame);
  // A dot is its own patch: never the one that happens to be selected.
  useBench.setState({ patchId: null });
  const name = partInWords(part);
  const ramp = Math.round((usePosing.getState().trailRamp * playhead.fps) / 30) / playhead.fps;
  let edit: Edit | null = null;
  const write = (doc: BenchState["doc"], wanted: Edit) => {
    const next = withEdit(doc, wanted, dot.frame);
    const made = next.patches.at(-1);
    if (!made || next.patches.length === doc.patches.length) return next;
    return { ...next, patches: [...next.patches.slice(0, -1), { ...made, name: `Trail of ${name}, f ${dot.frame}`, rampIn: ramp, rampOut: ramp }] };
  };
  return {
    move: ({ dx, dy }) => {
      const way = stage.drift(dot.place, dx, dy);
      const wanted: Edit = {
        op: "move",
        parts: [part],
        space: "world",
        centimetres: way.toArray().map((v) => Math.round(v * 1e5) / 1e3) as [number, number, number],
      };
      edit = wanted;
      preview((doc) => write(doc, wanted));
    },
    end: (how) => {
      stage.turnCamera(true);
      const wanted = edit;
      if (how === "done" && wanted) {
        change(`Drag trail of ${name}`, (doc) => write(doc, wanted));
        editDone();
      } else useBench.setState({ draft: null });
    },
  };
}
