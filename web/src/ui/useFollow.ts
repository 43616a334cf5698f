import { useDrag } from "@use-gesture/react";
import { useEffect, useRef } from "react";

/** A press that is being followed, in pixels since it began. */
export interface Followed {
  readonly dx: number;
  readonly dy: number;
  /** Shift is held: fine */
  readonly fine: boolean;
  readonly clientX: number;
  readonly clientY: number;
}

/** What follows the pointer from a press until it is let go. */
export interface Follower {
  move(at: Followed): void;
  /** let go (`moved` tells a drag from a press), or given up: by Escape, or because the system took the pointer away */
  end(how: "done" | "given up", moved: boolean): void;
}

/**
 * Follows the pointer from a press on whatever `bind` is spread on: `begin` makes the follower, or null where this press is not to be followed. One
 * way for every handle of the page: it is followed wherever it goes and whatever becomes of the handle; a lost pointer and Escape give up.
 */
export function useFollow<A>(begin: (args: A, event: PointerEvent, at: Followed) => Follower | null): (args: A) => React.DOMAttributes<Element> {
  const held = useRef<{ follower: Follower; cancel: () => void } | null>(null);
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "Escape" || !held.current) return;
      event.stopPropagation();
      held.current.cancel();
    };
    // Selected text that is pressed would be dragged by the browser, and the pointer be gone.
    const keep = (event: Event) => {
      if (held.current) event.preventDefault();
    };
    window.addEventListener("keydown", onKey, true);
    window.addEventListener("dragstart", keep, true);
    window.addEventListener("selectstart", keep, true);
    return () => {
      window.removeEventListener("keydown", onKey, true);
      window.removeEventListener("dragstart", keep, true);
      window.removeEventListener("selectstart", keep, true);
    };
  }, []);
  const bind = useDrag(
    ({ args, first, last, canceled, movement: [dx, dy], xy: [clientX, clientY], event, cancel, shiftKey }) => {
      const at = { dx, dy, fine: shiftKey, clientX, clientY };
      if (first) {
        const follower = begin((args as [A])[0], event as PointerEvent, at);
        if (!follower) {
          cancel();
          return;
        }
        event.stopPropagation();
        held.current = { follower, cancel };
        return;
      }
      const now = held.current;
      if (!now) return;
      if (canceled || event.type === "pointercancel") {
        held.current = null;
        now.follower.end("given up", false);
      } else {
        if (dx !== 0 || dy !== 0) now.follower.move(at);
        if (last) {
          held.current = null;
          now.follower.end("done", dx !== 0 || dy !== 0);
        }
      }
    },
    { pointer: { keys: false, capture: false }, preventDefault: false, triggerAllEvents: false, threshold: 0 },
  );
  return bind as unknown as (args: A) => React.DOMAttributes<Element>;
}
