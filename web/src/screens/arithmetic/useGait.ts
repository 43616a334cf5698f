import { useAsked } from "../../state/useAsked.ts";
import type { GaitView } from "../../worker/views.ts";

/** The gait of the source and of the result, measured anew with every motion; null until it is. */
export function useGait(): GaitView | null {
  return useAsked((w) => w.gait(), "gait");
}
