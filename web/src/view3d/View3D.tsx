import { type BodyMap, groundHeight, partOf, type Skeleton, sameClock } from "@stride/motion";
import { useEffect, useMemo, useRef, useState } from "react";
import { pickPart, useBench } from "../state/bench.ts";
import { partName } from "../state/partWords.ts";
import { playhead } from "../state/playhead.ts";
import { useSettling } from "../state/settling.ts";
import { setLook, useSkins } from "../state/skins.ts";
import { sourceFrameOf } from "../state/times.ts";
import { Segmented } from "../ui/Segmented.tsx";
import { useFollow } from "../ui/useFollow.ts";
import type { Footprint, MotionView, SkinView } from "../worker/views.ts";
import { BesideBar } from "./BesideBar.tsx";
import { bodyParts } from "./figure.ts";
import { jointsOf } from "./jointSides.ts";
import { PoseBar } from "./PoseBar.tsx";
import { followDot, usePoseHandles } from "./poseHandles.ts";
import { Stage } from "./stage.ts";
import type { Worn } from "./stageFigures.ts";

const CAMERAS = [
  { value: "orbit", label: "Orbit", hint: "Free view (1)" },
  { value: "front", label: "Front", hint: "From the front: weight (2)" },
  { value: "side", label: "Side", hint: "From the side: lean (3)" },
  { value: "above", label: "Above", hint: "From above: travel (4)" },
] as const;

const LOOK_CHOICES = [
  { value: "skin", label: "Skin", hint: "The body on its own skin (W: next)" },
  { value: "bones", label: "Bones", hint: "As paper, with its bones over it (W: next)" },
  { value: "figure", label: "Figure", hint: "As the lay figure (W: next)" },
] as const;

