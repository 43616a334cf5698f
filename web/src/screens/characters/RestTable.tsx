import { FINGERS, type Role, restPoseOf, roleLabel } from "@stride/motion";
import clsx from "clsx";
import { AsFound, CELL, Heads, NumberCell } from "./cells.tsx";
import type { TableProps } from "./MapTable.tsx";
import { restTurned } from "./notes.ts";
import { posedBody } from "./posedBody.ts";

const AXES = ["x", "y", "z"] as const;

/** How the file rests, and each part's turn into the pose in which bodies are alike, where nothing in the bones tells it. */
export function RestTable({ body, notes, picked, onPick }: TableProps) {
  const { said, change } = notes;
  const { names } = body.skeleton;
  const { roles, plan } = body.character.body;
  const { skeleton } = posedBody(body, said);
  const { name, armsDownDegrees } = restPoseOf({ skeleton, body: body.character.body, rig: body.character.rig });
  const rows = (Object.entries(roles) as [Role, number][]).filter(([role]) => !FINGERS.some((finger) => role.includes(finger))).sort(([, a], [, b]) => a - b);
  return (
    <>
      <p className="px-2 py-2 text-ink-soft">
        {armsDownDegrees === null
          ? "Limbs are laid on those of the motion's body, whichever way they rest. "
          : `Now in ${name === "T" || name === "A" ? `a ${name}-pose` : `a pose with ${name}`}. `}
        Casting lays the bones of limbs on each other by itself. What bones do not tell, a twisted forearm, a head held askew, turn here until the body stands
        upright as others do, palms down; the view shows it so. Degrees about the joint's own axes.
      </p>
      <table className="w-full">
        <Heads of={["Part", "Joint", "x", "y", "z", ""]} />
        <tbody>
          {rows.map(([role, joint]) => {
            const label = roleLabel(role, plan);
            const turn = said.rest[names[joint]];
            return (
              <tr
                key={role}
                onMouseEnter={() => onPick(joint)}
                onFocus={() => onPick(joint)}
                className={clsx("border-t border-line/70", picked === joint && "bg-cobalt-wash")}
              >
                <td className={clsx(CELL, "align-middle! font-semibold")}>{label}</td>
                <td className={clsx(CELL, "figure align-middle! text-xs break-words")}>{names[joint]}</td>
                {AXES.map((axis, i) => (
                  <td key={axis} className="py-0.5 pr-1">
                    <NumberCell
                      label={`${label} about ${axis}, degrees`}
                      value={turn?.[i] ?? 0}
                      said={(turn?.[i] ?? 0) !== 0}
                      onCommit={(degrees) => change(restTurned(names[joint], i, degrees))}
                    />
                  </td>
                ))}
                <td className={clsx(CELL, "align-middle!")}>
                  {turn && (
                    <AsFound
                      label={`${label} as its file rests`}
                      onClick={() => change((all) => AXES.reduce((made, _, i) => restTurned(names[joint], i, 0)(made), all))}
                    />
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </>
  );
}
