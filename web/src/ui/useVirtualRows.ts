import { useVirtualizer, type VirtualItem } from "@tanstack/react-virtual";
import { type RefObject, useEffect, useLayoutEffect, useRef, useState } from "react";

interface VirtualRowsOptions {
  readonly count: number;
  /** what scrolls; other things may stand in it above and below the rows */
  readonly scroller: RefObject<HTMLElement | null>;
  /** what the rows stand in */
  readonly inside: RefObject<HTMLElement | null>;
  /** height that a row is taken to have until it is drawn, pixels */
  readonly rowHeight: number;
  /** rows that are drawn beyond what is in view */
  readonly beyond: number;
  keyOf(index: number): string | number;
}

/** Which of many rows are in view, and how much room the others take before and after them. `measure` goes on each row as its ref. */
export function useVirtualRows({ count, scroller, inside, rowHeight, beyond, keyOf }: VirtualRowsOptions): {
  readonly drawn: readonly VirtualItem[];
  readonly before: number;
  readonly after: number;
  readonly measure: (element: Element | null) => void;
  /** the list was moved by more than half of what is in view since it was last drawn: what comes into view now may be gone at once */
  readonly leaping: boolean;
} {
  const [above, setAbove] = useState(0);
  // What scrolls is known only once the whole screen stands: its own effects come after those of what is inside it.
  const [, setStands] = useState(false);
  useEffect(() => setStands(true), []);
  // What stands above the rows may come and go. Asked at once that would have the whole page laid out in the middle of a change; before it is painted it is laid out in any case.
  const standing = useRef(false);
  useLayoutEffect(() => {
    const measure = () => {
      const [outer, inner] = [scroller.current, inside.current];
      if (!outer || !inner) return;
      standing.current = true;
      const top = Math.round(inner.getBoundingClientRect().top - outer.getBoundingClientRect().top + outer.scrollTop);
      if (top !== above) setAbove(top);
    };
    if (!standing.current) {
      measure();
      return;
    }
    const request = requestAnimationFrame(measure);
    return () => cancelAnimationFrame(request);
  });
  const rows = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    getItemKey: keyOf,
    overscan: beyond,
    scrollMargin: above,
  });
  const offset = rows.scrollOffset ?? 0;
  const drawnAt = useRef(offset);
  const leaping = Math.abs(offset - drawnAt.current) > (rows.scrollRect?.height ?? Number.POSITIVE_INFINITY) / 2;
  useLayoutEffect(() => {
    drawnAt.current = offset;
  }, [offset]);
  const drawn = rows.getVirtualItems();
  const last = drawn.at(-1);
  return {
    drawn,
    before: drawn.length > 0 ? Math.max(0, drawn[0].start - above) : 0,
    after: Math.max(0, rows.getTotalSize() - (last ? last.end - above : 0)),
    measure: rows.measureElement,
    leaping,
  };
}
