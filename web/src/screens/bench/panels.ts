import type { Patch } from "@stride/motion";
import type { ComponentType } from "react";
import { AmplitudeFields } from "./AmplitudeFields.tsx";
import { CastFields } from "./CastFields.tsx";
import { JoinFields } from "./JoinFields.tsx";
import { LayerFields } from "./LayerFields.tsx";
import { LivePlantField } from "./LivePlantField.tsx";
import { LoopFields } from "./LoopFields.tsx";
import { MirrorFields } from "./MirrorFields.tsx";
import { MixFields } from "./MixFields.tsx";
import { RetimeFields } from "./RetimeFields.tsx";
import { SettleFields } from "./SettleFields.tsx";
import { TravelFields } from "./TravelFields.tsx";

/** Panels of kinds for which the fields drawn from their schema do not do: one line a kind, drawn under those fields. */
export const PANELS: Readonly<Record<string, ComponentType<{ readonly patch: Patch }>>> = {
  plant: LivePlantField,
  layer: LayerFields,
  amplitude: AmplitudeFields,
  retime: RetimeFields,
  loop: LoopFields,
  mirror: MirrorFields,
  travel: TravelFields,
  mix: MixFields,
  join: JoinFields,
  settle: SettleFields,
  cast: CastFields,
};
