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

/**
 * Follows the pointer from a press until it is let go. `move` gets the way in frames since the press; `done` the last of them, or null when
 * Escape was pressed.
 */
export function dragFrames(event: React.PointerEvent, scale: TimeScale, move: (frames: number) => void, done: (frames: number | null) => void): void {
  event.preventDefault();
  event.stopPropagation();
  const startX = event.clientX;
  const per = scale.width / Math.max(1, scale.to - scale.from + 1);
  let frames = 0;
  const onMove = (e: PointerEvent) => {
    const next = Math.round((e.clientX - startX) / per);
    if (next !== frames) {
      frames = next;
      move(frames);
    }
  };
  const stop = (result: number | null) => {
    window.removeEventListener("pointermove", onMove);
    window.removeEventListener("pointerup", onUp);
    window.removeEventListener("keydown", onKey, true);
    done(result);
  };
  const onUp = () => stop(frames);
  const onKey = (e: KeyboardEvent) => {
    if (e.key === "Escape") {
      e.stopPropagation();
      stop(null);
    }
  };
  window.addEventListener("pointermove", onMove);
  window.addEventListener("pointerup", onUp);
  window.addEventListener("keydown", onKey, true);
}
