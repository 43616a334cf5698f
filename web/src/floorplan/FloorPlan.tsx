import { pointLabel } from "@stride/motion";
import { ArrowDownLeft, ArrowUpRight } from "lucide-react";
import { memo, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { useBench } from "../state/bench.ts";
import { playhead } from "../state/playhead.ts";
import { IconButton } from "../ui/Button.tsx";
import { soleOutline, stepOutline } from "../ui/soleShape.ts";
import type { MotionView } from "../worker/views.ts";
import { blockAt, blockFrames, boundsOf, isOld, numbered, type Place, planPath, shapePieces, thinned } from "./plan.ts";

/** A number stands so much further off a footprint that lies on a step, metres. */
const STEP_AIR = 0.12;
/** Metres of the path that the small plan and the large one show at a time. */
const STRETCH = { small: 2.6, large: 12 } as const;
/** Room that a number takes along the path, in heights of its text. */
const ROOM = 1.4;
/** Points that the path is drawn with at most. */
const MOST_PLACES = 3000;

interface PlanProps {
  readonly large: boolean;
  readonly onSwap: () => void;
}

/** The view from above: numbered footprints with their smears, the hips' path with a dot every tenth of a second, and where they are now. While something is dragged the body goes first, the plan follows. */
export function FloorPlan(props: PlanProps) {
  const after = useDeferredValue(useBench((s) => s.after));
  return <Plan {...props} after={after} />;
}

const Plan = memo(function Plan({ large, onSwap, after }: PlanProps & { readonly after: MotionView | null }) {
  const hips = useBench((s) => s.body?.roles.hips ?? 0);
  const contact = useBench((s) => s.contact);
  const here = useRef<SVGCircleElement>(null);
  const drawing = useRef<SVGSVGElement>(null);

  const paths = useMemo(() => after && planPath(after, hips), [after, hips]);
  // Of a long way only what lies around the playhead is drawn; the plan goes on from block to block.
  const [block, setBlock] = useState(0);
  const stretch = large ? STRETCH.large : STRETCH.small;
  const plan = useMemo(() => {
    if (!after || !paths) return null;
    const { place, path } = paths;
    const far = boundsOf(path, 0, 0);
    const [from, to] = large && far[2] - far[0] <= STRETCH.large ? [0, after.frameCount - 1] : blockFrames(block, after.frameCount, after.fps);
    const shown = after.prints.flatMap((print, i) => (print.end >= from && print.start <= to ? [{ print, number: i + 1 }] : []));
    const prints = shown.map(({ print, number }) => ({
      number,
      print,
      outline: soleOutline(print.x, print.z, print.heading, Math.max(0.1, print.length * 1.25), 0.09).map(([x, z]) => place(x, z)),
      at: place(print.x, print.z),
      step: print.rise === 0 ? null : stepOutline(print.x, print.z, print.heading, print.length).map(([x, z]) => place(x, z)),
      // What moves less than half a centimetre leaves no mark.
      smeared: smearSize(print.smear) > 0.005,
      smear: Array.from({ length: print.smear.length / 2 }, (_, i) => place(print.smear[i * 2], print.smear[i * 2 + 1])),
    }));
    const drawn = thinned(path, from, to, MOST_PLACES);
    const box = boundsOf([...drawn, ...prints.flatMap((p) => p.step ?? [p.at])], 0.3, 0.28);
    const pieces = after.ground.shapes.flatMap((shape) =>
      shapePieces(shape).map(({ outline, ...rest }) => ({ ...rest, outline: outline.map(([x, z]) => place(x, z)) })),
    );
    return { path, prints, box, pieces, frames: [from, to] as const, drawn };
  }, [after, paths, block, large]);

  useEffect(() => {
    const move = () => {
      const p = plan?.path[Math.min(playhead.frame, plan.path.length - 1)];
      if (after) setBlock(blockAt(playhead.frame, after.fps));
      // Where the way is longer than fits, a stretch of it about the body is shown.
      if (p && plan && drawing.current && plan.box[2] - plan.box[0] > stretch) {
        const from = Math.max(plan.box[0], Math.min(plan.box[2] - stretch, p[0] - stretch / 2));
        drawing.current.setAttribute("viewBox", `${from} ${plan.box[1]} ${stretch} ${plan.box[3] - plan.box[1]}`);
      }
      if (p && here.current) {
        here.current.setAttribute("cx", String(p[0]));
        here.current.setAttribute("cy", String(p[1]));
      }
    };
    move();
    return playhead.subscribe(move);
  }, [plan, stretch, after]);

  if (!plan || !after) return null;
  const [x0, y0, x1, y1] = plan.box;
  const wide = Math.min(stretch, x1 - x0);
  const size = Math.max(wide / (large ? 7.6 : 2.2), (y1 - y0) / (large ? 4.6 : 1));
  const line = size * (large ? 0.014 : 0.012);
  const every = Math.max(1, Math.round(after.fps / 10));
  const text = size * (large ? 0.13 : 0.105);
  const sides = plan.prints.map(({ print, at }) => ({ at, above: at[1] < (plan.path[Math.min(print.start, plan.path.length - 1)]?.[1] ?? 0) }));
  const told = numbered(sides, text * ROOM);
  // The stretch goes on from block to block; what lies behind the middle of this one is past.
  const now = (plan.frames[0] + plan.frames[1]) / 2;
  const whole = plan.frames[0] === 0 && plan.frames[1] === after.frameCount - 1;
  return (
    <section aria-label="Floor plan" className="flex h-full flex-col">
      <header className="flex items-center justify-between px-2.5 pt-1.5">
        <h2 className="text-xs font-semibold">Floor plan</h2>
        <span className="flex items-center gap-1 text-xs text-ink-soft">
          from above
          <IconButton label={large ? "Floor plan small" : "Floor plan large"} shortcut="F" onClick={onSwap} className="size-5!">
            {large ? <ArrowDownLeft size={13} /> : <ArrowUpRight size={13} />}
          </IconButton>
        </span>
      </header>
      <svg ref={drawing} viewBox={`${x0} ${y0} ${wide} ${y1 - y0}`} className="min-h-0 w-full flex-1" preserveAspectRatio="xMidYMid meet">
        {plan.pieces.map(({ outline, label }) => (
          <g key={outline.join(" ")}>
            <polygon points={outline.map((p) => p.join(",")).join(" ")} fill="var(--paper)" stroke="var(--ink-soft)" strokeWidth={line} />
            {large && (
              <text {...labelPlace(outline, plan.box, text)} fontSize={text * 0.8} fill="var(--ink-soft)">
                {label}
              </text>
            )}
          </g>
        ))}
        <polyline points={plan.drawn.map(([x, y]) => `${x},${y}`).join(" ")} fill="none" stroke="var(--ink)" strokeWidth={line} />
        {/* One element for all dots: lines of no length with round ends. */}
        <path
          d={thinned(plan.path, ...plan.frames, Number.POSITIVE_INFINITY, every)
            .map(([x, y]) => `M${x} ${y}h0`)
            .join("")}
          stroke="var(--ink)"
          strokeWidth={line * 3.4}
          strokeLinecap="round"
        />
        {plan.prints.map(({ print, number, outline, at, step, smear, smeared }, i) => {
          const picked = contact?.point === print.point && contact.start === print.start;
          const left = print.side === "left";
          const { above } = sides[i];
          return (
            // biome-ignore lint/a11y/useSemanticElements: a shape in a drawing cannot be a button element
            <g
              key={`${print.point}-${print.start}`}
              role="button"
              tabIndex={-1}
              aria-label={`Footprint ${number}, ${pointLabel(print.point).toLowerCase()}${print.rise === 0 ? "" : `, ${Math.round(print.rise * 100)} cm over the ground`}`}
              onClick={() => {
                useBench.setState({ contact: { point: print.point, start: print.start, end: print.end }, findingId: null });
                playhead.seek(print.start);
              }}
              onKeyDown={() => undefined}
              className="cursor-pointer"
              opacity={!whole && isOld(print, now, after.fps) ? 0.45 : undefined}
            >
              {step && <polygon points={step.map((p) => p.join(",")).join(" ")} fill="var(--paper)" stroke="var(--ink-soft)" strokeWidth={line} />}
              <polygon
                points={outline.map((p) => p.join(",")).join(" ")}
                fill={left ? "var(--plum)" : "var(--sheet)"}
                stroke={picked ? "var(--cobalt)" : left ? "var(--plum)" : "var(--teal)"}
                strokeWidth={picked ? line * 3 : line * 1.4}
              />
              {!left && <line x1={outline[5][0]} y1={outline[5][1]} x2={outline[14][0]} y2={outline[14][1]} stroke="var(--teal)" strokeWidth={line * 0.8} />}
              {smeared && (
                <polyline
                  points={smear.map((p) => p.join(",")).join(" ")}
                  fill="none"
                  stroke="var(--coral)"
                  strokeWidth={line * 2.6}
                  strokeLinecap="round"
                  opacity={0.9}
                />
              )}
              {told[i] && (
                <text
                  x={at[0]}
                  y={at[1] + (above ? -text * 0.85 - (step ? STEP_AIR : 0) : text * 1.45 + (step ? STEP_AIR : 0))}
                  fontSize={text}
                  textAnchor="middle"
                  fill="var(--ink-soft)"
                >
                  {number}
                  {print.rise !== 0 && <tspan fontSize={text * 0.8}>{` ${print.rise > 0 ? "+" : "−"}${Math.round(Math.abs(print.rise) * 100)} cm`}</tspan>}
                </text>
              )}
            </g>
          );
        })}
        <circle ref={here} r={line * 3.6} fill="none" stroke="var(--cobalt)" strokeWidth={line * 1.8} />
      </svg>
    </section>
  );
});

/** A label in the near lower corner of a piece, where that lies within the plan. */
function labelPlace(outline: readonly Place[], [x0, , , y1]: readonly number[], text: number): { x: number; y: number } {
  const left = Math.max(x0, Math.min(...outline.map(([x]) => x)));
  return { x: left + 0.4 * text, y: Math.min(y1, Math.max(...outline.map(([, y]) => y))) - 0.4 * text };
}

/** Diagonal of the box about a course of x and z, metres. */
function smearSize(smear: Float32Array): number {
  let [x0, x1, z0, z1] = [smear[0], smear[0], smear[1], smear[1]];
  for (let i = 0; i < smear.length; i += 2) {
    x0 = Math.min(x0, smear[i]);
    x1 = Math.max(x1, smear[i]);
    z0 = Math.min(z0, smear[i + 1]);
    z1 = Math.max(z1, smear[i + 1]);
  }
  return Math.hypot(x1 - x0, z1 - z0);
}