/** The body in space; `bare` leaves out its buttons, for a small inset. Poses and camera are written to the stage directly; React only places the canvas and its buttons. */
export default function View3D({ bare }: { bare: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<Stage | null>(null);
  const label = useRef<HTMLDivElement>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const source = useBench((s) => s.before);
  const beside = useBench((s) => s.beside);
  const before = beside?.view ?? source;
  const after = useBench((s) => s.after);
  const compare = useBench((s) => s.compare);
  const camera = useBench((s) => s.camera);
  const follow = useBench((s) => s.follow);
  const ownSpeed = useBench((s) => s.ownSpeed);
  const parts = useBench((s) => s.parts);
  const figures = useBench((s) => s.figures);
  const contact = useBench((s) => s.contact);
  const character = useBench((s) => s.character);
  const clocks = useBench((s) => s.clocks);
  const volumes = character?.volumes;
  const height = character?.height ?? 0;
  const built = useMemo(() => (volumes ? { parts: bodyParts(volumes), height } : null), [volumes, height]);
  const sourceBody = useBench((s) => s.sourceBody);
  const otherCharacter = beside?.character ?? sourceBody?.character ?? null;
  const other = useMemo(
    () => (otherCharacter ? { parts: bodyParts(otherCharacter.volumes), hips: otherCharacter.body.roles.hips ?? 0 } : null),
    [otherCharacter],
  );
  const placedOther = useRef<object | null>(null);
  const placed = useRef<object | null>(null);
  const pressed = useRef<{ x: number; y: number; handle: boolean } | null>(null);

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    let made: Stage;
    try {
      made = new Stage(element);
    } catch (error) {
      setFailed(error instanceof Error ? error.message : String(error));
      return;
    }
    stage.current = made;
    const observer = new ResizeObserver(() => made.resize(element.clientWidth, element.clientHeight));
    observer.observe(element);
    const unsubscribe = playhead.subscribe(() => made.seek(playhead.frame));
    made.onDraw = () => {
      element.dataset.frame = String(playhead.frame);
    };
    return () => {
      observer.disconnect();
      unsubscribe();
      made.dispose();
      stage.current = null;
      placed.current = null;
    };
  }, []);

  useEffect(() => {
    const s = stage.current;
    if (!s || !built || !before || !after || !body) return;
    const first = placed.current === null;
    if (placed.current !== built || placedOther.current !== other) {
      s.setBody(built.parts, built.height, body.roles.hips ?? 0, other);
      placed.current = built;
      placedOther.current = other;
    }
    const inStep = beside?.frames;
    const own = ownSpeed && compare === "side";
    s.setViews(
      before,
      after,
      (frame) =>
        inStep
          ? inStep[Math.max(0, Math.min(inStep.length - 1, Math.round(frame)))]
          : own
            ? Math.min(frame, before.frameCount - 1)
            : sourceFrameOf(clocks, frame),
      first,
    );
  }, [built, other, beside, before, after, body, clocks, ownSpeed, compare]);

  const skins = useSkins();
  const wears = skins.source !== null || skins.result !== null;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new figure has nothing on yet
  useEffect(() => {
    const s = stage.current;
    if (!s || !opened || !body || !placed.current) return;
    const worn = (skin: SkinView | null, skeleton: Skeleton, map: BodyMap): Worn | null => skin && { skin, ...jointsOf(skeleton, map) };
    const before = sourceBody ?? { skeleton: opened.skeleton, character: { body } };
    s.setSkins(worn(skins.result, opened.skeleton, body), beside ? null : worn(skins.source, before.skeleton, before.character.body));
    s.setLook(skins.look);
  }, [built, other, opened, skins.source, skins.result]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new figure needs telling too
  useEffect(() => stage.current?.setLook(skins.look), [skins.look, built, other]);
  useEffect(() => stage.current?.setCompare(compare), [compare]);
  useEffect(() => stage.current?.setFollow(follow), [follow]);
  useEffect(() => {
    if (placed.current) stage.current?.look(camera);
  }, [camera]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new figure needs painting too
  useEffect(() => stage.current?.paint(parts), [parts, built, other]);
  usePoseHandles(stage, built !== null);
  const focus = useBench((s) => s.focus);
  useEffect(() => {
    if (focus) stage.current?.lookAtJoint(focus.joint, focus.size, focus.outOf);
  }, [focus]);

  const target = useSettling((s) => s.view?.target ?? null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body has no outline yet
  useEffect(() => stage.current?.showTarget(target), [target, built, other]);

  // The picked contact: the camera goes close to the floor there, and a label follows it.
  const span = figures?.after.spans.find((s) => contact && s.contact.point === contact.point && s.contact.start === contact.start);
  useEffect(() => {
    const s = stage.current;
    const print = after?.prints.find((p) => contact && p.start === contact.start && p.point === contact.point);
    if (s && print && after && useBench.getState().findingId) s.lookAtFloor(placeOf(print, after));
  }, [contact, after]);
  useEffect(() => {
    const s = stage.current;
    if (!s) return;
    const print = after?.prints.find((p) => contact && p.start === contact.start && p.point === contact.point);
    const place = () => {
      const element = label.current;
      if (canvas.current) {
        canvas.current.dataset.frame = String(playhead.frame);
        const part = s.partOnCanvas(useBench.getState().parts.at(-1));
        canvas.current.dataset.part = part ? `${Math.round(part.x)},${Math.round(part.y)}` : "";
      }
      if (!element) return;
      const at = print && after && useBench.getState().compare !== "side" && s.project(placeOf(print, after));
      element.style.display = at ? "block" : "none";
      if (at) element.style.transform = `translate(${Math.round(at.x + 14)}px, ${Math.round(at.y + 10)}px)`;
    };
    s.onDraw = place;
    place();
  }, [contact, after]);

  const bindDot = useFollow<null>((_, event) => {
    const s = stage.current;
    if (!s || !pressed.current || pressed.current.handle) return null;
    const box = (event.currentTarget as Element | null)?.getBoundingClientRect() ?? canvas.current?.getBoundingClientRect();
    const dot = box && s.pickDot(event.clientX - box.left, event.clientY - box.top);
    if (!dot) return null;
    pressed.current.handle = true;
    return followDot(s, dot);
  });

  return (
    <div className="relative h-full overflow-hidden bg-stage" data-testid="view3d">
      <canvas
        ref={canvas}
        className="block size-full touch-none"
        aria-label="The body in space. Drag to look around; click a part to select it, with Shift several."
        {...bindDot(null)}
        onPointerDownCapture={(event) => {
          pressed.current = { x: event.clientX, y: event.clientY, handle: stage.current?.gizmo.over === true };
        }}
        onClick={(event) => {
          const start = pressed.current;
          // A look around, or a turn of a ring, is no pick.
          if (start?.handle || (start && Math.hypot(event.clientX - start.x, event.clientY - start.y) > 4)) return;
          const box = event.currentTarget.getBoundingClientRect();
          pickPart(stage.current?.pick(event.clientX - box.left, event.clientY - box.top) ?? null, event.shiftKey);
        }}
      />
      {failed && (
        <p role="alert" className="absolute inset-0 m-auto h-fit w-96 text-center text-coral-ink">
          This browser cannot draw in 3D ({failed}). Everything else works.
        </p>
      )}
      <div
        ref={label}
        className="pointer-events-none absolute top-0 left-0 hidden border-b-2 px-1 font-semibold"
        style={{ borderColor: span && span.slideCm > 0.5 ? "var(--coral)" : "var(--moss)" }}
      >
        {span && !bare && (
          <span className={span.slideCm > 0.5 ? "text-coral-ink" : "text-moss-ink"}>
            {span.slideCm > 0.5 ? `slides ${span.slideCm.toFixed(1)} cm` : `still, ${span.slideCm.toFixed(1)} cm`}
          </span>
        )}
      </div>
      <div className={bare ? "hidden" : "absolute top-3 left-3 flex flex-col items-start gap-2"}>
        <Segmented label="View" value={camera} options={CAMERAS} onChange={(value) => useBench.setState({ camera: value })} />
        <PoseBar />
        {wears && <Segmented label="Drawn as" value={skins.look} options={LOOK_CHOICES} onChange={setLook} />}
        {skins.problem && (
          <p role="status" className="max-w-64 text-coral-ink">
            The skin cannot be shown: {skins.problem}
          </p>
        )}
      </div>
      {beside && !bare && <BesideBar />}
      {compare === "side" && !beside && !sameClock(clocks) && (
        <label className="absolute right-3 bottom-2.5 flex items-center gap-2 text-ink-soft">
          <input
            type="checkbox"
            checked={ownSpeed}
            onChange={(event) => useBench.setState({ ownSpeed: event.target.checked })}
            className="accent-[var(--ink)]"
          />
          each at its own speed
        </label>
      )}
      {compare === "side" && (
        <div aria-hidden="true" className="pointer-events-none absolute inset-x-0 top-12 flex">
          <span className="flex-1 truncate px-4 text-center font-semibold text-ink-soft">{beside?.label ?? "before"}</span>
          <span className="flex-1 text-center font-semibold">{beside ? "this work" : "after"}</span>
        </div>
      )}
      <label className={bare ? "hidden" : "absolute bottom-2.5 left-3.5 flex items-center gap-2 text-ink-soft"}>
        squares 50 cm ·
        <input type="checkbox" checked={follow} onChange={(event) => useBench.setState({ follow: event.target.checked })} className="accent-[var(--ink)]" />
        follows the hips
        {parts.length > 0 && opened && body && (
          <span className="ml-2 rounded-sm bg-stage/80 px-1 font-semibold text-cobalt" data-testid="selected">
            {parts.length > 3 ? `${parts.length} parts` : parts.map((joint) => partName(partOf({ skeleton: opened.skeleton, body }, joint))).join(", ")}
          </span>
        )}
      </label>
    </div>
  );
}

/** Where a footprint lies in the world. */
function placeOf(print: Footprint, view: MotionView): [number, number, number] {
  return [print.x, groundHeight(view.ground, print.x, print.z) + print.rise, print.z];
}
