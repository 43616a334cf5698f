import type { ComponentType } from "react";
import { ClipField } from "./ClipField.tsx";
import type { FieldEditorProps } from "./drawnField.ts";
import { GroundShapesField } from "./GroundShapesField.tsx";
import { HandShapesField } from "./HandShapesField.tsx";
import { HoldsOfPatch } from "./HoldListField.tsx";
import { KeyListField } from "./KeyListField.tsx";
import { OnePartField, PartsField } from "./PartListField.tsx";

interface FieldEditor {
  readonly Editor: ComponentType<FieldEditorProps>;
  /** are all of a kind's fields of this sort drawn by one editor, where the first of them stands? */
  readonly together?: boolean;
}

/** Editors by the mark that a schema carries in its meta data (`field`); lists of such values have "[]" behind it. */
export const FIELD_EDITORS: Readonly<Record<string, FieldEditor>> = {
  part: { Editor: OnePartField },
  "part[]": { Editor: PartsField },
  "hold[]": { Editor: HoldsOfPatch },
  "key[]": { Editor: KeyListField },
  "groundShape[]": { Editor: GroundShapesField },
  clip: { Editor: ClipField },
  handShape: { Editor: HandShapesField, together: true },
};
