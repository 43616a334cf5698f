import type { ClipOrder, ListedClip } from "@stride/server";
import { createColumnHelper, flexRender, getCoreRowModel, useReactTable } from "@tanstack/react-table";
import { ArrowDown, ArrowUp } from "lucide-react";
import { type RefObject, useMemo, useRef } from "react";
import { showSeconds } from "../../ui/figures.ts";
import { useVirtualRows } from "../../ui/useVirtualRows.ts";
import { clipSeconds, PickBox, Verdict } from "./ClipCard.tsx";
import { type ClipActions, ClipMenu } from "./ClipMenu.tsx";

/** How the table is sorted: by the server, since only some of its rows are here. */
export interface ClipSorting {
  readonly order: ClipOrder;
  readonly down: boolean;
}

const column = createColumnHelper<ListedClip>();
const columns = [
  column.accessor("name", { id: "name", header: "Clip" }),
  column.accessor((c) => c.tags.join(", "), { id: "character", header: "Tags" }),
  column.accessor((c) => c.folder, { id: "folder", header: "Folder" }),
  column.accessor((c) => clipSeconds(c), { id: "length", header: "Length", cell: (cell) => <span className="figure">{showSeconds(cell.getValue())}</span> }),
  column.accessor((c) => c.summary.fps, { id: "rate", header: "Rate", cell: (cell) => <span className="figure">{cell.getValue()} fps</span> }),
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

interface ClipTableProps {
  readonly clips: readonly ListedClip[];
  /** how many there are in all */
  readonly total: number;
  readonly sorting: ClipSorting;
  readonly onSort: (sorting: ClipSorting) => void;
  readonly scroller: RefObject<HTMLElement | null>;
  readonly actions: ClipActions;
  readonly picked: ReadonlySet<string>;
  readonly onPick: (id: string, through: boolean) => void;
}

/** The library as a table, sortable by every column. Columns bear the names of the library's own orders. */
export function ClipTable({ clips, total, sorting, onSort, scroller, actions, picked, onPick }: ClipTableProps) {
  const data = useMemo(() => [...clips], [clips]);
  const table = useReactTable({ data, columns, getCoreRowModel: getCoreRowModel(), manualSorting: true });
  const { rows } = table.getRowModel();
  const body = useRef<HTMLTableSectionElement>(null);
  const shown = useVirtualRows({ count: rows.length, scroller, inside: body, rowHeight: ROW, beyond: 20, keyOf: (index) => rows[index].id });
  return (
    <table aria-rowcount={total + 1} className="w-full border border-line bg-sheet">
      <thead>
        {table.getHeaderGroups().map((group) => (
          <tr key={group.id} className="border-b border-line text-left">
            <th className="w-8 px-3">
              <span className="sr-only">Picked</span>
            </th>
            {group.headers.map((header) => {
              const sorted = sorting.order === header.column.id ? (sorting.down ? "desc" : "asc") : null;
              return (
                <th key={header.id} className="px-3 py-2 font-semibold" aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none"}>
                  <button
                    type="button"
                    className="inline-flex items-center gap-1"
                    onClick={() =>
                      onSort({
                        order: header.column.id as ClipOrder,
                        down: sorted === null ? !["name", "character", "folder"].includes(header.column.id) : sorted === "asc",
                      })
                    }
                  >
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
          <tr
            key={key}
            ref={shown.measure}
            data-index={index}
            aria-rowindex={index + 2}
            className={`border-b border-line hover:bg-cobalt-wash ${picked.has(rows[index].original.id) ? "bg-cobalt-wash" : ""}`}
          >
            <td className="px-3">
              <PickBox
                name={rows[index].original.name}
                picked={picked.has(rows[index].original.id)}
                onPick={(through) => onPick(rows[index].original.id, through)}
              />
            </td>
            {rows[index].getVisibleCells().map((cell, i) => (
              <td key={cell.id} className="max-w-64 truncate px-3 py-1.5">
                {i === 0 ? (
                  <button
                    type="button"
                    id={`clip-${rows[index].original.id}`}
                    className="max-w-full truncate font-semibold underline-offset-2 hover:underline"
                    onClick={() => actions.open(rows[index].original)}
                  >
                    {rows[index].original.name}
                  </button>
                ) : (
                  flexRender(cell.column.columnDef.cell, cell.getContext())
                )}
              </td>
            ))}
            <td className="pr-2 text-right">
              <ClipMenu clip={rows[index].original} actions={actions} describedBy={`clip-${rows[index].original.id}`} />
            </td>
          </tr>
        ))}
        {shown.after > 0 && <tr style={{ height: shown.after }} />}
      </tbody>
    </table>
  );
}
