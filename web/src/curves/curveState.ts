import type { Measure } from "@stride/motion";
import { create } from "zustand";
import type { BenchState } from "../state/bench.ts";
import type { CurveSpec } from "../worker/views.ts";

export type Axis = "x" | "y" | "z";

/** What the curve view shows, and what in it is picked. */
interface CurveState {
  readonly axes: Readonly<Record<Axis, boolean>>;
  readonly measures: readonly Measure[];
  /** the curve that tools act on, by its name among those shown */
  readonly active: string | null;
  /** moment of the picked key of the active curve, in the time of its layer */
  readonly key: number | null;
  /** a value that was copied off a curve */
  readonly copied: number | null;
  /** lowest and highest value shown; null fits */
  readonly window: readonly [number, number] | null;
}

export const useCurves = create<CurveState>(() => ({ axes: { x: true, y: true, z: true }, measures: [], active: null, key: null, copied: null, window: null }));

export interface ShownCurve {
  readonly id: string;
  readonly label: string;
  readonly spec: CurveSpec;
  readonly color: string;
  /** dashes keep curves apart without their colour */
  readonly dash: string | undefined;
}

const AXIS_COLOR: Readonly<Record<Axis, string>> = { x: "#c0392b", y: "#3f8f3a", z: "#2f62b5" };
const AXIS_DASH: Readonly<Record<Axis, string | undefined>> = { x: undefined, y: "7 3", z: "2 3" };

/** Angles of the parts selected (three at most), then what is measured. */
export function shownCurves(
  state: BenchState,
  curves: CurveState,
  labelOf: (joint: number) => string,
  labelMeasure: (measure: Measure) => string,
): ShownCurve[] {
  const angles = state.parts.slice(-3).flatMap((joint) =>
    (["x", "y", "z"] as const).flatMap((axis): ShownCurve[] =>
      curves.axes[axis]
        ? [
            {
              id: `angle:${joint}:${axis}`,
              label: `${labelOf(joint)} ${axis}`,
              spec: { kind: "angle", joint, axis },
              color: AXIS_COLOR[axis],
              dash: AXIS_DASH[axis],
            },
          ]
        : [],
    ),
  );
  const measured = curves.measures.map(
    (measure): ShownCurve => ({
      id: JSON.stringify(measure),
      label: labelMeasure(measure),
      spec: { kind: "measure", measure },
      color: "var(--ink)",
      dash: undefined,
    }),
  );
  return [...angles, ...measured];
}
