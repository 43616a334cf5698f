import { hanimNames, ROLES, type Role, roleLabel, vrmName } from "@stride/motion";
import clsx from "clsx";
import { useEffect, useRef } from "react";
import { AsFound, CELL, HEAD } from "./cells.tsx";
import { partAsFound, partIs } from "./notes.ts";
import type { OpenedBody } from "./useBody.ts";
import type { Notes } from "./useNotes.ts";

export interface TableProps {
  readonly body: OpenedBody;
  readonly notes: Notes;
  readonly picked: number | null;
  readonly onPick: (joint: number | null) => void;
}

const SELECT = "figure h-6.5 w-full rounded-sm border border-line bg-sheet px-1 text-xs";

/** Which joint is which part, why, and what two open standards call it; each can be told otherwise. */
export function MapTable({ body, notes, picked, onPick }: TableProps) {
  const { guesses, roles, plan } = body.character.body;
  const { names } = body.skeleton;
  const { said, change } = notes;
  const shown = useRef<HTMLTableRowElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row that is pointed out changes with what is picked
  useEffect(() => {
    void shown.current?.scrollIntoView({ block: "nearest" });
  }, [picked]);
  const placed = new Set(guesses.map((g) => g.joint));
  const spare = names.filter((_, joint) => !placed.has(joint));
  const gone = (Object.entries(said.body) as [Role, string | null][]).filter(([, joint]) => joint === null).map(([role]) => role);
  const missing = ROLES.filter((role) => !guesses.some((g) => g.role === role));
  return (
    <>
      <table className="w-full table-fixed">
        <thead>
          <tr>
            {(
              [
                ["Part", "w-[36%]"],
                ["Joint", "w-[27%]"],
                ["Sure", "w-[11%]"],
                ["In VRM and H-Anim", ""],
              ] as const
            ).map(([head, width]) => (
              <th key={head} className={clsx(HEAD, width)}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {guesses
            .filter(({ role }) => !gone.includes(role))
            .sort((a, b) => a.joint - b.joint)
            .map(({ role, joint, confidence, reason }) => (
              <tr
                key={role}
                ref={picked === joint ? shown : undefined}
                data-picked={picked === joint}
                onMouseEnter={() => onPick(joint)}
                className={clsx("border-t border-line/70", picked === joint && "bg-cobalt-wash")}
              >
                <td className={CELL}>
                  <button type="button" className="text-left font-semibold" onClick={() => onPick(joint)}>
                    {roleLabel(role, plan)}
                  </button>
                  <span className="block text-xs text-ink-soft">
                    {Object.hasOwn(said.body, role) ? (
                      <>
                        set by you, <AsFound label={`${roleLabel(role, plan)} as found`} onClick={() => change(partAsFound(role))} />
                      </>
                    ) : (
                      reason
                    )}
                  </span>
                </td>
                <td className={CELL}>
                  <select
                    aria-label={`Joint of ${roleLabel(role, plan)}`}
                    className={SELECT}
                    value={names[joint]}
                    onChange={(event) => change(partIs(role, event.target.value === "" ? null : event.target.value))}
                  >
                    <option value="">— no such part —</option>
                    {names.map((name) => (
                      <option key={name} value={name}>
                        {name}
                      </option>
                    ))}
                  </select>
                </td>
                <td className={clsx(CELL, "figure whitespace-nowrap", confidence < 0.7 ? "text-coral-ink" : "text-moss-ink")}>
                  {Math.round(confidence * 100)} %
                </td>
                <td className={clsx(CELL, "figure text-xs break-words")}>
                  {plan === "biped"
                    ? [vrmName(role, roles), hanimNames(role)[0]].filter(Boolean).map((name) => (
                        <span key={name} className="block">
                          {name}
                        </span>
                      ))
                    : "–"}
                </td>
              </tr>
            ))}
          {gone.map((role) => (
            <tr key={role} className="border-t border-line/70 text-ink-soft">
              <td className={CELL}>{roleLabel(role, plan)}</td>
              <td className={CELL} colSpan={3}>
                no such part, as you say; <AsFound label={`${roleLabel(role, plan)} as found`} onClick={() => change(partAsFound(role))} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <label className="flex items-center gap-2 border-t border-line px-2 py-2">
        <span className="shrink-0">Name a part that was not found</span>
        <select
          className={SELECT}
          value=""
          onChange={(event) => {
            const joint = spare[0] ?? names[0];
            change(partIs(event.target.value as Role, joint));
            onPick(names.indexOf(joint));
          }}
        >
          <option value="">choose…</option>
          {missing.map((role) => (
            <option key={role} value={role}>
              {roleLabel(role, plan)}
            </option>
          ))}
        </select>
      </label>
      {spare.length > 0 && (
        <p className="border-t border-line px-2 py-2 text-ink-soft">
          {spare.length} joints are no part of their own: <span className="figure break-words">{spare.join(", ")}</span>
        </p>
      )}
    </>
  );
}
