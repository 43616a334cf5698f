import { ChevronFirst, ChevronLast, Footprints, Pause, Play, Repeat, StepBack, StepForward, ZoomIn, ZoomOut } from "lucide-react";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { CurveDesk } from "../curves/CurveDesk.tsx";
import { shownDoc, useBench } from "../state/bench.ts";
import { playhead, usePlayheadFrame, usePlaying } from "../state/playhead.ts";
import { usePosing } from "../state/posing.ts";
import { makeScale, NAMES, ScaleContext, type TimeScale } from "../timescale/scale.ts";
import { Button, IconButton } from "../ui/Button.tsx";
import { Segmented } from "../ui/Segmented.tsx";
import { useFollow } from "../ui/useFollow.ts";
import { AddPatchMenu } from "./AddPatchMenu.tsx";
import { BeatRow } from "./BeatRow.tsx";
import { ClipStrip } from "./ClipStrip.tsx";
import { Footfall } from "./Footfall.tsx";
import { LandingRow } from "./LandingRow.tsx";
import { Lanes } from "./Lanes.tsx";
import { OtherContacts } from "./OtherContacts.tsx";
import { groundFeet, isGrounded } from "./patchActions.ts";
import { ShelfDrop } from "./ShelfDrop.tsx";
import { writesLine } from "./writesLine.ts";

const RIGHT = 14;
/** Heights of the ruler and of the curve view's tools. */
const RULER = 24;
const TOOLS = 33;

