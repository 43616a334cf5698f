import { PATCH_KINDS } from "@stride/motion";
import { describe, expect, it } from "vitest";
import { initialState, useBench } from "../../state/bench.ts";
import { usePosing } from "../../state/posing.ts";
import { benchCommands } from "./commands.ts";

const opened: string[] = [];
const commands = benchCommands(
  (dialog) => opened.push(String(dialog)),
  () => opened.push("checkup page"),
);

describe("commands", () => {
  it("have ids of their own, a group each that the palette shows, and no two on one key", () => {
    expect(new Set(commands.map((c) => c.id)).size).toBe(commands.length);
    const shortcuts = commands.flatMap((c) => (c.shortcut ? [c.shortcut] : []));
    expect(new Set(shortcuts).size).toBe(shortcuts.length);
    expect([...new Set(commands.map((c) => c.group))]).toEqual(["Play", "View", "Pose", "Patches", "Work"]);
  });

  it("answer to the key that they show", () => {
    const pressed = (shortcut: string) => {
      const parts = shortcut.split(/[ +]/);
      const key = { Space: " ", "←": "ArrowLeft", "→": "ArrowRight" }[parts.at(-1) ?? ""] ?? parts.at(-1) ?? "";
      const shiftKey = parts.includes("Shift");
      const letter = key.length === 1 ? (shiftKey && !parts.includes("Ctrl") ? key.toUpperCase() : parts.includes("Ctrl") ? key.toLowerCase() : key) : key;
      return { key: letter, shiftKey, ctrlKey: parts.includes("Ctrl"), metaKey: false, altKey: parts.includes("Alt") } as KeyboardEvent;
    };
    for (const command of commands) {
      if (!command.shortcut) continue;
      const event = pressed(command.shortcut);
      expect(command.keys?.(event), `${command.label}: ${command.shortcut}`).toBe(true);
      expect(
        commands.filter((c) => c.keys?.(event)).map((c) => c.id),
        command.shortcut,
      ).toContain(command.id);
    }
  });

  it("of posing are all there: look, turn, move, trail, panel; they do what they say", () => {
    const pose = commands.filter((c) => c.group === "Pose").map((c) => c.id);
    expect(pose).toEqual(expect.arrayContaining(["look", "turn", "move", "trail", "panel"]));
    useBench.setState(initialState());
    const run = (id: string) => commands.find((c) => c.id === id)?.run();
    run("turn");
    expect(usePosing.getState().tool).toBe("turn");
    run("look");
    expect(usePosing.getState().tool).toBe("look");
    run("panel");
    expect(useBench.getState().panel).toBe("pose");
    run("history");
    run("checkup");
    expect(opened).toEqual(["history", "checkup page"]);
  });

  it("add every kind of patch there is", () => {
    for (const kind of PATCH_KINDS) {
      useBench.setState(initialState());
      commands.find((c) => c.id === `add-${kind.kind}`)?.run();
      expect(useBench.getState().doc.patches.map((p) => p.kind)).toEqual([kind.kind]);
    }
  });
});
