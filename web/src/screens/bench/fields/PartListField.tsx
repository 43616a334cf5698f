import { type PartRef, partKey, partOf } from "@stride/motion";
import { useBench } from "../../../state/bench.ts";
import { partName } from "../../../state/partWords.ts";
import { Button } from "../../../ui/Button.tsx";
import type { FieldEditorProps } from "./drawnField.ts";

interface PartListFieldProps {
  readonly label: string;
  readonly help?: string;
  readonly parts: readonly PartRef[];
  nameOf(part: PartRef): string;
  onChange(parts: PartRef[]): void;
}

/** A list of parts: those selected on the body are taken over, or none. */
export function PartListField({ label, help, parts, nameOf, onChange }: PartListFieldProps) {
  const selected = useBench((s) => s.parts);
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  if (!opened || !body) return null;
  const names = parts.map(nameOf).join(", ");
  return (
    <div className="flex items-center justify-between gap-1 py-1" title={help}>
      <span className="min-w-0 truncate" title={names}>
        {label}: {parts.length === 0 ? "none" : names}
      </span>
      <span className="flex gap-1">
        <Button
          className="h-6! px-2! text-xs"
          disabled={selected.length === 0}
          onClick={() => {
            const taken = selected.map((joint) => partOf({ skeleton: opened.skeleton, body }, joint));
            onChange([...new Map(taken.map((part) => [partKey(part), part])).values()]);
          }}
        >
          Take selected
        </Button>
        <Button className="h-6! px-2! text-xs" disabled={parts.length === 0} onClick={() => onChange([])}>
          None
        </Button>
      </span>
    </div>
  );
}

/** A field that holds parts. */
export function PartsField({ fields: [field] }: FieldEditorProps) {
  const { label, help } = field.hint;
  return <PartListField label={label} help={help} parts={field.value as readonly PartRef[]} nameOf={partName} onChange={(list) => field.set(list)} />;
}

/** A field that holds one part, or none. */
export function OnePartField({ fields: [field] }: FieldEditorProps) {
  const { label, help } = field.hint;
  const parts = field.value ? [field.value as PartRef] : [];
  return <PartListField label={label} help={help} parts={parts} nameOf={partName} onChange={(list) => field.set(list.at(-1) ?? null)} />;
}
