import { type ReactNode, type RefObject, useRef } from "react";
import { useVirtualRows } from "./useVirtualRows.ts";

interface VirtualListProps<T> {
  readonly items: readonly T[];
  /** what scrolls; other things may stand in it above and below the list */
  readonly scroller: RefObject<HTMLElement | null>;
  /** height that a row is taken to have until it is drawn, pixels */
  readonly rowHeight: number;
  /** rows that are drawn beyond what is in view */
  readonly beyond?: number;
  readonly className?: string;
  readonly rowClassName?: (item: T) => string;
  keyOf(item: T): string | number;
  /** `leaping`: the row comes into view by a leap of the list and may be gone at once */
  children(item: T, leaping: boolean): ReactNode;
}

/** A list of any length of which only the rows in view are in the page; rows may have heights of their own. */
export function VirtualList<T>({ items, scroller, rowHeight, beyond = 10, className, rowClassName, keyOf, children }: VirtualListProps<T>) {
  const list = useRef<HTMLUListElement>(null);
  const rows = useVirtualRows({ count: items.length, scroller, inside: list, rowHeight, beyond, keyOf: (index) => keyOf(items[index]) });
  return (
    <ul ref={list} className={className} style={{ paddingTop: rows.before, paddingBottom: rows.after }}>
      {rows.drawn.map(({ key, index }) => (
        <li key={key} ref={rows.measure} data-index={index} aria-setsize={items.length} aria-posinset={index + 1} className={rowClassName?.(items[index])}>
          {children(items[index], rows.leaping)}
        </li>
      ))}
    </ul>
  );
}
