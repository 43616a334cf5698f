import type { FieldHint, Patch, Work } from "@stride/motion";

/** A field of a patch's settings as an editor sees it. */
export interface DrawnField {
  readonly name: string;
  readonly hint: FieldHint;
  readonly value: unknown;
  /** shows a value without writing it */
  show(value: unknown): void;
  /** writes a value, as one step of the history */
  set(value: unknown, label?: string): void;
  /** the document with a value written, for changes of several fields at once */
  written(doc: Work, value: unknown): Work;
}

export interface FieldEditorProps {
  readonly patch: Patch;
  readonly fields: readonly DrawnField[];
}
