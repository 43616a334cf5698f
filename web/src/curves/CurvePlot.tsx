import { type ChannelTarget, channelKeys, type Key, type LayerSettings, type Parts, receivedSeconds, sameKeyMoment, type Work } from "@stride/motion";
import { useRef } from "react";
import { change, preview, shownDoc, useBench } from "../state/bench.ts";
import { usePlayRange } from "../state/playhead.ts";
import { framesOf, momentIn } from "../state/times.ts";
import { useScale } from "../timescale/scale.ts";
import { type Followed, useFollow } from "../ui/useFollow.ts";
import type { CurveView } from "../worker/views.ts";
import { changeKey, keyHeight, layerOf, moveKey, setKey, settingsOf, targetOf } from "./curveEdits.ts";
import { type ShownCurve, useCurves } from "./curveState.ts";

interface CurvePlotProps {
  readonly curves: readonly ShownCurve[];
  readonly views: ReadonlyMap<string, CurveView>;
  readonly height: number;
  readonly parts: Parts | null;
}

const PAD = 12;

/** Curves over time with their keys: the source thin behind, the result in front, keys of the selected layer on it. */
export function CurvePlot({ curves, views, height, parts }: CurvePlotProps) {
  const scale = useScale();
  const svg = useRef<SVGSVGElement>(null);
  const { active, key: picked, window } = useCurves();
  const range = usePlayRange();
  const doc = useBench(shownDoc);
  const patchId = useBench((s) => s.patchId);
  const clocks = useBench((s) => s.clocks);
  const [low, high] = window ?? fitted(curves, views, scale.from, scale.to);
  const y = (v: number) => PAD + ((high - v) / (high - low)) * (height - 2 * PAD);
  const perPixel = (high - low) / (height - 2 * PAD);
  const x = (frame: number) => scale.x(frame + 0.5);
  const layer = layerOf(doc, patchId);
  const settings = settingsOf(layer);
  const mode = settings.mode ?? "additive";
  const path = (values: Float64Array) => {
    const step = Math.max(1, Math.floor((scale.to - scale.from) / scale.width));
    let out = "";
    for (let f = Math.max(0, scale.from); f <= Math.min(scale.to, values.length - 1); f += step)
      out += `${out ? "L" : "M"}${x(f).toFixed(1)} ${y(values[f]).toFixed(1)}`;
    return out;
  };
  const addKey = (event: React.MouseEvent) => {
    const box = svg.current?.getBoundingClientRect();
    const curve = curves.find((c) => c.id === active) ?? curves[0];
    const view = curve && views.get(curve.id);
    if (!box || !view || !parts) return;
    const frame = Math.max(0, Math.min(view.result.length - 1, Math.floor(scale.frame(event.clientX - box.left))));
    const here = momentIn(clocks, layer?.id ?? null, frame);
    let made: string | null = null;
    change(`Key ${curve.label}`, (d) => {
      const put = setKey(d, patchId, curve.spec, view, { frame, moment: here }, view.result[frame], parts);
      made = put.patchId;
      return put.doc;
    });
    useBench.setState({ patchId: made });
    useCurves.setState({ active: curve.id, key: here });
  };
  const lines = niceLines(low, high);
  const unit = (curves.find((c) => c.id === active) ?? curves[0]) && views.get((curves.find((c) => c.id === active) ?? curves[0]).id)?.unit;
  return (
    <svg
      ref={svg}
      width={scale.width}
      height={height}
      className="block overflow-hidden bg-paper"
      aria-label="Curves. Double-click sets a key on the curve that is picked."
      data-low={low}
      data-high={high}
      onDoubleClick={addKey}
      onWheel={(event) => {
        if (event.ctrlKey || event.altKey || event.shiftKey) return;
        const factor = event.deltaY > 0 ? 1.2 : 1 / 1.2;
        const box = svg.current?.getBoundingClientRect();
        const about = high - ((event.clientY - (box?.top ?? 0) - PAD) / (height - 2 * PAD)) * (high - low);
        useCurves.setState({ window: [about - (about - low) * factor, about + (high - about) * factor] });
      }}
    >
      {lines.map((v) => (
        <g key={v}>
          <line x1={0} x2={scale.width} y1={y(v)} y2={y(v)} stroke="var(--line)" strokeWidth={v === 0 ? 1.2 : 0.6} />
          <text x={3} y={y(v) - 2} fontSize={10.5} fill="var(--ink-soft)" className="figure">
            {Number(v.toFixed(3))} {unit}
          </text>
        </g>
      ))}
      {range && (
        <rect x={scale.x(range[0])} width={Math.max(0, scale.x(range[1] + 1) - scale.x(range[0]))} y={0} height={height} fill="var(--cobalt)" opacity={0.07} />
      )}
      {curves.map((curve) => {
        const view = views.get(curve.id);
        if (!view) return null;
        const on = curve.id === active;
        return (
          <g key={curve.id}>
            <path d={path(view.before)} fill="none" stroke="var(--ink-soft)" strokeWidth={0.9} opacity={0.6} />
            <path d={path(view.result)} fill="none" stroke={curve.color} strokeWidth={on ? 2.4 : 1.4} strokeDasharray={curve.dash} />
            {/* biome-ignore lint/a11y/useKeyWithClickEvents: the list at the left picks curves by keyboard */}
            {/* biome-ignore lint/a11y/noStaticElementInteractions: likewise; a wide unseen line to press on */}
            <path
              d={path(view.result)}
              fill="none"
              stroke="transparent"
              strokeWidth={12}
              className="cursor-pointer"
              onClick={() => useCurves.setState({ active: curve.id, key: null })}
            />
          </g>
        );
      })}
      {layer &&
        parts &&
        curves.map((curve) => {
          const view = views.get(curve.id);
          if (!view) return null;
          const target = targetOf(curve.spec, mode, parts);
          const keys = channelKeys(settings.channels ?? [], target);
          return keys.flatMap((key, i) =>
            framesOf(clocks, layer.id, key.at).map((frame, k) => (
              <KeyMark
                // biome-ignore lint/suspicious/noArrayIndexKey: the place in the row stays while a key is dragged
                key={`${curve.id}-${i}-${k}`}
                curve={curve}
                data={key}
                target={target}
                patchId={layer.id}
                frame={frame}
                x={x(frame)}
                y={y(keyHeight(key, frame, mode, view))}
                perFrame={scale.x(1) - scale.x(0)}
                perPixel={perPixel}
                picked={curve.id === active && picked !== null && sameKeyMoment(key.at, picked)}
                mode={mode}
              />
            )),
          );
        })}
    </svg>
  );
}

