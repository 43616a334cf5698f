import { useFollow } from "../ui/useFollow.ts";
import { useScale } from "./scale.ts";

/** What a handle on the time desk does with whole frames since the press. */
export interface FrameDrag {
  /** when it is pressed */
  press?(): void;
  move(frames: number): void;
  /** let go with this many frames (0 for a mere press), or null when it was given up */
  end(frames: number | null): void;
}

/** Handles that are dragged along the time scale, in whole frames; spread `bind(drag)` on each. */
export function useFrameDrag(): (drag: FrameDrag) => React.DOMAttributes<Element> {
  const scale = useScale();
  return useFollow<FrameDrag>((drag) => {
    const per = scale.x(1) - scale.x(0);
    let frames = 0;
    drag.press?.();
    return {
      move: ({ dx }) => {
        const next = Math.round(dx / per);
        if (next === frames) return;
        frames = next;
        drag.move(frames);
      },
      end: (how) => drag.end(how === "done" ? frames : null),
    };
  });
}
