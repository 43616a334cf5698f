import clsx from "clsx";
import { showFigure } from "../../ui/figures.ts";
import { CELL, Heads } from "./cells.tsx";
import { proportionsOf } from "./proportions.ts";
import type { OpenedBody } from "./useBody.ts";

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
