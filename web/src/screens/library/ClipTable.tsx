import type { ClipRow } from "@stride/server";
import { createColumnHelper, flexRender, getCoreRowModel, getSortedRowModel, useReactTable } from "@tanstack/react-table";
import { ArrowDown, ArrowUp } from "lucide-react";
import { showSeconds } from "../../ui/figures.ts";
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

/** The library as a table, sortable by every column. */
export function ClipTable({ clips, onOpen }: { clips: ClipRow[]; onOpen: (clip: ClipRow) => void }) {
  const table = useReactTable({ data: clips, columns, getCoreRowModel: getCoreRowModel(), getSortedRowModel: getSortedRowModel() });
  return (
    <table className="w-full border border-line bg-sheet">
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
      <tbody>
        {table.getRowModel().rows.map((row) => (
          <tr key={row.id} className="border-b border-line hover:bg-cobalt-wash">
            {row.getVisibleCells().map((cell, i) => (
              <td key={cell.id} className="max-w-80 truncate px-3 py-1.5">
                {i === 0 ? (
                  <button type="button" className="max-w-full truncate font-semibold underline-offset-2 hover:underline" onClick={() => onOpen(row.original)}>
                    {row.original.name}
                  </button>
                ) : (
                  flexRender(cell.column.columnDef.cell, cell.getContext())
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