/** Transport, ruler, footfall chart and patch lanes on one time scale. */
export function TimeDesk() {
  const frameCount = useBench((s) => s.after?.frameCount ?? s.opened?.frameCount ?? 1);
  const box = useRef<HTMLDivElement>(null);
  const desk = useBench((s) => s.desk);
  const [width, setWidth] = useState(900);
  const [height, setHeight] = useState(200);
  const [window_, setWindow] = useState<readonly [number, number] | null>(null);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const observer = new ResizeObserver(() => {
      setWidth(Math.max(200, element.clientWidth - NAMES - RIGHT));
      setHeight(element.clientHeight);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const scale = useMemo(() => {
    const from = Math.max(0, window_?.[0] ?? 0);
    const to = Math.min(frameCount - 1, window_?.[1] ?? frameCount - 1);
    return makeScale(from, Math.max(from + 4, to), width);
  }, [window_, frameCount, width]);

  /** Around a frame that stays where it is; back to the whole clip when all of it fits. */
  const zoom = (factor: number, about: number) => {
    const from = about - (about - scale.from) * factor;
    const to = about + (scale.to - about) * factor;
    if (to - from >= frameCount - 1) setWindow(null);
    else if (to - from > 8) setWindow([Math.max(0, Math.round(from)), Math.min(frameCount - 1, Math.round(to))]);
  };
  const frameAt = (x: number) => Math.max(0, Math.min(frameCount - 1, Math.floor(scale.frame(x - (box.current?.getBoundingClientRect().left ?? 0) - NAMES))));
  return (
    <ScaleContext.Provider value={scale}>
      <div className="flex h-full flex-col bg-sheet">
        <Transport onZoom={(factor) => zoom(factor, playhead.frame)} />
        <div
          ref={box}
          className="relative min-h-0 flex-1 overflow-x-hidden overflow-y-auto"
          onWheel={(event) => {
            if (event.ctrlKey || event.altKey)
              zoom(event.deltaY > 0 ? 1.25 : 0.8, scale.frame(event.clientX - event.currentTarget.getBoundingClientRect().left - NAMES));
            else if (event.shiftKey && window_) {
              const by = Math.sign(event.deltaY) * Math.max(1, Math.round((scale.to - scale.from) / 12));
              if (scale.from + by >= 0 && scale.to + by < frameCount) setWindow([scale.from + by, scale.to + by]);
            }
          }}
        >
          <svg width={0} height={0} className="absolute" aria-hidden="true">
            <defs>
              <pattern id="hatch" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
                <line x1={0} y1={0} x2={0} y2={6} stroke="var(--sheet)" strokeWidth={2.2} opacity={0.5} />
              </pattern>
            </defs>
          </svg>
          <Ruler scale={scale} title={desk === "curves" ? "Curves" : "Footfall"} beside={desk === "curves" ? null : <OtherContacts />} />
          {desk === "curves" ? (
            <CurveDesk height={Math.max(90, height - RULER - TOOLS)} />
          ) : (
            <ShelfDrop className="min-h-full" frameAt={frameAt}>
              <BeatRow />
              <LandingRow />
              <ClipStrip />
              <Footfall />
              <Lanes />
            </ShelfDrop>
          )}
          <PlayheadLine scale={scale} />
        </div>
      </div>
    </ScaleContext.Provider>
  );
}

function Transport({ onZoom }: { onZoom: (factor: number) => void }) {
  const frame = usePlayheadFrame();
  const playing = usePlaying();
  const posing = usePosing((s) => s.tool !== "look");
  const fps = useBench((s) => s.opened?.fps ?? 30);
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const grounded = useBench((s) => isGrounded(shownDoc(s)));
  const writes = useBench((s) => writesLine(s, posing, frame));
  const desk = useBench((s) => s.desk);
  const [text, setText] = useState<string | null>(null);
  return (
    <div className="flex h-9 shrink-0 items-center gap-1 border-y border-line px-2.5">
      <IconButton label="First frame" shortcut="Home" onClick={() => playhead.seek(0)}>
        <ChevronFirst size={16} />
      </IconButton>
      <IconButton label="One frame back" shortcut="←" onClick={() => playhead.seek(playhead.frame - 1)}>
        <StepBack size={15} />
      </IconButton>
      <IconButton label={playing ? "Pause" : "Play"} shortcut="Space" onClick={() => playhead.toggle()}>
        {playing ? <Pause size={16} fill="currentColor" /> : <Play size={16} fill="currentColor" />}
      </IconButton>
      <IconButton label="One frame on" shortcut="→" onClick={() => playhead.seek(playhead.frame + 1)}>
        <StepForward size={15} />
      </IconButton>
      <IconButton label="Last frame" shortcut="End" onClick={() => playhead.seek(playhead.last)}>
        <ChevronLast size={16} />
      </IconButton>
      <LoopButton />
      <span className="figure ml-2 flex items-baseline gap-1.5">
        <span className="font-semibold">f</span>
        <input
          aria-label="Frame"
          className="w-11 rounded-sm bg-transparent font-semibold hover:bg-line/40"
          value={text ?? String(frame)}
          onFocus={(event) => event.target.select()}
          onChange={(event) => setText(event.target.value)}
          onBlur={() => setText(null)}
          onKeyDown={(event) => {
            event.stopPropagation();
            if (event.key === "Enter") {
              const typed = Number(event.currentTarget.value);
              if (Number.isFinite(typed)) playhead.seek(typed);
              event.currentTarget.blur();
            }
          }}
        />
        <span className="text-ink-soft">
          / {last} · {(frame / fps).toFixed(2)} s · {fps} fps
        </span>
      </span>
      <span className="mx-2 h-5 w-px bg-line" />
      <IconButton label="Zoom in on time" shortcut="+" onClick={() => onZoom(0.6)}>
        <ZoomIn size={15} />
      </IconButton>
      <IconButton label="Zoom out of time" shortcut="-" onClick={() => onZoom(1.7)}>
        <ZoomOut size={15} />
      </IconButton>
      <Segmented
        small
        label="Time desk"
        value={desk}
        options={[
          { value: "footfall", label: "Footfall", hint: "Contacts and patches (C)" },
          { value: "curves", label: "Curves", hint: "Joint angles and measured curves (C)" },
        ]}
        onChange={(value) => useBench.setState({ desk: value })}
      />
      <AddPatchMenu />
      {!grounded && (
        <Button tone="primary" className="h-7!" onClick={groundFeet}>
          <Footprints size={14} /> Ground the feet
        </Button>
      )}
      <span className="min-w-0 flex-1 truncate text-right text-ink-soft" role="status" title={writes}>
        {writes}
      </span>
    </div>
  );
}

function LoopButton() {
  const [, update] = useState(0);
  useEffect(() => playhead.subscribe(() => update((n) => n + 1)), []);
  const range = playhead.range;
  return (
    <>
      <IconButton
        label={playhead.looping ? "Play once" : "Play in a loop"}
        shortcut="L"
        pressed={playhead.looping}
        onClick={() => playhead.setLooping(!playhead.looping)}
      >
        <Repeat size={15} />
      </IconButton>
      {range && (
        <button
          type="button"
          className="figure rounded-sm px-1.5 text-cobalt hover:bg-line/50"
          title="Play the whole clip again"
          onClick={() => playhead.setRange(null)}
        >
          {range[0]}–{range[1]} ×
        </button>
      )}
    </>
  );
}

/** Frame numbers; press to move the playhead, drag with Shift held to set the played stretch. */
function Ruler({ scale, title, beside }: { scale: TimeScale; title: string; beside: ReactNode }) {
  const steps = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000];
  const per = scale.x(1) - scale.x(0);
  const big = steps.find((s) => s * per > 58) ?? 20000;
  const small = steps.find((s) => s * per > 7) ?? 5000;
  const drawing = useRef<SVGSVGElement>(null);
  const frameAt = (clientX: number) =>
    Math.max(0, Math.min(playhead.last, Math.floor(scale.frame(clientX - (drawing.current?.getBoundingClientRect().left ?? 0)))));
  const bind = useFollow<null>((_, __, at) => {
    const first = frameAt(at.clientX);
    const ranged = at.fine;
    if (!ranged) playhead.seek(first);
    return {
      move: ({ clientX }) => {
        const f = frameAt(clientX);
        if (ranged) playhead.setRange(Math.abs(f - first) > 0 ? [Math.min(f, first), Math.max(f, first)] : null);
        else playhead.seek(f);
      },
      end: () => {},
    };
  });
  const ticks: number[] = [];
  for (let f = Math.ceil(scale.from / small) * small; f <= scale.to; f += small) ticks.push(f);
  return (
    <div className="sticky top-0 z-10 flex h-6 items-center border-b border-line bg-sheet">
      <div className="flex shrink-0 items-center justify-between pl-3.5 text-ink-soft" style={{ width: NAMES }}>
        {title}
        {beside}
      </div>
      <svg ref={drawing} width={scale.width} height={24} className="block touch-none overflow-visible" aria-hidden="true" {...bind(null)}>
        <rect width={scale.width} height={24} fill="transparent" />
        {ticks.map((f) => (
          <g key={f} transform={`translate(${scale.x(f) + per / 2} 0)`}>
            <line y1={f % big === 0 ? 15 : 19} y2={24} stroke="var(--ink-soft)" strokeWidth={f % big === 0 ? 1 : 0.6} />
            {f % big === 0 && (
              <text y={12} textAnchor="middle" fontSize={10.5} fill="var(--ink-soft)">
                {f}
              </text>
            )}
          </g>
        ))}
      </svg>
    </div>
  );
}

function PlayheadLine({ scale }: { scale: TimeScale }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = () => {
      const element = line.current;
      if (!element) return;
      const x = scale.x(playhead.frame + 0.5);
      element.style.display = x < 0 || x > scale.width ? "none" : "block";
      element.style.transform = `translateX(${NAMES + x}px)`;
    };
    place();
    return playhead.subscribe(place);
  }, [scale]);
  return (
    <div ref={line} aria-hidden="true" className="pointer-events-none absolute top-0 bottom-0 left-0 z-20 min-h-full w-0">
      <div className="absolute inset-y-0 -left-px w-[1.5px] bg-cobalt" />
      <div className="sticky top-0 -ml-[5px] size-0 border-x-[5px] border-t-[7px] border-x-transparent border-t-cobalt" />
    </div>
  );
}
