import { type ReactNode, useState } from "react";
import { SHELF_DATA } from "./shelf.ts";
import { takeOrTell, useShelf } from "./useShelf.ts";

/** A place that takes things of the shelf; `frameAt` says which frame of the result a point of the window means. */
export function ShelfDrop({ frameAt, className, children }: { frameAt: (x: number) => number; className: string; children: ReactNode }) {
  const [over, setOver] = useState(false);
  const items = useShelf();
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: what is dragged here can be used by keyboard from the shelf itself
    <div
      className={`${className} ${over ? "outline-2 -outline-offset-2 outline-cobalt" : ""}`}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes(SHELF_DATA)) return;
        event.preventDefault();
        event.dataTransfer.dropEffect = "copy";
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        setOver(false);
        const item = items.find((i) => i.id === event.dataTransfer.getData(SHELF_DATA));
        if (!item) return;
        event.preventDefault();
        takeOrTell(item, frameAt(event.clientX));
      }}
    >
      {children}
    </div>
  );
}