/** What dragging part of a key does: the edit for a way in pixels, and the moment that the key is at then. */
interface KeyDrag {
  readonly name: string;
  step(dx: number, dy: number): { readonly edit: (doc: Work) => Work; readonly at?: number };
}

interface KeyMarkProps {
  readonly curve: ShownCurve;
  readonly data: Key;
  readonly target: ChannelTarget;
  readonly patchId: string;
  /** of the result, where it is drawn */
  readonly frame: number;
  readonly x: number;
  readonly y: number;
  readonly perFrame: number;
  /** units that a pixel is high */
  readonly perPixel: number;
  readonly picked: boolean;
  readonly mode: LayerSettings["mode"];
}

function KeyMark({ curve, data, target, patchId, frame, x, y, perFrame, perPixel, picked, mode }: KeyMarkProps) {
  const clocks = useBench((s) => s.clocks);
  const last = receivedSeconds(clocks, patchId);
  const { fps } = clocks;
  const label = `Key of ${curve.label} at frame ${Math.round(frame)}, ${data.value.toFixed(2)}${mode === "additive" ? " added" : ""}, ${data.tangent}`;
  const bind = useFollow<KeyDrag>((drag) => {
    useCurves.setState({ active: curve.id, key: data.at });
    let step: ReturnType<KeyDrag["step"]> | null = null;
    return {
      move: ({ dx, dy, fine }: Followed) => {
        const slow = fine ? 0.1 : 1;
        step = drag.step(dx * slow, dy * slow);
        preview(step.edit);
        if (step.at !== undefined) useCurves.setState({ key: step.at });
      },
      end: (how) => {
        if (how === "done" && step) change(drag.name, step.edit);
        else useBench.setState({ draft: null });
      },
    };
  });
  // Frames of the result are moments of what the layer receives at its own speed there.
  const later = (frames: number) => momentIn(clocks, patchId, Math.round(frame) + frames) - momentIn(clocks, patchId, Math.round(frame));
  const moved = (frames: number) => Math.max(0, Math.min(last, data.at + later(frames)));
  const shift = (frames: number, by: number, name: string) => {
    change(name, (d) => moveKey(d, patchId, target, data.at, later(frames), by, last));
    useCurves.setState({ key: moved(frames) });
  };
  // Slopes are kept a second, and drawn a frame.
  const slope = (data.slopeOut ?? 0) / fps;
  const reach = Math.max(3, Math.round(40 / perFrame));
  return (
    <g>
      {picked && data.tangent === "free" && (
        <>
          <line
            x1={x - reach * perFrame}
            y1={y + (slope * reach) / perPixel}
            x2={x + reach * perFrame}
            y2={y - (slope * reach) / perPixel}
            stroke="var(--cobalt)"
            strokeWidth={1}
          />
          <circle
            data-handle="slope"
            cx={x + reach * perFrame}
            cy={y - (slope * reach) / perPixel}
            r={4}
            fill="var(--sheet)"
            stroke="var(--cobalt)"
            strokeWidth={1.6}
            className="cursor-ns-resize touch-none"
            {...bind({
              name: `Tangent of ${curve.label}`,
              step: (_, dy) => {
                const next = (slope - (dy * perPixel) / reach) * fps;
                return { edit: (d) => changeKey(d, patchId, target, data.at, { slopeIn: next, slopeOut: next }) };
              },
            })}
          />
        </>
      )}
      {/* biome-ignore lint/a11y/useSemanticElements: a shape in a drawing cannot be a button element */}
      <rect
        role="button"
        tabIndex={0}
        aria-label={label}
        aria-pressed={picked}
        data-key={`${curve.id}@${Math.round(frame)}`}
        x={x - 4.5}
        y={y - 4.5}
        width={9}
        height={9}
        transform={`rotate(45 ${x} ${y})`}
        fill={picked ? "var(--cobalt)" : "var(--sheet)"}
        stroke={picked ? "var(--cobalt)" : curve.color}
        strokeWidth={1.8}
        className="cursor-move touch-none"
        {...bind({
          name: `Move key of ${curve.label}`,
          step: (dx, dy) => {
            const frames = Math.round(dx / perFrame);
            return { edit: (d) => moveKey(d, patchId, target, data.at, later(frames), -dy * perPixel, last), at: moved(frames) };
          },
        })}
        onKeyDown={(event) => {
          const fine = event.shiftKey ? 0.1 : 1;
          if (event.key === "ArrowUp") shift(0, fine, `Raise key of ${curve.label}`);
          else if (event.key === "ArrowDown") shift(0, -fine, `Lower key of ${curve.label}`);
          else if (event.key === "ArrowLeft" && event.altKey) shift(-1, 0, `Move key of ${curve.label}`);
          else if (event.key === "ArrowRight" && event.altKey) shift(1, 0, `Move key of ${curve.label}`);
          else if (event.key === "Delete" || event.key === "Backspace")
            change(`Delete key of ${curve.label}`, (d) => changeKey(d, patchId, target, data.at, null));
          else if (event.key === "Enter") useCurves.setState({ active: curve.id, key: data.at });
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      />
    </g>
  );
}

/** Lowest and highest value of what is shown, with some air. */
function fitted(curves: readonly ShownCurve[], views: ReadonlyMap<string, CurveView>, from: number, to: number): [number, number] {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (const { id } of curves) {
    const view = views.get(id);
    if (!view) continue;
    for (const values of [view.before, view.result]) {
      for (let f = Math.max(0, from); f <= Math.min(to, values.length - 1); f++) {
        low = Math.min(low, values[f]);
        high = Math.max(high, values[f]);
      }
    }
  }
  if (!Number.isFinite(low)) return [-1, 1];
  const air = Math.max(0.5, (high - low) * 0.08);
  return [low - air, high + air];
}

function niceLines(low: number, high: number): number[] {
  const rough = (high - low) / 4;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 5, 10].map((k) => k * power).find((s) => s >= rough) ?? rough;
  const lines: number[] = [];
  for (let v = Math.ceil(low / step) * step; v <= high; v += step) lines.push(Math.abs(v) < step / 1e6 ? 0 : v);
  return lines;
}
