import { FileChartColumn, History, Keyboard, PersonStanding, Redo2, Search, Undo2 } from "lucide-react";
import { Link } from "react-router";
import { type Compare, redo, undo, useBench } from "../../state/bench.ts";
import { Button, IconButton } from "../../ui/Button.tsx";
import { Mark } from "../../ui/Mark.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { WorkMenu } from "./WorkMenu.tsx";

export type DialogName = "export" | "body" | "history" | "shortcuts" | "palette" | "range" | "copy" | "version" | "beside" | "keep" | "duplicate" | null;

const COMPARE = [
  { value: "before", label: "Before", hint: "The source (B)" },
  { value: "after", label: "After", hint: "With every patch (B)" },
  { value: "both", label: "Both", hint: "The source as a ghost" },
  { value: "side", label: "Side by side" },
] as const satisfies readonly { value: Compare; label: string; hint?: string }[];

export function TopBar({ onOpen }: { onOpen: (name: DialogName) => void }) {
  const name = useBench((s) => s.name);
  const compare = useBench((s) => s.compare);
  const other = useBench((s) => s.beside?.label ?? null);
  const undoable = useBench((s) => s.past.at(-1)?.label);
  const redoable = useBench((s) => s.future[0]?.label);
  const id = useBench((s) => s.row?.id);
  return (
    <header className="flex h-11 shrink-0 items-center gap-2.5 border-b border-line bg-sheet px-4">
      <Mark />
      <span className="text-line">/</span>
      <input
        aria-label="Name of this work"
        value={name}
        maxLength={200}
        onChange={(event) => event.target.value.trim() !== "" && useBench.setState({ name: event.target.value, save: "unsaved" })}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") event.currentTarget.blur();
        }}
        className="min-w-24 max-w-60 flex-[6] truncate rounded-sm bg-transparent px-1 font-semibold hover:bg-line/40"
      />
      <SaveBadge />
      <span className="flex-1" />
      <Segmented
        label="Compare"
        value={compare}
        options={other === null ? COMPARE : COMPARE.map((o) => (o.value === "before" ? { ...o, label: "Other", hint: other } : o))}
        onChange={(value) => useBench.setState({ compare: value })}
      />
      <span className="flex-1" />
      <IconButton label={undoable ? `Undo: ${undoable}` : "Undo"} shortcut="Ctrl+Z" disabled={!undoable} onClick={undo}>
        <Undo2 size={16} />
      </IconButton>
      <IconButton label={redoable ? `Redo: ${redoable}` : "Redo"} shortcut="Ctrl+Shift+Z" disabled={!redoable} onClick={redo}>
        <Redo2 size={16} />
      </IconButton>
      <IconButton label="History" onClick={() => onOpen("history")}>
        <History size={16} />
      </IconButton>
      <WorkMenu onOpen={onOpen} />
      <IconButton label="Body map" onClick={() => onOpen("body")}>
        <PersonStanding size={17} />
      </IconButton>
      <IconButton label="Find a command" shortcut="Ctrl+K" onClick={() => onOpen("palette")}>
        <Search size={16} />
      </IconButton>
      <IconButton label="Shortcuts" shortcut="?" onClick={() => onOpen("shortcuts")}>
        <Keyboard size={16} />
      </IconButton>
      {id && (
        <Link to={`/work/${id}/checkup`} className="inline-flex h-7.5 items-center gap-1.5 rounded-sm border border-line px-3 hover:border-ink-soft">
          <FileChartColumn size={15} /> Checkup
        </Link>
      )}
      <Button tone="primary" onClick={() => onOpen("export")}>
        Export…
      </Button>
    </header>
  );
}

/** Hours and minutes; without the page's language, whose first use takes tens of milliseconds. */
function clockTime(date: Date): string {
  return [date.getHours(), date.getMinutes()].map((n) => String(n).padStart(2, "0")).join(":");
}

function SaveBadge() {
  const save = useBench((s) => s.save);
  const savedAt = useBench((s) => s.savedAt);
  const revision = useBench((s) => s.revision);
  const refusal = useBench((s) => s.refusal);
  const time = savedAt ? clockTime(new Date(savedAt)) : "";
  const text = {
    saved: `saved ${time} · rev ${revision}`,
    unsaved: "unsaved…",
    saving: "saving…",
    failed: `not saved, trying again: ${refusal ?? ""}`,
    refused: `not taken: ${refusal ?? ""}`,
    conflict: "changed elsewhere",
  }[save];
  return (
    <span
      role="status"
      data-save={save}
      title={text}
      className={`figure max-w-80 shrink-0 truncate whitespace-nowrap ${save === "failed" || save === "refused" || save === "conflict" ? "text-coral-ink" : "text-ink-soft"}`}
    >
      {text}
    </span>
  );
}
