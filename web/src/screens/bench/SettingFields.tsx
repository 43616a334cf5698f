import { type AnyPatchKind, type FieldHint, frameOf, type PartRef, type Patch, partName } from "@stride/motion";
import { useMemo } from "react";
import { z } from "zod";
import { change, preview, useBench, withSetting } from "../../state/bench.ts";
import { lastFrameOf } from "../../state/times.ts";
import { Segmented } from "../../ui/Segmented.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";
import { PartListField } from "./PartListField.tsx";

/** What a schema says of a field, as JSON Schema tells it; `field` and `moment` are the marks of our own schemas. */
interface FieldSchema {
  readonly type?: string;
  readonly enum?: readonly string[];
  readonly minimum?: number;
  readonly maximum?: number;
  readonly anyOf?: readonly FieldSchema[];
  readonly items?: FieldSchema;
  readonly field?: string;
  readonly moment?: boolean;
}

/** A control per field, from the schema's own description of it: numbers with ends are sliders (moments in frames), choices are segments, switches are switches, parts and lists of parts are picked on the body. */
export function SettingFields({ patch, kind }: { patch: Patch; kind: AnyPatchKind }) {
  const described = useMemo(() => (z.toJSONSchema(kind.schema) as { properties?: Record<string, FieldSchema> }).properties ?? {}, [kind]);
  return (
    <div>
      {Object.entries(kind.fields).map(([key, hint]) => {
        const { onlyWhen } = hint;
        if (hint.onlyWithRange && patch.range === null) return null;
        if (onlyWhen && (patch.settings[onlyWhen.setting] ?? kind.defaults[onlyWhen.setting]) !== onlyWhen.is) return null;
        return <SettingField key={key} patch={patch} name={key} hint={hint} schema={described[key] ?? {}} standard={kind.defaults[key]} />;
      })}
    </div>
  );
}

interface SettingFieldProps {
  readonly patch: Patch;
  readonly name: string;
  readonly hint: FieldHint;
  readonly schema: FieldSchema;
  readonly standard: unknown;
}

function SettingField({ patch, name, hint, schema, standard }: SettingFieldProps) {
  const clocks = useBench((s) => s.clocks);
  const field = schema.anyOf?.find((f) => f.type !== "null") ?? schema;
  const value = patch.settings[name] ?? standard;
  const label = `${hint.label} of ${patch.name}`;
  const set = (next: unknown) => change(label, (d) => withSetting(d, patch.id, name, next));
  if (field.type === "array" && field.items?.field === "part") {
    return <PartListField label={hint.label} help={hint.help} parts={value as readonly PartRef[]} nameOf={partName} onChange={set} />;
  }
  if (field.field === "part") {
    const one = value ? [value as PartRef] : [];
    return <PartListField label={hint.label} help={hint.help} parts={one} nameOf={partName} onChange={(parts) => set(parts.at(-1) ?? null)} />;
  }
  if (field.enum) {
    return (
      <div className="flex flex-wrap items-center justify-between gap-x-2 py-1.5" title={hint.help}>
        <span>{hint.label}</span>
        <Segmented
          small
          label={hint.label}
          value={String(value)}
          options={field.enum.map((v) => ({ value: v, label: hint.choices?.[v] ?? v }))}
          onChange={set}
        />
      </div>
    );
  }
  if (field.type === "boolean") {
    return (
      <label className="flex items-center justify-between gap-2 py-1.5" title={hint.help}>
        <span>{hint.label}</span>
        <input type="checkbox" className="size-4 accent-[var(--ink)]" checked={value === true} onChange={(event) => set(event.target.checked)} />
      </label>
    );
  }
  // Seconds are shown in frames where people count in them: moments of what the patch receives, and lengths of time.
  const inFrames = hint.inFrames || field.moment === true;
  const factor = inFrames ? clocks.fps : (hint.factor ?? 1);
  const end = lastFrameOf(clocks, patch.id);
  const most = (field.maximum ?? Number.POSITIVE_INFINITY) * factor;
  const max = inFrames ? Math.min(end, Math.floor(most + 1e-6)) : Math.min(most, Number.MAX_SAFE_INTEGER);
  const shown = value === null ? max : inFrames ? frameOf(Number(value), clocks.fps) : Number(value) * factor;
  const stored = (v: number) => (inFrames ? Math.round(v) / clocks.fps : clean(v / factor, field.type));
  return (
    <SliderRow
      label={hint.label}
      unit={hint.unit}
      help={hint.help}
      value={shown}
      min={(field.minimum ?? 0) * factor}
      max={Math.max(max, shown)}
      step={inFrames ? 1 : (hint.step ?? 1) * factor}
      onMove={(v) => preview((d) => withSetting(d, patch.id, name, stored(v)))}
      onCommit={(v) => set(stored(v))}
    />
  );
}

function clean(value: number, type: string | undefined): number {
  return type === "integer" ? Math.round(value) : Math.round(value * 1e6) / 1e6;
}
