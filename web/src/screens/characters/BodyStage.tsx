import { type CharacterNotes, type ContactPoint, pointLabel, rotateVecFlat } from "@stride/motion";
import clsx from "clsx";
import { useEffect, useMemo, useRef, useState } from "react";
import { toast } from "sonner";
import { type Look, setLook, useSkins } from "../../state/skins.ts";
import { Segmented } from "../../ui/Segmented.tsx";
import { bodyParts } from "../../view3d/figure.ts";
import { jointsOf } from "../../view3d/jointSides.ts";
import { Stage } from "../../view3d/stage.ts";
import { belongsTo, inJoint } from "./notes.ts";
import { posedBody } from "./posedBody.ts";
import type { OpenedBody } from "./useBody.ts";

const LOOKS: readonly { value: Look; label: string; hint: string }[] = [
  { value: "skin", label: "Skin", hint: "The body on its own skin" },
  { value: "bones", label: "Bones", hint: "As paper, with its bones over it" },
  { value: "figure", label: "Figure", hint: "Its volumes, as the lay figure" },
];
const CAMERAS = [
  { value: "orbit", label: "Orbit" },
  { value: "front", label: "Front" },
  { value: "side", label: "Side" },
] as const;

interface BodyStageProps {
  readonly body: OpenedBody;
  /** what is said of how it rests, where it is to be seen so; null: as its file has it */
  readonly posed: CharacterNotes | null;
  readonly picked: number | null;
  readonly onPick: (joint: number | null) => void;
  /** contact points that are marked */
  readonly points: readonly ContactPoint[];
  /** the contact point that the next click on the skin places */
  readonly placing: string | null;
  readonly onPlaced: (id: string, local: [number, number, number]) => void;
  readonly onLeave: () => void;
}

/** A character in its rest pose; the joint that is pointed at in the table stands out, one that is clicked is pointed at there, and contact points are placed by clicking on its skin. */
export default function BodyStage({ body, posed, picked, onPick, points, placing, onPlaced, onLeave }: BodyStageProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<Stage | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const [camera, setCamera] = useState<(typeof CAMERAS)[number]["value"]>("orbit");
  const look = useSkins((s) => s.look);
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    try {
      stage.current = new Stage(element);
    } catch (error) {
      setFailed(error instanceof Error ? error.message : String(error));
      return;
    }
    const made = stage.current;
    const observer = new ResizeObserver(() => made.resize(element.clientWidth, element.clientHeight));
    observer.observe(element);
    made.onDraw = () => {
      element.dataset.drawn = "yes";
    };
    return () => {
      observer.disconnect();
      made.dispose();
      stage.current = null;
    };
  }, []);
  const seen = useRef("");
  const shown = useMemo(() => posedBody(body, posed ?? { rest: {} }), [body, posed]);
  useEffect(() => {
    const s = stage.current;
    if (!s) return;
    const { character, skeleton, skin } = body;
    const view = shown.view;
    s.setBody(bodyParts(character.volumes), character.height, character.body.roles.hips ?? 0, null);
    // The camera stays while the same body is read again.
    s.setViews(view, view, (frame) => frame, seen.current !== skeleton.names.join());
    seen.current = skeleton.names.join();
    s.setSkins(skin && { skin, ...jointsOf(skeleton, character.body) }, null);
  }, [body, shown]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body has to be told too
  useEffect(() => stage.current?.setLook(look), [look, body, shown]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body is painted anew
  useEffect(() => stage.current?.paint(picked === null ? [] : [picked]), [picked, body, shown]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body is looked at from the same side
  useEffect(() => stage.current?.look(camera), [camera, body]);
  useEffect(() => {
    const { positions, rotations } = shown.view;
    const { up } = body.character.rig;
    const marks = points.map(({ id, joint, local, clearance }) => {
      const place = rotateVecFlat([0, 0, 0], 0, [...rotations.subarray(joint * 4, joint * 4 + 4)], 0, local, 0);
      const at = [0, 1, 2].map((c) => positions[joint * 3 + c] + place[c] - clearance * up[c]);
      return { place: [at[0], at[1], at[2]] as const, picked: placing === id || (placing === null && picked === joint) };
    });
    stage.current?.markPoints(marks);
  }, [points, shown, placing, picked, body]);
  useEffect(() => {
    if (placing === null) return;
    const leave = (event: KeyboardEvent) => {
      if (event.key === "Escape") onLeave();
    };
    window.addEventListener("keydown", leave);
    return () => window.removeEventListener("keydown", leave);
  }, [placing, onLeave]);
  const place = (id: string, x: number, y: number) => {
    const hit = stage.current?.pickSurface(x, y);
    const point = points.find((p) => p.id === id);
    if (!hit || !point) return;
    const { positions, rotations } = shown.view;
    const { names, parents } = body.skeleton;
    if (belongsTo(hit.joint, point.joint, parents)) onPlaced(id, inJoint(hit.place, point.joint, positions, rotations));
    else toast.message(`That is the skin of ${names[hit.joint]}; ${pointLabel(id).toLowerCase()} lies on ${names[point.joint]} or beside it`);
  };
  const pressed = useRef<{ x: number; y: number } | null>(null);
  return (
    <div className="relative h-full overflow-hidden bg-stage" data-testid="bodyStage">
      <canvas
        ref={canvas}
        className={clsx("block size-full touch-none", placing && "cursor-crosshair")}
        aria-label="The body at rest. Drag to look around; click a part to see what it is."
        onPointerDown={(event) => {
          pressed.current = { x: event.clientX, y: event.clientY };
        }}
        onClick={(event) => {
          const start = pressed.current;
          if (start && Math.hypot(event.clientX - start.x, event.clientY - start.y) > 4) return;
          const box = event.currentTarget.getBoundingClientRect();
          const [x, y] = [event.clientX - box.left, event.clientY - box.top];
          if (placing) place(placing, x, y);
          else onPick(stage.current?.pick(x, y) ?? null);
        }}
      />
      {failed && (
        <p role="alert" className="absolute inset-0 m-auto h-fit w-96 text-center text-coral-ink">
          This browser cannot draw in 3D ({failed}).
        </p>
      )}
      <div className="absolute top-3 left-3 flex flex-col items-start gap-2">
        <Segmented label="View" value={camera} options={CAMERAS} onChange={setCamera} />
        {body.skin && <Segmented label="Drawn as" value={look} options={LOOKS} onChange={setLook} />}
      </div>
      {placing && (
        <p role="status" className="pointer-events-none absolute top-3 right-3 rounded-sm border border-cobalt bg-sheet px-3 py-1.5">
          Click on the skin where the {pointLabel(placing).toLowerCase()} touches. Esc leaves it.
        </p>
      )}
      <span className="pointer-events-none absolute bottom-2.5 left-3.5 text-ink-soft">squares 50 cm · {posed ? "as it stands for casting" : "at rest"}</span>
    </div>
  );
}
