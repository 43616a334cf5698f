import { type FieldHint, type Patch, patchKind, RAMP_SHAPES } from "@stride/motion";
import { useMemo } from "react";
import { z } from "zod";
import { change, preview, shownDoc, useBench, withPatch, withSetting } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";
import type { StageFigures } from "../../worker/views.ts";
import { AmplitudeFields } from "./AmplitudeFields.tsx";
import { ContactPanel } from "./ContactPanel.tsx";
import { HandShapeFields } from "./HandShapeFields.tsx";
import { LayerFields } from "./LayerFields.tsx";
import { MaskField } from "./MaskField.tsx";

/** The selected patch: its figures before and after, and its settings as its schema and field hints say. */
export function SettingsPanel() {
  const patch = useBench((s) => shownDoc(s).patches.find((p) => p.id === s.patchId));
  const count = useBench((s) => shownDoc(s).patches.length);
  const at = useBench((s) => shownDoc(s).patches.findIndex((p) => p.id === s.patchId));
  const stage = useBench((s) => (s.patchId ? s.figures?.stages[s.patchId] : undefined));
  const problem = useBench((s) => s.problem);
  const kind = patch && patchKind(patch.kind);
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long panel must scroll by keyboard
    <section className="h-full overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Settings">
      {problem && (
        <p role="alert" className="mt-3 rounded-sm border border-coral px-2 py-1.5 text-coral-ink">
          {problem}
        </p>
      )}
      {patch && kind ? (
        <>
          <header className="flex items-baseline justify-between gap-2 pt-3 pb-1.5">
            <h2 className="min-w-0 truncate font-semibold">{patch.name}</h2>
            <span className="shrink-0 text-xs text-ink-soft">
              patch {at + 1} of {count}
            </span>
          </header>
          <p className="pb-2 text-xs text-ink-soft">{kind.description}</p>
          {patch.muted ? (
            <p className="rounded-sm border border-line p-2 text-ink-soft">Muted: the motion is as if it were not there.</p>
          ) : (
            <FigureTable stage={stage} poses={POSING.has(patch.kind)} />
          )}
          <Fields key={patch.id} patch={patch} fields={kind.fields} defaults={kind.defaults} schema={kind.schema} />
          {patch.kind === "handShape" && <HandShapeFields patch={patch} />}
          {patch.kind === "layer" && <LayerFields patch={patch} />}
          {patch.kind === "amplitude" && <AmplitudeFields patch={patch} />}
          {patch.kind === "touchUp" && (
            <Button className="mb-1 w-full" onClick={() => useBench.setState({ panel: "pose" })}>
              Edits, holds and poses
            </Button>
          )}
          {patch.kind !== "trim" && (
            <SliderRow
              label="Strength"
              unit="%"
              value={patch.weight * 100}
              min={0}
              max={100}
              step={1}
              onMove={(v) => preview((d) => withPatch(d, patch.id, { weight: v / 100 }))}
              onCommit={(v) => change(`Strength of ${patch.name}`, (d) => withPatch(d, patch.id, { weight: v / 100 }))}
            />
          )}
          {patch.kind === "plant" && <LivePlantField />}
          {patch.kind !== "trim" && <RangeField patch={patch} />}
          {kind.masked && <MaskField patch={patch} />}
        </>
      ) : (
        <p className="pt-3 text-ink-soft">No patch is selected. A patch is one step of the correction: add one below, or ground the feet in one go.</p>
      )}
      <ContactPanel />
    </section>
  );
}

/** Kinds that are there to change the pose: how much they do is no fault. */
const POSING = new Set(["touchUp", "layer", "amplitude", "handShape"]);

const UNMEASURED = { slideWorstCm: 0, heightWorstCm: 0, pops: 0, jitterDegrees: 0 };

