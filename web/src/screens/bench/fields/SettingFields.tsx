import { type AnyPatchKind, type FieldHint, frameOf, type Patch } from "@stride/motion";
import { z } from "zod";
import { change, preview, useBench, withSetting } from "../../../state/bench.ts";
import { lastFrameOf } from "../../../state/times.ts";
import { Button } from "../../../ui/Button.tsx";
import { Segmented } from "../../../ui/Segmented.tsx";
import { SliderRow } from "../../../ui/SliderRow.tsx";
import type { DrawnField } from "./drawnField.ts";
import { FIELD_EDITORS } from "./fieldEditors.ts";

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

/** The mark under which `FIELD_EDITORS` has an editor for a field, if its schema carries one. */
function markOf(schema: FieldSchema): string | undefined {
  const { field, items } = present(schema);
  return items?.field ? `${items.field}[]` : field;
}

/** What stands for a choice that is left empty. */
const UNSET = "unset";

/** What is said of each kind's fields, worked out once. */
const DESCRIBED = new WeakMap<AnyPatchKind, Readonly<Record<string, FieldSchema>>>();

function describedFields(kind: AnyPatchKind): Readonly<Record<string, FieldSchema>> {
  const known = DESCRIBED.get(kind) ?? (z.toJSONSchema(kind.schema) as { properties?: Record<string, FieldSchema> }).properties ?? {};
  DESCRIBED.set(kind, known);
  return known;
}

/** Looks at the kinds' fields while nobody waits, so that the first patch of each opens at once. */
export function describeFieldsWhenIdle(kinds: readonly AnyPatchKind[]): () => void {
  const left = [...kinds];
  let request = requestIdleCallback(function next() {
    const kind = left.pop();
    if (!kind) return;
    describedFields(kind);
    request = requestIdleCallback(next);
  });
  return () => cancelIdleCallback(request);
}

/** A schema without its "or null". */
function present(schema: FieldSchema): FieldSchema {
  return schema.anyOf?.find((f) => f.type !== "null") ?? schema;
}

/**
 * A control per field, from the schema's own description of it: numbers with ends are sliders (moments in frames), choices are segments,
 * switches are switches; what carries a mark has the editor of that mark.
 */
export function SettingFields({ patch, kind }: { patch: Patch; kind: AnyPatchKind }) {
  const described = describedFields(kind);
  const shown = Object.entries(kind.fields).filter(([, { onlyWhen, onlyWithRange }]) => {
    if (onlyWithRange && patch.range === null) return false;
    if (!onlyWhen) return true;
    const value = patch.settings[onlyWhen.setting] ?? kind.defaults[onlyWhen.setting];
    return "is" in onlyWhen ? value === onlyWhen.is : value !== onlyWhen.isNot;
  });
  const drawn = ([name, hint]: [string, FieldHint]): DrawnField => ({
    name,
    hint,
    value: patch.settings[name] === undefined ? kind.defaults[name] : patch.settings[name],
    show: (value) => preview((d) => withSetting(d, patch.id, name, value)),
    set: (value, label = `${hint.label} of ${patch.name}`) => change(label, (d) => withSetting(d, patch.id, name, value)),
    written: (d, value) => withSetting(d, patch.id, name, value),
  });
  return (
    <div>
      {shown.map(([name, hint], i) => {
        const mark = markOf(described[name] ?? {});
        const editor = mark === undefined ? undefined : FIELD_EDITORS[mark];
        if (!editor) return <SettingField key={name} patch={patch} field={drawn([name, hint])} schema={described[name] ?? {}} />;
        const alike = shown.filter(([other]) => markOf(described[other] ?? {}) === mark);
        if (editor.together && alike[0][0] !== shown[i][0]) return null;
        return <editor.Editor key={name} patch={patch} fields={(editor.together ? alike : [shown[i]]).map(drawn)} />;
      })}
    </div>
  );
}

function SettingField({ patch, field: { hint, value, show, set }, schema }: { patch: Patch; field: DrawnField; schema: FieldSchema }) {
  const clocks = useBench((s) => s.clocks);
  const field = present(schema);
  if (field.enum) {
    return (
      <div className="flex flex-wrap items-center justify-between gap-x-2 py-1.5" title={hint.help}>
        <span>{hint.label}</span>
        <Segmented
          small
          label={hint.label}
          value={value === null ? UNSET : String(value)}
          options={[...(hint.unset ? [{ value: UNSET, label: hint.unset }] : []), ...field.enum.map((v) => ({ value: v, label: hint.choices?.[v] ?? v }))]}
          onChange={(v) => set(v === UNSET ? null : v)}
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
  if (value === null && hint.unset) {
    return (
      <div className="flex items-center justify-between gap-2 py-1.5" title={hint.help}>
        <span>{hint.label}</span>
        <span className="flex items-center gap-2 text-ink-soft">
          {hint.unset}
          <Button className="h-6!" aria-label={`Set ${hint.label.toLowerCase()}`} onClick={() => set(inFrames ? Math.round(clocks.fps / 3) / clocks.fps : 1)}>
            Set
          </Button>
        </span>
      </div>
    );
  }
  const stored = (v: number) => (inFrames ? Math.round(v) / clocks.fps : clean(v / factor, field.type));
  return (
    <>
      <SliderRow
        label={hint.label}
        unit={hint.unit}
        help={hint.help}
        value={shown}
        min={inFrames ? 0 : (field.minimum ?? 0) * factor}
        max={Math.max(max, shown)}
        step={inFrames ? 1 : (hint.step ?? 1) * factor}
        onMove={(v) => show(stored(v))}
        onCommit={(v) => set(stored(v))}
      />
      {hint.unset && (
        <button type="button" className="mb-1 text-xs text-ink-soft underline hover:text-ink" onClick={() => set(null)}>
          {hint.label}: {hint.unset}
        </button>
      )}
    </>
  );
}

function clean(value: number, type: string | undefined): number {
  return type === "integer" ? Math.round(value) : Math.round(value * 1e6) / 1e6;
}
