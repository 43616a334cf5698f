import type { SourceRef } from "@stride/motion";
import { ClipChooser } from "../../../timedesk/ClipChooser.tsx";
import type { FieldEditorProps } from "./drawnField.ts";

/** A clip of the library that a patch draws on. */
export function ClipField({ patch, fields: [field] }: FieldEditorProps) {
  return (
    <ClipChooser label={field.hint.label} value={field.value as SourceRef | null} onChoose={(ref) => field.set(ref, `${field.hint.label} of ${patch.name}`)} />
  );
}