/** Its rows stand there before they are measured, so that nothing below moves under the hand. */
function FigureTable({ stage, poses }: { stage: StageFigures | undefined; poses: boolean }) {
  const before = stage?.before ?? UNMEASURED;
  const after = stage?.after ?? UNMEASURED;
  const rows: readonly (readonly [string, number | null, number, string, number])[] = [
    ["Slide, worst", before.slideWorstCm, after.slideWorstCm, "cm", 0.5],
    [
      after.heightWorstCm > 0 || (after.heightWorstCm === 0 && before.heightWorstCm > 0) ? "Float, worst" : "Sink, worst",
      Math.abs(before.heightWorstCm),
      Math.abs(after.heightWorstCm),
      "cm",
      0.8,
    ],
    ["Pops", before.pops, after.pops, "", before.pops],
    ["Jitter, worst", before.jitterDegrees, after.jitterDegrees, "°", 0.9],
    ["Pose moved", null, stage?.poseMovedCm ?? 0, "cm", poses ? Number.POSITIVE_INFINITY : 2],
  ];
  return (
    <table className="mb-2 w-full rounded-sm border border-line" aria-label="Before and after this patch">
      <tbody>
        {rows.map(([name, from, to, unit, tolerance]) => {
          const show = (v: number) => (!stage ? "…" : unit === "" ? String(v) : unit === "°" ? `${v.toFixed(1)}°` : `${v.toFixed(1)} cm`);
          return (
            <tr key={name}>
              <th scope="row" className="px-2 py-0.5 text-left font-normal">
                {name}
              </th>
              <td className="figure px-1 text-right text-ink-soft">{from === null ? "" : show(from)}</td>
              <td
                className={`figure px-2 text-right font-semibold ${!stage || tolerance === Number.POSITIVE_INFINITY ? "" : to <= tolerance ? "text-moss-ink" : "text-coral-ink"}`}
              >
                {show(to)}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

interface JsonField {
  readonly type?: string;
  readonly enum?: readonly string[];
  readonly minimum?: number;
  readonly maximum?: number;
  readonly anyOf?: readonly JsonField[];
}

/** A control per field, from the schema's own description of it: numbers with ends are sliders, choices are segments, switches are switches. */
function Fields({
  patch,
  fields,
  defaults,
  schema,
}: {
  patch: Patch;
  fields: Readonly<Record<string, FieldHint>>;
  defaults: Record<string, unknown>;
  schema: z.ZodType;
}) {
  const described = useMemo(() => (z.toJSONSchema(schema) as { properties?: Record<string, JsonField> }).properties ?? {}, [schema]);
  const last = useBench((s) => (s.before?.frameCount ?? 1) - 1);
  const label = (key: string) => `${fields[key].label} of ${patch.name}`;
  return (
    <div>
      {Object.entries(fields).map(([key, hint]) => {
        if (hint.onlyWhen && (patch.settings[hint.onlyWhen.setting] ?? defaults[hint.onlyWhen.setting]) !== hint.onlyWhen.is) return null;
        const outer = described[key] ?? {};
        const field = outer.anyOf?.find((f) => f.type !== "null") ?? outer;
        const value = patch.settings[key] ?? defaults[key];
        const set = (next: unknown) => change(label(key), (d) => withSetting(d, patch.id, key, next));
        if (field.enum) {
          return (
            <div key={key} className="flex items-center justify-between gap-2 py-1.5" title={hint.help}>
              <span>{hint.label}</span>
              <Segmented
                small
                label={hint.label}
                value={String(value)}
                options={field.enum.map((v) => ({ value: v, label: CHOICES[v] ?? v }))}
                onChange={set}
              />
            </div>
          );
        }
        if (field.type === "boolean") {
          return (
            <label key={key} className="flex items-center justify-between gap-2 py-1.5" title={hint.help}>
              <span>{hint.label}</span>
              <input type="checkbox" className="size-4 accent-[var(--ink)]" checked={value === true} onChange={(event) => set(event.target.checked)} />
            </label>
          );
        }
        const factor = hint.factor ?? 1;
        const inFrames = hint.unit === "f" && patch.kind === "trim";
        const max = Math.min(field.maximum ?? last, inFrames ? last : Number.POSITIVE_INFINITY);
        return (
          <SliderRow
            key={key}
            label={hint.label}
            unit={hint.unit}
            help={hint.help}
            value={(value === null ? max : Number(value)) * factor}
            min={(field.minimum ?? 0) * factor}
            max={max * factor}
            step={(hint.step ?? 1) * factor}
            onMove={(v) => preview((d) => withSetting(d, patch.id, key, clean(v / factor, field.type)))}
            onCommit={(v) => set(clean(v / factor, field.type))}
          />
        );
      })}
    </div>
  );
}

/** What the values of choices are called. */
const CHOICES: Readonly<Record<string, string>> = {
  settle: "settles",
  found: "as found",
  additive: "added",
  override: "taking over",
  own: "own axes",
  parent: "parent’s",
};

function clean(value: number, type: string | undefined): number {
  return type === "integer" ? Math.round(value) : Math.round(value * 1e6) / 1e6;
}

/** Whether feet are held once more on the finished motion. Off, patches behind the plant can make them slide: that is said. */
function LivePlantField() {
  const live = useBench((s) => shownDoc(s).livePlant);
  return (
    <label className="flex items-center justify-between gap-2 py-1.5" title="Patches behind the plant cannot make feet slide while this is on">
      <span>
        Hold once more at the end
        {!live && <span className="block text-xs text-coral-ink">off: later patches may make feet slide</span>}
      </span>
      <input
        type="checkbox"
        className="size-4 accent-[var(--ink)]"
        checked={live}
        onChange={(event) => change(event.target.checked ? "Live plant on" : "Live plant off", (d) => ({ ...d, livePlant: event.target.checked }))}
      />
    </label>
  );
}

function RangeField({ patch }: { patch: Patch }) {
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const set = (part: Partial<Patch>) => change(`Range of ${patch.name}`, (d) => withPatch(d, patch.id, part));
  const numbers = [
    {
      label: "from",
      value: patch.range?.start ?? 0,
      apply: (v: number) => set({ range: { start: Math.min(v, patch.range?.end ?? last), end: patch.range?.end ?? last } }),
    },
    {
      label: "to",
      value: Math.min(last, patch.range?.end ?? last),
      apply: (v: number) => set({ range: { start: patch.range?.start ?? 0, end: Math.max(v, patch.range?.start ?? 0) } }),
    },
    { label: "ramp in", value: patch.rampInFrames, apply: (v: number) => set({ rampInFrames: Math.min(600, v) }) },
    { label: "ramp out", value: patch.rampOutFrames, apply: (v: number) => set({ rampOutFrames: Math.min(600, v) }) },
  ];
  return (
    <fieldset className="border-t border-line pt-2">
      <legend className="sr-only">Range</legend>
      <div className="flex items-center justify-between pb-1">
        <span>Range</span>
        <Segmented
          small
          label="Range"
          value={patch.range ? "part" : "whole"}
          options={[
            { value: "whole", label: "whole clip" },
            { value: "part", label: "a stretch" },
          ]}
          onChange={(v) =>
            set(
              v === "whole" ? { range: null } : { range: { start: Math.round(last * 0.25), end: Math.round(last * 0.75) }, rampInFrames: 6, rampOutFrames: 6 },
            )
          }
        />
      </div>
      {patch.range && (
        <div className="flex items-center justify-between pb-1.5">
          <span>Ramps run</span>
          <Segmented
            small
            label="Ramps run"
            value={patch.rampShape}
            options={RAMP_SHAPES.map((v) => ({ value: v, label: v }))}
            onChange={(rampShape) => set({ rampShape })}
          />
        </div>
      )}
      {patch.range && (
        <div className="grid grid-cols-4 gap-1.5">
          {numbers.map((n) => (
            <label key={n.label} className="text-xs text-ink-soft">
              {n.label}
              <input
                type="number"
                min={0}
                max={last}
                className="figure w-full rounded-sm border border-line bg-sheet px-1 text-ink"
                key={n.value}
                defaultValue={n.value}
                onKeyDown={(event) => {
                  event.stopPropagation();
                  if (event.key === "Enter") event.currentTarget.blur();
                }}
                onBlur={(event) => {
                  const v = Math.max(0, Math.min(last, Math.round(Number(event.target.value))));
                  if (Number.isFinite(v) && v !== n.value) n.apply(v);
                }}
              />
            </label>
          ))}
        </div>
      )}
    </fieldset>
  );
}
