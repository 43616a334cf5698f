import { type ContactPoint, pointLabel } from "@stride/motion";
import clsx from "clsx";
import { Crosshair } from "lucide-react";
import { Button } from "../../ui/Button.tsx";
import { showFigure } from "../../ui/figures.ts";
import { AsFound, CELL, Heads, NumberCell } from "./cells.tsx";
import type { TableProps } from "./MapTable.tsx";
import { pointAsFound, pointAt, pointsAt } from "./notes.ts";
import { mirrorPairs } from "./proportions.ts";

const AXES = ["x", "y", "z"] as const;

/** What feet roll about lies inside them: its mark is on the sole below. */
function jointWords({ id, bears, clearance }: ContactPoint): string {
  if (!bears || clearance === 0) return "a joint of the body";
  return id.endsWith("Toe") ? "the ball, at its joint" : "a joint, over the sole";
}

/** Where it can rest on something, placed on its skin; and which joints mirror each other. */
export function ContactTable({
  body,
  notes,
  picked,
  onPick,
  points,
  placing,
  onPlace,
}: TableProps & {
  readonly points: readonly ContactPoint[];
  /** the point that is being placed in the view */
  readonly placing: string | null;
  readonly onPlace: (id: string | null) => void;
}) {
  const { body: map } = body.character;
  const { names } = body.skeleton;
  const { said, change } = notes;
  const soles = Object.keys(body.soles).length;
  return (
    <>
      <div className="flex items-center gap-2 px-2 py-2">
        <p className="flex-1 text-ink-soft">The marks on the body. Place one by clicking on the skin, or type where it lies in its joint's frame, cm.</p>
        {soles > 0 && (
          <Button
            className="h-7! shrink-0"
            title="Heels where the mesh is lowest and furthest back, balls and hooves under their joints"
            onClick={() => change(pointsAt(body.soles))}
          >
            Lay soles on the skin
          </Button>
        )}
      </div>
      <table className="w-full">
        <Heads of={["Point", "on", "x", "y", "z", "over ground", ""]} />
        <tbody>
          {points.map((point) => {
            const label = pointLabel(point.id);
            const own = Object.hasOwn(said.points, point.id);
            return (
              <tr
                key={point.id}
                onMouseEnter={() => onPick(point.joint)}
                className={clsx("border-t border-line/70", (placing === point.id || (placing === null && picked === point.joint)) && "bg-cobalt-wash")}
              >
                <td className={CELL}>
                  <span className="font-semibold">{label}</span>
                  <span className="block text-xs text-ink-soft">
                    {own ? (
                      <>
                        placed by you, <AsFound label={`${label} as found`} onClick={() => change(pointAsFound(point.id))} />
                      </>
                    ) : point.placed ? (
                      "on the mesh"
                    ) : point.modelled ? (
                      jointWords(point)
                    ) : (
                      "by its proportions"
                    )}
                  </span>
                </td>
                <td className={clsx(CELL, "figure text-xs break-words")}>{names[point.joint]}</td>
                {AXES.map((axis, i) => (
                  <td key={axis} className="py-1 pr-1 align-top">
                    <NumberCell
                      label={`${label}, ${axis} in cm`}
                      value={100 * point.local[i]}
                      min={-200}
                      max={200}
                      decimals={1}
                      said={own}
                      onCommit={(cm) => change(pointAt(point.id, point.local.map((v, k) => (k === i ? cm / 100 : v)) as [number, number, number]))}
                    />
                  </td>
                ))}
                <td className={clsx(CELL, "figure text-xs whitespace-nowrap")}>{point.bears ? showFigure(100 * point.clearance, "cm") : "–"}</td>
                <td className={CELL}>
                  {body.skin && (
                    <button
                      type="button"
                      aria-label={`Place ${label} on the skin`}
                      title={`Place ${label} on the skin`}
                      aria-pressed={placing === point.id}
                      className={clsx("rounded-sm border p-1", placing === point.id ? "border-cobalt bg-cobalt text-sheet" : "border-line")}
                      onClick={() => onPlace(placing === point.id ? null : point.id)}
                    >
                      <Crosshair size={14} aria-hidden="true" />
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <h3 className="px-2 pt-4 pb-1 font-semibold">Mirror pairs</h3>
      <table className="w-full">
        <tbody>
          {mirrorPairs(map).map(({ left, right, part }) => (
            <tr key={part} className="border-t border-line/70">
              <td className={clsx(CELL, "figure text-plum")}>{names[left]}</td>
              <td className={clsx(CELL, "text-center text-ink-soft")}>↔</td>
              <td className={clsx(CELL, "figure text-teal")}>{names[right]}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
