import { useEffect, useRef, useState } from "react";
import { type Look, setLook, useSkins } from "../../state/skins.ts";
import { Segmented } from "../../ui/Segmented.tsx";
import { bodyParts } from "../../view3d/figure.ts";
import { jointsOf } from "../../view3d/jointSides.ts";
import { Stage } from "../../view3d/stage.ts";
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

/** A character in its rest pose; the joint that is pointed at in the table stands out, one that is clicked is pointed at there. */
export default function BodyStage({ body, picked, onPick }: { body: OpenedBody; picked: number | null; onPick: (joint: number | null) => void }) {
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
  useEffect(() => {
    const s = stage.current;
    if (!s) return;
    const { character, skeleton, view, skin } = body;
    s.setBody(bodyParts(character.volumes), character.height, character.body.roles.hips ?? 0, null);
    s.setViews(view, view, (frame) => frame, true);
    s.setSkins(skin && { skin, ...jointsOf(skeleton, character.body) }, null);
  }, [body]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body has to be told too
  useEffect(() => stage.current?.setLook(look), [look, body]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body is painted anew
  useEffect(() => stage.current?.paint(picked === null ? [] : [picked]), [picked, body]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new body is looked at from the same side
  useEffect(() => stage.current?.look(camera), [camera, body]);
  const pressed = useRef<{ x: number; y: number } | null>(null);
  return (
    <div className="relative h-full overflow-hidden bg-stage" data-testid="bodyStage">
      <canvas
        ref={canvas}
        className="block size-full touch-none"
        aria-label="The body at rest. Drag to look around; click a part to see what it is."
        onPointerDown={(event) => {
          pressed.current = { x: event.clientX, y: event.clientY };
        }}
        onClick={(event) => {
          const start = pressed.current;
          if (start && Math.hypot(event.clientX - start.x, event.clientY - start.y) > 4) return;
          const box = event.currentTarget.getBoundingClientRect();
          onPick(stage.current?.pick(event.clientX - box.left, event.clientY - box.top) ?? null);
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
      <span className="pointer-events-none absolute bottom-2.5 left-3.5 text-ink-soft">squares 50 cm · at rest</span>
    </div>
  );
}
