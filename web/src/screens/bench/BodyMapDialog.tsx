import { type BodyGuess, formatToRead, ROLES, type Role, roleLabel } from "@stride/motion";
import { createColumnHelper, flexRender, getCoreRowModel, useReactTable } from "@tanstack/react-table";
import { useMemo, useState } from "react";
import { toast } from "sonner";
import { changeReading } from "../../api/client.ts";
import { change, useBench } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { SkeletonDrawing } from "./SkeletonDrawing.tsx";

const column = createColumnHelper<BodyGuess>();

/** Of the source's body. */
function label(role: Role): string {
  const { sourceBody, body } = useBench.getState();
  return roleLabel(role, (sourceBody?.character.body ?? body)?.plan);
}

/** Which joint is which part: every guess with its reason and confidence, each changeable; the skeleton beside it shows the row under the pointer. */
export function BodyMapDialog({ open, onClose, onReread }: { open: boolean; onClose: () => void; onReread: () => void }) {
  // Of the source: what it is cast onto has a map of its own.
  const sourceBody = useBench((s) => s.sourceBody);
  const resultBody = useBench((s) => s.body);
  const body = sourceBody?.character.body ?? resultBody;
  const opened = useBench((s) => s.opened);
  const overrides = useBench((s) => s.doc.body);
  const [shown, setShown] = useState<number | null>(null);
  const [adding, setAdding] = useState("");
  const guesses = useMemo(() => [...(body?.guesses ?? [])].sort((a, b) => ROLES.indexOf(a.role) - ROLES.indexOf(b.role)), [body]);
  const skeleton = (sourceBody ?? opened)?.skeleton;
  const names = skeleton?.names ?? [];
  const columns = useMemo(
    () => [
      column.accessor((g) => label(g.role), { id: "part", header: "Part" }),
      column.accessor("joint", {
        header: "Joint",
        cell: ({ row: { original: g } }) => (
          <select
            aria-label={`Joint of ${label(g.role)}`}
            value={names[g.joint]}
            onChange={(event) => set(g.role, event.target.value === "" ? null : event.target.value)}
            className="h-6.5 w-40 rounded-sm border border-line bg-sheet px-1"
          >
            <option value="">— no such part —</option>
            {names.map((name, i) => (
              <option key={i} value={name}>
                {name}
              </option>
            ))}
          </select>
        ),
      }),
      column.accessor("confidence", {
        header: "Sure",
        cell: (cell) => <span className={`figure ${cell.getValue() < 0.7 ? "text-coral-ink" : "text-moss-ink"}`}>{Math.round(cell.getValue() * 100)} %</span>,
      }),
      column.accessor("reason", { header: "Why", cell: (cell) => <span className="text-ink-soft">{cell.getValue()}</span> }),
    ],
    [names],
  );
  const table = useReactTable({ data: guesses, columns, getCoreRowModel: getCoreRowModel() });
  const missing = ROLES.filter((role) => !guesses.some((g) => g.role === role));
  return (
    <Dialog
      open={open}
      onClose={onClose}
      wide
      title="Body map"
      description={`Which joint is which part. Read as a ${body?.plan ?? "body"} with ${guesses.length} known parts out of ${names.length} joints.`}
    >
      <div className="grid h-[60vh] grid-cols-[1fr_280px] gap-4">
        {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a long table must scroll by keyboard */}
        <section className="overflow-y-auto border border-line" tabIndex={0} aria-label="Parts and joints">
          <table className="w-full">
            <thead className="sticky top-0 z-10 bg-sheet">
              {table.getHeaderGroups().map((group) => (
                <tr key={group.id} className="border-b border-line text-left">
                  {group.headers.map((header) => (
                    <th key={header.id} className="px-2 py-1 font-semibold">
                      {flexRender(header.column.columnDef.header, header.getContext())}
                    </th>
                  ))}
                </tr>
              ))}
            </thead>
            <tbody>
              {table.getRowModel().rows.map((row) => (
                <tr
                  key={row.id}
                  className="border-b border-line/60 hover:bg-cobalt-wash"
                  onPointerEnter={() => setShown(row.original.joint)}
                  onFocus={() => setShown(row.original.joint)}
                >
                  {row.getVisibleCells().map((cell) => (
                    <td key={cell.id} className="px-2 py-0.5 align-middle">
                      {flexRender(cell.column.columnDef.cell, cell.getContext())}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <div className="flex flex-col gap-3 overflow-y-auto">
          <div className="min-h-0 flex-1 rounded-sm border border-line bg-stage">
            {skeleton && body && <SkeletonDrawing skeleton={skeleton} body={body} joint={shown} />}
          </div>
          <label className="flex items-center gap-2">
            <span className="shrink-0">Name a part</span>
            <select
              value={adding}
              onChange={(event) => setAdding(event.target.value)}
              className="h-7 min-w-0 flex-1 rounded-sm border border-line bg-sheet px-1"
            >
              <option value="">choose…</option>
              {missing.map((role) => (
                <option key={role} value={role}>
                  {label(role)}
                </option>
              ))}
            </select>
            <Button
              className="h-7!"
              disabled={adding === ""}
              onClick={() => {
                set(adding as Role, names[0]);
                setAdding("");
              }}
            >
              Add
            </Button>
          </label>
          <ReadingFields onReread={onReread} />
          <Button disabled={Object.keys(overrides).length === 0} onClick={() => change("Body map as found", (d) => ({ ...d, body: {} }))}>
            Back to what was found
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

/** One correction of the body map, as one step that can be undone. */
function set(role: Role, joint: string | null): void {
  change(`${label(role)} is ${joint ?? "no joint"}`, (d) => ({ ...d, body: { ...d.body, [role]: joint } }));
}

/** What the file's format leaves open, its unit and vertical axis say: guessed, and settable. Changing them reads the source anew. */
function ReadingFields({ onReread }: { onReread: () => void }) {
  const opened = useBench((s) => s.opened);
  const clip = useBench((s) => s.clip);
  if (!opened || !clip) return null;
  const { options } = formatToRead(clip.fileName);
  const units: readonly (readonly [string, number])[] = [
    ["metres", 1],
    ["decimetres", 0.1],
    ["centimetres", 0.01],
    ["millimetres", 0.001],
    ["inches", 0.0254],
    ["feet", 0.3048],
  ];
  const known = units.some(([, scale]) => Math.abs(scale - opened.unitScale) < 1e-9);
  const set = (json: Parameters<typeof changeReading>[1]) =>
    changeReading(clip.id, json).then(onReread, (error: unknown) => {
      toast.error(error instanceof Error ? error.message : String(error));
    });
  return (
    <div className="grid grid-cols-2 gap-2">
      {options.includes("unitScale") && (
        <label className="text-xs text-ink-soft">
          File unit
          <select
            className="h-7 w-full rounded-sm border border-line bg-sheet px-1 text-ink"
            value={opened.unitScale}
            onChange={(event) => void set({ unitScale: Number(event.target.value) })}
          >
            {!known && <option value={opened.unitScale}>{(opened.unitScale * 100).toFixed(2)} cm (guessed)</option>}
            {units.map(([name, scale]) => (
              <option key={name} value={scale}>
                {name}
              </option>
            ))}
          </select>
        </label>
      )}
      {options.includes("upAxis") && (
        <label className="text-xs text-ink-soft">
          Up in the file
          <select
            className="h-7 w-full rounded-sm border border-line bg-sheet px-1 text-ink"
            value={opened.upAxis}
            onChange={(event) => void set({ upAxis: event.target.value as "y" | "z" })}
          >
            <option value="y">Y</option>
            <option value="z">Z</option>
          </select>
        </label>
      )}
    </div>
  );
}
