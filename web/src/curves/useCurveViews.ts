import { findPart, jointLabels, type Measure, measureLabel, type Parts } from "@stride/motion";
import { useEffect, useMemo, useState } from "react";
import { useBench } from "../state/bench.ts";
import { partName } from "../state/partWords.ts";
import { askWorker } from "../state/session.ts";
import type { CurveView } from "../worker/views.ts";
import { type ShownCurve, shownCurves, useCurves } from "./curveState.ts";

/** The curves that are chosen, with their values as they stand; those still being read have none. */
export function useCurveViews(): {
  curves: readonly ShownCurve[];
  views: ReadonlyMap<string, CurveView>;
  labelOf: (joint: number) => string;
  parts: Parts | null;
} {
  const state = useBench();
  const chosen = useCurves();
  const { opened, body, after } = state;
  const parts = useMemo(() => (opened && body ? { skeleton: opened.skeleton, body } : null), [opened, body]);
  const labels = useMemo(() => (opened && body ? jointLabels(body, opened.skeleton.names) : []), [opened, body]);
  const labelOf = (joint: number) => labels[joint] ?? "";
  const labelMeasure = (m: Measure) => measureLabel(m, (part) => labels[(parts && findPart(parts, part)) ?? -1] ?? partName(part));
  const curves = shownCurves(state, chosen, labelOf, labelMeasure);
  const key = curves.map((c) => c.id).join("|");
  const [views, setViews] = useState<{ key: string; map: ReadonlyMap<string, CurveView> }>({ key: "", map: new Map() });
  // biome-ignore lint/correctness/useExhaustiveDependencies: read anew when the motion, the layer or the choice changes
  useEffect(() => {
    if (!after || curves.length === 0) return;
    let stale = false;
    const specs = curves.map((c) => c.spec);
    void askWorker((w) => w.curves(specs)).then(
      (list) => {
        if (!stale) setViews({ key, map: new Map(curves.map((c, i) => [c.id, list[i]])) });
      },
      // A worker that died is told of elsewhere; the curves stay as they are until it answers again.
      () => {},
    );
    return () => {
      stale = true;
    };
  }, [after, key]);
  return { curves, views: views.map, labelOf, parts };
}
