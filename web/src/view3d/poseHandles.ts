import { type Edit, multiplyQuatFlat } from "@stride/motion";
import { type RefObject, useEffect } from "react";
import { Quaternion, type Vector3 } from "three";
import { type BenchState, change, preview, useBench } from "../state/bench.ts";
import { viewHeading } from "../state/layerKeys.ts";
import { playhead, usePlayheadFrame } from "../state/playhead.ts";
import { editDone, usePosing, withEdit } from "../state/posing.ts";
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
  return edit.op === "pose" ? edit.label : `${edit.op === "turn" ? "Turn" : "Move"} ${edit.joints.length > 1 ? `${edit.joints.length} parts` : edit.joints[0]}`;
}

/** What the hand asks for, as an edit of the selected parts. */
function gizmoEdit(state: BenchState, vector: Vector3): Edit | null {
  const names = state.opened?.skeleton.names;
  const { tool, space, shared, pivot } = usePosing.getState();
  if (!names || state.parts.length === 0 || tool === "look" || vector.length() < 1e-9) return null;
  const joints = state.parts.map((joint) => names[joint]);
  const round = (v: number) => Math.round(v * 1e4) / 1e4;
  if (tool === "turn") {
    return {
      op: "turn",
      joints,
      space,
      degrees: vector.toArray().map((v) => round((v * 180) / Math.PI)) as [number, number, number],
      shared: shared && joints.length > 1,
      pivot,
    };
  }
  return { op: "move", joints, space, centimetres: vector.toArray().map((v) => round(v * 100)) as [number, number, number] };
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
  if (space === "body") {
    const half = viewHeading(view, f, state) / 2;
    return { position, axes: multiplyQuatFlat([0, 0, 0, 1], 0, [0, Math.sin(half), 0, Math.cos(half)], 0, new Quaternion().toArray(), 0) as number[] };
  }
  return { position, axes: [0, 0, 0, 1] };
}

function pivotPlace(state: BenchState, pivot: { readonly parts: readonly string[]; readonly point: readonly number[] | null }): number[] | null {
  if (pivot.point) return [...pivot.point];
  const view = state.after;
  const joints = pivot.parts.map((name) => state.opened?.skeleton.names.indexOf(name) ?? -1).filter((j) => j >= 0);
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

/** Drags a dot of the trail in the plane of the screen: a touch-up whose ramps fade as softly as is set. */
export function dragDot(event: React.PointerEvent, stage: Stage, dot: { readonly frame: number; readonly place: Vector3 }): void {
  const state = useBench.getState();
  const joint = state.parts.at(-1);
  const name = joint === undefined ? undefined : state.opened?.skeleton.names[joint];
  if (!name) return;
  event.preventDefault();
  stage.turnCamera(false);
  playhead.pause();
  playhead.seek(dot.frame);
  // A dot is its own touch-up: never the one that happens to be selected.
  useBench.setState({ patchId: null });
  const start = { x: event.clientX, y: event.clientY };
  const ramp = Math.round((usePosing.getState().trailRamp * playhead.fps) / 30);
  let edit: Edit | null = null;
  const write = (doc: BenchState["doc"], wanted: Edit) => {
    const next = withEdit(doc, wanted, dot.frame);
    const made = next.patches.at(-1);
    if (!made || next.patches.length === doc.patches.length) return next;
    return { ...next, patches: [...next.patches.slice(0, -1), { ...made, name: `Trail of ${name}, f ${dot.frame}`, rampInFrames: ramp, rampOutFrames: ramp }] };
  };
  const move = (e: PointerEvent) => {
    const way = stage.drift(dot.place, e.clientX - start.x, e.clientY - start.y);
    const wanted: Edit = {
      op: "move",
      joints: [name],
      space: "world",
      centimetres: way.toArray().map((v) => Math.round(v * 1e5) / 1e3) as [number, number, number],
    };
    edit = wanted;
    preview((doc) => write(doc, wanted));
  };
  const up = () => {
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", up);
    stage.turnCamera(true);
    const wanted = edit;
    if (!wanted) return;
    change(`Drag trail of ${name}`, (doc) => write(doc, wanted));
    editDone();
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", up);
}
