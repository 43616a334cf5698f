import { channelKeys, degreesWithin, type Parts, sameKeyMoment, TANGENTS, type Tangent } from "@stride/motion";
import { Diamond, Maximize2, Trash2 } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { change, shownDoc, useBench, whileComputing } from "../state/bench.ts";
import { usePlayheadFrame, usePlayRange } from "../state/playhead.ts";
import { askWorker } from "../state/session.ts";
import { momentIn } from "../state/times.ts";
import { Button, IconButton } from "../ui/Button.tsx";
import { STRETCH_TOOLS, type StretchTool } from "../worker/stretchTools.ts";
import type { CurveView } from "../worker/views.ts";
import { changeKey, layerOf, putStretch, setKey, settingsOf, targetOf } from "./curveEdits.ts";
import { type ShownCurve, useCurves } from "./curveState.ts";

const SMALL = "h-6! px-2! text-xs";

/** Tools for the picked curve: keys, values copied from frame to frame, and operations on the played stretch. */
export function CurveTools({ curve, view, parts }: { curve: ShownCurve | undefined; view: CurveView | undefined; parts: Parts | null }) {
  const { key: picked, copied } = useCurves();
  const frame = usePlayheadFrame();
  const range = usePlayRange();
  const doc = useBench(shownDoc);
  const patchId = useBench((s) => s.patchId);
  const clocks = useBench((s) => s.clocks);
  const skeleton = useBench((s) => s.opened?.skeleton);
  const [tool, setTool] = useState<StretchTool>("flat");
  const [amount, setAmount] = useState<string>("");
  const working = useBench((s) => s.computing > 0);
  if (!curve || !view || !parts)
    return <p className="flex h-8 items-center border-b border-line px-3.5 text-ink-soft">Select a part for its angles, or measure something at the left.</p>;
  const layer = layerOf(doc, patchId);
  const mode = settingsOf(layer).mode ?? "additive";
  const target = targetOf(curve.spec, mode, parts);
  const keys = layer ? channelKeys(settingsOf(layer).channels ?? [], target) : [];
  const key = keys.find((k) => picked !== null && sameKeyMoment(k.at, picked));
  const value = view.result[Math.min(frame, view.result.length - 1)];
  const last = view.result.length - 1;
  const [start, end] = range ?? [0, last];
  const needs = STRETCH_TOOLS.find((t) => t.id === tool)?.needs ?? null;
  const here = momentIn(clocks, layer?.id ?? null, frame);
  const put = (label: string, wanted: number) => {
    let made: string | null = null;
    change(label, (d) => {
      const result = setKey(d, patchId, curve.spec, view, { frame, moment: here }, wanted, parts);
      made = result.patchId;
      return result.doc;
    });
    useBench.setState({ patchId: made });
    useCurves.setState({ active: curve.id, key: layer ? here : frame / view.fps });
  };
  const standard = () => {
    const found = STRETCH_TOOLS.find((t) => t.id === tool);
    return found && "start" in found ? found.start : value;
  };
  const apply = async () => {
    const typed = amount.trim() === "" ? standard() : Number(amount.replace(",", "."));
    if (!Number.isFinite(typed)) return;
    // Thinning is within centimetres of where anything below the joint is, for angles too.
    const within = tool === "thin" && curve.spec.kind === "angle" && skeleton ? degreesWithin(skeleton, curve.spec.joint, typed) : typed;
    let made: string | null = null;
    const label = STRETCH_TOOLS.find((t) => t.id === tool)?.label ?? tool;
    const run = async () => {
      const { fps } = view;
      const keys = await askWorker((w) => w.stretchKeys({ samples: view.result, fps, stretch: { start, end }, tool, amount: within, playhead: frame }));
      const intoLayer = (moment: number) => momentIn(clocks, layer?.id ?? null, moment * fps);
      change(`${curve.label}: ${label}`, (d) => {
        const stretch = { start: start / fps, end: end / fps };
        const result = putStretch(d, patchId, curve.spec, stretch, keys, intoLayer, parts, `${curve.label}: ${label}`.slice(0, 120));
        made = result.patchId;
        return result.doc;
      });
      useBench.setState({ patchId: made });
    };
    await whileComputing(run).catch((error) => toast.error(error instanceof Error ? error.message : String(error)));
  };
  return (
    <div role="toolbar" aria-label="Curve tools" className="flex h-8 shrink-0 items-center gap-1 overflow-x-auto border-b border-line px-2 whitespace-nowrap">
      <span className="figure w-24 shrink-0 px-1" data-testid="curve-value">
        {value.toFixed(2)} {view.unit}
      </span>
      <Button className={SMALL} title="A key at the playhead, on the curve as it is" onClick={() => put(`Key ${curve.label}`, value)}>
        <Diamond size={11} /> Key
      </Button>
      <IconButton
        label="Delete the picked key"
        className="size-6!"
        disabled={!key || !layer}
        onClick={() => layer && key && change(`Delete key of ${curve.label}`, (d) => changeKey(d, layer.id, target, key.at, null))}
      >
        <Trash2 size={13} />
      </IconButton>
      <select
        aria-label="Tangent of the picked key"
        disabled={!key || !layer}
        value={key?.tangent ?? "smooth"}
        className="h-6 rounded-sm bg-transparent hover:bg-line/40 disabled:opacity-45"
        onChange={(event) =>
          layer && key && change(`Tangent of ${curve.label}`, (d) => changeKey(d, layer.id, target, key.at, { tangent: event.target.value as Tangent }))
        }
      >
        {TANGENTS.map((t) => (
          <option key={t} value={t}>
            {t}
          </option>
        ))}
      </select>
      <Button className={SMALL} title="Remember the value at the playhead" onClick={() => useCurves.setState({ copied: value })}>
        Copy value
      </Button>
      <Button
        className={SMALL}
        disabled={copied === null}
        title={copied === null ? undefined : `${copied.toFixed(2)} ${view.unit}`}
        onClick={() => copied !== null && put(`Paste value on ${curve.label}`, copied)}
      >
        Paste
      </Button>
      <Button
        className={SMALL}
        disabled={copied === null}
        title="The copied value the other way round, for the opposite passing pose"
        onClick={() => copied !== null && put(`Paste opposite value on ${curve.label}`, -copied)}
      >
        Paste opposite
      </Button>
      <span className="mx-1 h-5 w-px shrink-0 bg-line" />
      <span className="figure text-ink-soft" title="Shift-drag on the ruler sets the stretch">
        f {start}–{end}
      </span>
      <select
        aria-label="Operation on the stretch"
        value={tool}
        className="h-6 rounded-sm bg-transparent hover:bg-line/40"
        onChange={(event) => {
          setTool(event.target.value as StretchTool);
          setAmount("");
        }}
      >
        {STRETCH_TOOLS.map((t) => (
          <option key={t.id} value={t.id}>
            {t.label}
          </option>
        ))}
      </select>
      {needs && (
        <span className="figure flex items-center gap-1">
          <input
            aria-label="Amount of the operation"
            inputMode="decimal"
            value={amount}
            placeholder={standard().toFixed(1)}
            className="h-6 w-14 rounded-sm border border-line bg-sheet px-1 text-right"
            onKeyDown={(event) => {
              event.stopPropagation();
              if (event.key === "Enter") void apply();
            }}
            onChange={(event) => setAmount(event.target.value)}
          />
          <span className="text-ink-soft">{needs === "percent" ? "%" : needs === "frames" ? "f" : needs === "centimetres" ? "cm" : view.unit}</span>
        </span>
      )}
      <Button className={SMALL} disabled={working} onClick={() => void apply()}>
        {working ? "Working…" : "Apply"}
      </Button>
      <span className="flex-1" />
      <IconButton label="Fit the values" className="size-6!" onClick={() => useCurves.setState({ window: null })}>
        <Maximize2 size={13} />
      </IconButton>
    </div>
  );
}
