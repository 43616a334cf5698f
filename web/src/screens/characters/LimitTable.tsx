import { FINGERS, LIMIT_WAYS, type Role, roleLabel } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import clsx from "clsx";
import { useState } from "react";
import { toast } from "sonner";
import { Button } from "../../ui/Button.tsx";
import { CELL, Heads, NumberCell } from "./cells.tsx";
import type { TableProps } from "./MapTable.tsx";
import { boundIs, FREE, freeOf, limitsAre } from "./notes.ts";
import { limitsOfClips } from "./useBody.ts";

/** What each joint may do: measured off the clips of the character, or set. A cast that passes it is told, never held back. */
export function LimitTable({ row, body, notes, picked, onPick }: TableProps & { readonly row: ClipRow }) {
  const { said, change } = notes;
  const { names } = body.skeleton;
  const { roles, plan } = body.character.body;
  const [busy, setBusy] = useState(false);
  const rows = (Object.entries(roles) as [Role, number][])
    .filter(([role]) => role !== "hips" && !FINGERS.some((finger) => role.includes(finger)))
    .sort(([, a], [, b]) => a - b);
  const measure = async () => {
    setBusy(true);
    try {
      const { limits, used } = await limitsOfClips(row);
      if (used === 0)
        toast.message(`The library has no clip of ${row.name}: clips that name it as their character, on joints of the same names. Set limits by hand.`);
      else {
        change(limitsAre(limits));
        toast.success(
          used < 3
            ? `Measured off ${used} ${used === 1 ? "clip" : "clips"} of ${row.name}: few say little, widen what it should be able to do`
            : `Measured off ${used} clips of ${row.name}, 5° of room around`,
        );
      }
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
    setBusy(false);
  };
  return (
    <>
      <div className="flex items-start gap-2 px-2 py-2">
        <p className="flex-1 text-ink-soft">
          How far each joint may go from how it rests, degrees. What passes it is told where the character is cast onto, and in its checkup; nothing is held
          back.
        </p>
        <Button className="h-7! shrink-0" disabled={busy} onClick={() => void measure()}>
          {busy ? "Measuring…" : "Measure off its clips"}
        </Button>
      </div>
      <table className="w-full">
        <Heads of={["Part", "bend", "side", "twist", ""]} />
        <tbody>
          {rows.map(([role, joint]) => {
            const name = names[joint];
            const label = roleLabel(role, plan);
            const limit = said.limits[name];
            return (
              <tr
                key={role}
                onMouseEnter={() => onPick(joint)}
                onFocus={() => onPick(joint)}
                className={clsx("border-t border-line/70", picked === joint && "bg-cobalt-wash")}
              >
                <td className={clsx(CELL, "align-middle! font-semibold")}>{label}</td>
                {limit ? (
                  LIMIT_WAYS.map((way) => (
                    <td key={way} className="py-0.5 pr-2 whitespace-nowrap">
                      {([0, 1] as const).map((end) => (
                        <span key={end} className={end === 1 ? "ml-1" : undefined}>
                          <NumberCell
                            label={`${label}, ${way} at ${end === 0 ? "least" : "most"}, degrees`}
                            value={limit[way][end]}
                            said={limit[way][end] !== FREE[way][end]}
                            onCommit={(degrees) => change(boundIs(name, way, end, degrees))}
                          />
                        </span>
                      ))}
                    </td>
                  ))
                ) : (
                  <td className={clsx(CELL, "align-middle! text-ink-soft")} colSpan={3}>
                    free
                  </td>
                )}
                <td className={clsx(CELL, "text-right align-middle!")}>
                  <button
                    type="button"
                    className="text-xs text-cobalt underline"
                    aria-label={limit ? `${label} free` : `Set limits of ${label}`}
                    onClick={() => change(limit ? freeOf(name) : boundIs(name, "bend", 0, -180))}
                  >
                    {limit ? "free" : "set"}
                  </button>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
