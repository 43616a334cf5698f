import { hanimNames, pointLabel, roleLabel, vrmName } from "@stride/motion";
import clsx from "clsx";
import { useEffect, useRef } from "react";
import { showFigure } from "../../ui/figures.ts";
import { mirrorPairs, proportionsOf } from "./proportions.ts";
import type { OpenedBody } from "./useBody.ts";

const HEAD = "sticky top-0 z-10 bg-sheet px-2 py-1.5 text-left text-xs font-normal text-ink-soft";
const CELL = "px-2 py-1 align-top";

interface TableProps {
  readonly body: OpenedBody;
  readonly picked: number | null;
  readonly onPick: (joint: number | null) => void;
}

/** Which joint is which part, why, and what two open standards call it. */
export function MapTable({ body, picked, onPick }: TableProps) {
  const { guesses, roles, plan } = body.character.body;
  const { names } = body.skeleton;
  const shown = useRef<HTMLTableRowElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the row that is pointed out changes with what is picked
  useEffect(() => {
    void shown.current?.scrollIntoView({ block: "nearest" });
  }, [picked]);
  const placed = new Set(guesses.map((g) => g.joint));
  const spare = names.filter((_, joint) => !placed.has(joint));
  return (
    <>
      <table className="w-full table-fixed">
        <thead>
          <tr>
            {(
              [
                ["Part", "w-[38%]"],
                ["Joint", "w-[22%]"],
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
          {[...guesses]
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
                  <span className="block text-xs text-ink-soft">{reason}</span>
                </td>
                <td className={clsx(CELL, "figure text-xs break-words")}>{names[joint]}</td>
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
        </tbody>
      </table>
      {spare.length > 0 && (
        <p className="border-t border-line px-2 py-2 text-ink-soft">
          {spare.length} joints are no part of their own: <span className="figure break-words">{spare.join(", ")}</span>
        </p>
      )}
    </>
  );
}

/** Lengths of the body, beside the usual one's. */
export function ProportionTable({ body }: { body: OpenedBody }) {
  const { character, skeleton, view } = body;
  const rows = proportionsOf(skeleton, character.body, view.positions, character.height);
  const scale = Math.max(...rows.map((r) => Math.max(r.share ?? 0, r.usual ?? 0)), 1e-6);
  return (
    <table className="w-full">
      <Heads of={["Length", "", "of its height; mark: usual", "usual"]} />
      <tbody>
        <tr className="border-t border-line/70">
          <td className={clsx(CELL, "font-semibold")}>Standing height</td>
          <td className={clsx(CELL, "figure")}>{showFigure(100 * character.height, "cm")}</td>
          <td />
          <td />
        </tr>
        {rows.map(({ name, metres, share, usual }) => (
          <tr key={name} className="border-t border-line/70">
            <td className={clsx(CELL, "font-semibold")}>{name}</td>
            <td className={clsx(CELL, "figure whitespace-nowrap")}>{showFigure(100 * metres, "cm")}</td>
            <td className={clsx(CELL, "w-2/5")}>
              {share !== null && (
                <span className="flex items-center gap-2">
                  <span className="relative h-2.5 flex-1 bg-line/50" aria-hidden="true">
                    <span className="absolute inset-y-0 left-0 bg-ink-soft/60" style={{ width: `${(100 * share) / scale}%` }} />
                    {usual !== null && <span className="absolute -inset-y-0.5 w-0.5 bg-ink" style={{ left: `${(100 * usual) / scale}%` }} />}
                  </span>
                  <span className="figure w-12 text-right">{`${(100 * share).toFixed(1)} %`}</span>
                </span>
              )}
            </td>
            <td className={clsx(CELL, "figure")}>{usual === null ? "–" : `${(100 * usual).toFixed(1)} %`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Where it can rest on something, and which joints mirror each other. */
export function PointsAndPairs({ body, picked, onPick }: TableProps) {
  const { points, body: map } = body.character;
  const { names } = body.skeleton;
  return (
    <>
      <h3 className="px-2 pt-2 pb-1 font-semibold">Contact points</h3>
      <table className="w-full">
        <Heads of={["Point", "on", "over the ground", "read off"]} />
        <tbody>
          {points.map((point) => (
            <tr key={point.id} className={clsx("border-t border-line/70", picked === point.joint && "bg-cobalt-wash")} onMouseEnter={() => onPick(point.joint)}>
              <td className={clsx(CELL, "font-semibold")}>{pointLabel(point.id)}</td>
              <td className={clsx(CELL, "figure")}>{names[point.joint]}</td>
              <td className={clsx(CELL, "figure")}>{showFigure(100 * point.clearance, "cm")}</td>
              <td className={clsx(CELL, "text-ink-soft")}>{point.modelled ? "a joint of the body" : "its proportions"}</td>
            </tr>
          ))}
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

function Heads({ of }: { of: readonly string[] }) {
  return (
    <thead>
      <tr>
        {of.map((head) => (
          <th key={head} className={HEAD}>
            {head}
          </th>
        ))}
      </tr>
    </thead>
  );
}
