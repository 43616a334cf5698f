import { change, shownDoc, useBench } from "../../state/bench.ts";
import { currentHolds, holdingPatch, setHolds } from "../../state/posing.ts";
import { HoldListField } from "./fields/HoldListField.tsx";

/** Holds of the patch that the next edit goes into, or those that wait for a new one. */
export function HoldsField() {
  const holds = useBench((s) => currentHolds(s, shownDoc(s)));
  const patchId = useBench((s) => holdingPatch(s, shownDoc(s))?.id ?? null);
  return <HoldListField patchId={patchId} holds={holds} set={(label, make) => setHolds(label, make, change)} />;
}
