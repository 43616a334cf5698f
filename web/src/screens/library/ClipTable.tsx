import type { ClipRow } from "@stride/server";
import { createColumnHelper, flexRender, getCoreRowModel, getSortedRowModel, useReactTable } from "@tanstack/react-table";
import { ArrowDown, ArrowUp } from "lucide-react";
import { type RefObject, useRef } from "react";
import { showSeconds } from "../../ui/figures.ts";
import { useVirtualRows } from "../../ui/useVirtualRows.ts";
import { clipSeconds, Verdict } from "./ClipCard.tsx";

const column = createColumnHelper<ClipRow>();
const columns = [
  column.accessor("name", { header: "Clip" }),
  column.accessor((c) => c.tags.join(", "), { id: "tags", header: "Tags" }),
  column.accessor((c) => clipSeconds(c), { id: "length", header: "Length", cell: (cell) => <span className="figure">{showSeconds(cell.getValue())}</span> }),
  column.accessor((c) => c.summary.fps, { id: "fps", header: "Rate", cell: (cell) => <span className="figure">{cell.getValue()} fps</span> }),
  column.accessor((c) => c.summary.joints, { id: "joints", header: "Joints", cell: (cell) => <span className="figure">{cell.getValue()}</span> }),
  column.accessor((c) => c.summary.slideWorstCm, {
    id: "slide",
    header: "Slide, worst",
    cell: (cell) => <span className="figure">{cell.getValue().toFixed(1)} cm</span>,
  }),
  column.accessor((c) => c.summary.findings, { id: "findings", header: "Worst finding", cell: (cell) => <Verdict clip={cell.row.original} /> }),
];

/** A row's height, pixels. */
const ROW = 33;

/** The library as a table, sortable by every column. */
export function ClipTable({ clips, scroller, onOpen }: { clips: ClipRow[]; scroller: RefObject<HTMLElement | null>; onOpen: (clip: ClipRow) => void }) {
  const table = useReactTable({ data: clips, columns, getCoreRowModel: getCoreRowModel(), getSortedRowModel: getSortedRowModel() });
  const { rows } = table.getRowModel();
  const body = useRef<HTMLTableSectionElement>(null);
  const shown = useVirtualRows({ count: rows.length, scroller, inside: body, rowHeight: ROW, beyond: 20, keyOf: (index) => rows[index].id });
  return (
    <table aria-rowcount={rows.length + 1} className="w-full border border-line bg-sheet">
      <thead>
        {table.getHeaderGroups().map((group) => (
          <tr key={group.id} className="border-b border-line text-left">
            {group.headers.map((header) => {
              const sorted = header.column.getIsSorted();
              return (
                <th key={header.id} className="px-3 py-2 font-semibold" aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none"}>
                  <button type="button" className="inline-flex items-center gap-1" onClick={header.column.getToggleSortingHandler()}>
                    {flexRender(header.column.columnDef.header, header.getContext())}
                    {sorted === "asc" && <ArrowUp size={12} />}
                    {sorted === "desc" && <ArrowDown size={12} />}
                  </button>
                </th>
              );
            })}
          </tr>
        ))}
      </thead>
      <tbody ref={body}>
        {shown.before > 0 && <tr style={{ height: shown.before }} />}
        {shown.drawn.map(({ index, key }) => (
          <tr key={key} ref={shown.measure} data-index={index} aria-rowindex={index + 2} className="border-b border-line hover:bg-cobalt-wash">
            {rows[index].getVisibleCells().map((cell, i) => (
              <td key={cell.id} className="max-w-80 truncate px-3 py-1.5">
                {i === 0 ? (
                  <button
                    type="button"
                    className="max-w-full truncate font-semibold underline-offset-2 hover:underline"
                    onClick={() => onOpen(rows[index].original)}
                  >
                    {rows[index].original.name}
                  </button>
                ) : (
                  flexRender(cell.column.columnDef.cell, cell.getContext())
                )}
              </td>
            ))}
          </tr>
        ))}
        {shown.after > 0 && <tr style={{ height: shown.after }} />}
      </tbody>
    </table>
  );
}
