import { change, shownDoc, useBench } from "../../state/bench.ts";
import { Segmented } from "../../ui/Segmented.tsx";

/** What the clip was taken for, by what, and a way to say otherwise. */
export function CarriedBy() {
  const support = useBench((s) => s.after?.support);
  const said = useBench((s) => shownDoc(s).carriedBy);
  if (!support) return null;
  const share = `Feet rest under the body on ${Math.round(support.share * 100)} % of the frames`;
  const taken = support.climbs ? ", each on a hold of its own: taken for climbing" : ": taken for a body that hangs, lies or flies";
  return (
    <div role="note" className="border-b border-line/70 px-3.5 py-2 text-ink-soft">
      <p className="pb-1">
        {support.byFeet || support.said ? `${share}: ` : `${share}${taken}. `}
        {support.passing > 0
          ? `it goes on the spot, and the ground passes under it at ${support.passing.toFixed(2)} m/s. Contacts are found and planted on that ground; a Travel patch puts the way in.`
          : support.byFeet
            ? "ground and travel are read off them."
            : `Nothing is read off them of ground and travel${support.climbs ? "." : "; set contacts by hand where they do carry."}`}
      </p>
      <div className="flex flex-wrap items-center justify-between gap-y-1">
        <span className="whitespace-nowrap pr-2">Carried by</span>
        <Segmented
          small
          label="Carried by"
          value={said ?? "found"}
          options={[
            { value: "found", label: "found" },
            { value: "feet", label: "feet" },
            ...(support.passing > 0 || said === "stillGround" ? [{ value: "stillGround" as const, label: "still ground" }] : []),
            { value: "other", label: "other" },
          ]}
          onChange={(v) => change("What carries the body", (d) => ({ ...d, carriedBy: v === "found" ? null : v }))}
        />
      </div>
    </div>
  );
}
