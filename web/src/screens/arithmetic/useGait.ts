import { useEffect, useState } from "react";
import { useBench } from "../../state/bench.ts";
import { askWorker } from "../../state/session.ts";
import type { GaitView } from "../../worker/views.ts";

/** The gait of the source and of the result, measured anew with every motion; null until it is. */
export function useGait(): GaitView | null {
  const after = useBench((s) => s.after);
  const [gait, setGait] = useState<GaitView | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: measured anew with every motion
  useEffect(() => {
    let stale = false;
    void askWorker((w) => w.gait()).then(
      (view) => {
        if (!stale) setGait(view);
      },
      () => {},
    );
    return () => {
      stale = true;
    };
  }, [after]);
  return gait;
}
