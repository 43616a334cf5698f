import { PATCH_KINDS } from "@stride/motion";
import { dropBeat } from "../../state/beats.ts";
import { type Camera, type Compare, lookAtPart, redo, undo, useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { usePosing } from "../../state/posing.ts";
import { recordPress } from "../../state/record.ts";
import { pickedLoop, playSeam } from "../../state/seam.ts";
import { nextLook } from "../../state/skins.ts";
import { addPatch, groundFeet } from "../../timedesk/patchActions.ts";
import { goToFinding } from "./FindingsPanel.tsx";
import type { DialogName } from "./TopBar.tsx";

export interface Command {
  readonly id: string;
  readonly label: string;
  readonly group: "Play" | "View" | "Pose" | "Patches" | "Work";
  /** as shown; `keys` is what the keyboard event must say */
  readonly shortcut?: string;
  readonly keys?: (event: KeyboardEvent) => boolean;
  readonly run: () => void;
}

const plain = (key: string) => (e: KeyboardEvent) => e.key.toLowerCase() === key.toLowerCase() && !e.ctrlKey && !e.metaKey && !e.altKey;
const ctrl =
  (key: string, shift = false) =>
  (e: KeyboardEvent) =>
    e.key.toLowerCase() === key && (e.ctrlKey || e.metaKey) && e.shiftKey === shift;

/** Everything that can be done without a place to point at: the palette, the shortcut sheet and the keyboard all read this list. */
export function benchCommands(open: (dialog: DialogName) => void, toCheckup: () => void): Command[] {
  const camera = (value: Camera) => () => useBench.setState({ camera: value });
  const compare = (value: Compare) => () => useBench.setState({ compare: value });
  const step = (by: number) => () => playhead.seek(playhead.frame + by);
  const nextFinding = (by: number) => () => {
    const { figures, findingId } = useBench.getState();
    const list = figures?.after.findings ?? [];
    if (list.length === 0) return;
    const at = list.findIndex((f) => f.id === findingId);
    goToFinding(list[(at + by + list.length) % list.length]);
  };
  return [
    { id: "play", label: "Play or pause", group: "Play", shortcut: "Space", keys: plain(" "), run: () => playhead.toggle() },
    { id: "back", label: "One frame back", group: "Play", shortcut: "←", keys: (e) => e.key === "ArrowLeft" && !e.shiftKey && !e.altKey, run: step(-1) },
    { id: "on", label: "One frame on", group: "Play", shortcut: "→", keys: (e) => e.key === "ArrowRight" && !e.shiftKey && !e.altKey, run: step(1) },
    { id: "back10", label: "Ten frames back", group: "Play", shortcut: "Shift ←", keys: (e) => e.key === "ArrowLeft" && e.shiftKey, run: step(-10) },
    { id: "on10", label: "Ten frames on", group: "Play", shortcut: "Shift →", keys: (e) => e.key === "ArrowRight" && e.shiftKey, run: step(10) },
    { id: "first", label: "First frame", group: "Play", shortcut: "Home", keys: plain("Home"), run: () => playhead.seek(0) },
    { id: "last", label: "Last frame", group: "Play", shortcut: "End", keys: plain("End"), run: () => playhead.seek(playhead.last) },
    { id: "loop", label: "Loop on or off", group: "Play", shortcut: "L", keys: plain("l"), run: () => playhead.setLooping(!playhead.looping) },
    {
      id: "record",
      label: "Record what plays as a new clip, from press to press",
      group: "Play",
      shortcut: "R",
      keys: plain("r"),
      run: () => void recordPress(),
    },
    { id: "next", label: "Next finding", group: "View", shortcut: "N", keys: plain("n"), run: nextFinding(1) },
    { id: "previous", label: "Finding before", group: "View", shortcut: "Shift N", keys: (e) => e.key === "N" && e.shiftKey, run: nextFinding(-1) },
    {
      id: "flip",
      label: "Before and after, in place",
      group: "View",
      shortcut: "B",
      keys: plain("b"),
      run: () => useBench.setState((s) => ({ compare: s.compare === "before" ? "after" : "before" })),
    },
    { id: "both", label: "Both: the source as a ghost", group: "View", shortcut: "O", keys: plain("o"), run: compare("both") },
    { id: "sides", label: "Side by side", group: "View", shortcut: "I", keys: plain("i"), run: compare("side") },
    { id: "orbit", label: "Free view", group: "View", shortcut: "1", keys: plain("1"), run: camera("orbit") },
    { id: "front", label: "View from the front", group: "View", shortcut: "2", keys: plain("2"), run: camera("front") },
    { id: "side", label: "View from the side", group: "View", shortcut: "3", keys: plain("3"), run: camera("side") },
    { id: "above", label: "View from above", group: "View", shortcut: "4", keys: plain("4"), run: camera("above") },
    {
      id: "plan",
      label: "Floor plan large or small",
      group: "View",
      shortcut: "F",
      keys: plain("f"),
      run: () => useBench.setState((s) => ({ planLarge: !s.planLarge })),
    },
    { id: "dress", label: "Skin, bones or lay figure", group: "View", shortcut: "W", keys: plain("w"), run: nextLook },
    { id: "look", label: "Look: change nothing", group: "Pose", shortcut: "V", keys: plain("v"), run: () => usePosing.setState({ tool: "look" }) },
    { id: "turn", label: "Turn selected parts", group: "Pose", shortcut: "T", keys: plain("t"), run: () => usePosing.setState({ tool: "turn" }) },
    { id: "move", label: "Move selected parts by reach", group: "Pose", shortcut: "M", keys: plain("m"), run: () => usePosing.setState({ tool: "move" }) },
    {
      id: "near",
      label: "Bring the selected part into view",
      group: "View",
      shortcut: "Z",
      keys: plain("z"),
      run: () => {
        const { parts, body } = useBench.getState();
        lookAtPart(parts.at(-1) ?? body?.roles.hips ?? 0, parts.length > 0 ? 0.5 : 1.2);
      },
    },
    {
      id: "trail",
      label: "Trail of the selected part",
      group: "Pose",
      shortcut: "Y",
      keys: plain("y"),
      run: () => usePosing.setState((s) => ({ trail: !s.trail })),
    },
    {
      id: "panel",
      label: "Pose panel or patch panel",
      group: "Pose",
      shortcut: "P",
      keys: plain("p"),
      run: () => useBench.setState((s) => ({ panel: s.panel === "pose" ? "patch" : "pose" })),
    },
    {
      id: "shelf",
      label: "Shelf: kept poses, hand shapes, patches",
      group: "Pose",
      shortcut: "K",
      keys: plain("k"),
      run: () => useBench.setState({ panel: "shelf" }),
    },
    {
      id: "curves",
      label: "Curves or footfall chart",
      group: "View",
      shortcut: "C",
      keys: plain("c"),
      run: () => useBench.setState((s) => ({ desk: s.desk === "curves" ? "footfall" : "curves" })),
    },
    { id: "beat", label: "Drop a beat at the playhead", group: "Patches", shortcut: "D", keys: plain("d"), run: () => dropBeat(playhead.frame) },
    { id: "seam", label: "Play around the seam of the loop", group: "Play", shortcut: "S", keys: plain("s"), run: () => playSeam(pickedLoop()) },
    { id: "ground", label: "Ground the feet", group: "Patches", shortcut: "G", keys: plain("g"), run: groundFeet },
    ...PATCH_KINDS.map((kind): Command => ({ id: `add-${kind.kind}`, label: `Add patch: ${kind.title}`, group: "Patches", run: () => addPatch(kind.kind) })),
    { id: "undo", label: "Undo", group: "Work", shortcut: "Ctrl+Z", keys: ctrl("z"), run: undo },
    { id: "redo", label: "Redo", group: "Work", shortcut: "Ctrl+Shift+Z", keys: ctrl("z", true), run: redo },
    { id: "palette", label: "Find a command", group: "Work", shortcut: "Ctrl+K", keys: ctrl("k"), run: () => open("palette") },
    { id: "export", label: "Export…", group: "Work", shortcut: "Ctrl+E", keys: ctrl("e"), run: () => open("export") },
    { id: "body", label: "Body map", group: "Work", run: () => open("body") },
    { id: "history", label: "History", group: "Work", run: () => open("history") },
    { id: "range", label: "Save as a clip…", group: "Work", run: () => open("range") },
    { id: "copy", label: "Copy patches to other works…", group: "Work", run: () => open("copy") },
    { id: "version", label: "Make a version…", group: "Work", shortcut: "Ctrl+Shift+V", keys: ctrl("v", true), run: () => open("version") },
    { id: "beside", label: "Compare with another clip, work or version…", group: "View", run: () => open("beside") },
    { id: "keep", label: "Keep patches on the shelf…", group: "Work", run: () => open("keep") },
    { id: "duplicate", label: "Duplicate this work…", group: "Work", run: () => open("duplicate") },
    { id: "checkup", label: "Checkup report", group: "Work", run: toCheckup },
    { id: "shortcuts", label: "Shortcuts", group: "Work", shortcut: "?", keys: plain("?"), run: () => open("shortcuts") },
  ];
}
