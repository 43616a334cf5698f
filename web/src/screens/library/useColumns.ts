import { type RefObject, useLayoutEffect, useState } from "react";

/** Narrowest card, the gap between two, what is left free on both sides, pixels. */
const CARD_WIDTH = 380;
const CARD_GAP = 14;
const CARD_MARGINS = 36;

/** How many cards stand side by side in what scrolls. */
export function useColumns(scroller: RefObject<HTMLElement | null>): number {
  const [columns, setColumns] = useState(2);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const count = () => setColumns(Math.max(1, Math.floor((element.clientWidth - CARD_MARGINS + CARD_GAP) / (CARD_WIDTH + CARD_GAP))));
    count();
    const observer = new ResizeObserver(count);
    observer.observe(element);
    return () => observer.disconnect();
  }, [scroller]);
  return columns;
}
