import type { JointNames } from "@stride/motion";
import { pointLabel } from "@stride/motion";
import { useState } from "react";
import { useBench } from "../../state/bench.ts";
import { type Chosen, choicesOf } from "./exportChoices.ts";

const FIELD = "figure h-7.5 w-20 rounded-sm border border-line bg-sheet px-2";
const NAMES: readonly (readonly [JointNames, string])[] = [
  ["own", "as they are"],
  ["hanim", "by part, as H-Anim names them"],
  ["vrm", "by part, as VRM names them"],
];

/** What a kind of file leaves open: names of joints, fewer keys, which points. Rows of the export dialog's grid. */
export function ExportChoices({ ending, chosen, onChange }: { ending: string; chosen: Chosen; onChange: (chosen: Chosen) => void }) {
  const open = choicesOf(ending);
  return (
    <>
      {open.includes("points") && (
        <>
          <span className="self-start pt-1">Places of</span>
          <PointChoice chosen={chosen.points} onChange={(points) => onChange({ ...chosen, points })} />
        </>
      )}
      {open.includes("names") && !(open.includes("points") && chosen.points) && (
        <>
          <label htmlFor="jointNames">Joints called</label>
          <select
            id="jointNames"
            className="h-7.5 w-full rounded-sm border border-line bg-sheet px-2"
            value={chosen.names}
            onChange={(event) => onChange({ ...chosen, names: event.target.value as JointNames })}
          >
            {NAMES.map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>
        </>
      )}
      {open.includes("thin") && (
        <>
          <span>Keys</span>
          <div className="flex items-center gap-2">
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                className="accent-[var(--ink)]"
                checked={chosen.thin}
                onChange={(event) => onChange({ ...chosen, thin: event.target.checked })}
              />
              {chosen.thin ? "thinned, within" : "one a frame; thin them"}
            </label>
            {chosen.thin && (
              <>
                <input
                  type="number"
                  step="any"
                  min={0}
                  max={90}
                  aria-label="Degrees that thinned keys may be off"
                  className={FIELD}
                  value={Number.isNaN(chosen.degrees) ? "" : chosen.degrees}
                  onChange={(event) => onChange({ ...chosen, degrees: event.target.valueAsNumber })}
                />
                °
                <input
                  type="number"
                  step="any"
                  min={0}
                  max={1000}
                  aria-label="Millimetres that thinned keys may be off"
                  className={FIELD}
                  value={Number.isNaN(chosen.millimetres) ? "" : chosen.millimetres}
                  onChange={(event) => onChange({ ...chosen, millimetres: event.target.valueAsNumber })}
                />
                mm
              </>
            )}
          </div>
        </>
      )}
    </>
  );
}

/** Every joint, or joints and contact points that are picked from a list. */
function PointChoice({ chosen, onChange }: { chosen: readonly string[] | null; onChange: (points: readonly string[] | null) => void }) {
  const joints = useBench((s) => s.opened?.skeleton.names ?? []);
  const points = useBench((s) => s.character?.points ?? []);
  const [find, setFind] = useState("");
  const rows = [
    ...points.map(({ id }) => ({ name: id, label: pointLabel(id), kind: "contact point" })),
    ...joints.map((name) => ({ name, label: name, kind: "joint" })),
  ];
  const shown = rows.filter(({ label }) => label.toLowerCase().includes(find.trim().toLowerCase()));
  const toggle = (name: string, on: boolean) => onChange(rows.map((row) => row.name).filter((own) => (own === name ? on : chosen?.includes(own))));
  return (
    <div>
      <div className="flex gap-4">
        <label className="flex items-center gap-2">
          <input type="radio" name="places" className="accent-[var(--ink)]" checked={chosen === null} onChange={() => onChange(null)} /> every joint
        </label>
        <label className="flex items-center gap-2">
          <input type="radio" name="places" className="accent-[var(--ink)]" checked={chosen !== null} onChange={() => onChange(points.map(({ id }) => id))} />{" "}
          chosen points
        </label>
        {chosen && <span className="ml-auto text-ink-soft">{chosen.length} chosen</span>}
      </div>
      {chosen && (
        <div className="mt-1.5 rounded-sm border border-line">
          <input
            type="search"
            aria-label="Find a point"
            placeholder="find a joint or a contact point"
            className="w-full border-b border-line bg-sheet px-2 py-1"
            value={find}
            onChange={(event) => setFind(event.target.value)}
          />
          <ul className="grid max-h-40 grid-cols-2 gap-x-2 overflow-y-auto px-2 py-1" aria-label="Points to write">
            {shown.map(({ name, label, kind }) => (
              <li key={`${kind} ${name}`}>
                <label className="flex items-center gap-2" title={kind}>
                  <input
                    type="checkbox"
                    className="accent-[var(--ink)]"
                    checked={chosen.includes(name)}
                    onChange={(event) => toggle(name, event.target.checked)}
                  />
                  <span className={kind === "joint" ? "figure truncate text-xs" : "truncate"}>{label}</span>
                </label>
              </li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
