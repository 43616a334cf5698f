import { createContext, useContext } from "react";

/** How frames lie on the desk: first and last visible frame, and the width in pixels that they fill. */
export interface TimeScale {
  readonly from: number;
  readonly to: number;
  readonly width: number;
  /** left edge of a frame's column */
  x(frame: number): number;
  /** frame under a pixel, not rounded */
  frame(x: number): number;
}

export function makeScale(from: number, to: number, width: number): TimeScale {
  const per = width / Math.max(1, to - from + 1);
  return { from, to, width, x: (frame) => (frame - from) * per, frame: (x) => from + x / per };
}

export const ScaleContext = createContext<TimeScale>(makeScale(0, 1, 100));
export const useScale = (): TimeScale => useContext(ScaleContext);

/** Width of the names at the left of every row. */
export const NAMES = 190;
