import { PATCH_KINDS, patchKind } from "@stride/motion";
import { memo, useDeferredValue, useEffect } from "react";
import { change, preview, shownDoc, useBench, withPatch } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";
import { ContactPanel } from "./ContactPanel.tsx";
import { FigureTable } from "./FigureTable.tsx";
import { describeFieldsWhenIdle, SettingFields } from "./fields/SettingFields.tsx";
import { MaskField } from "./MaskField.tsx";
import { PANELS } from "./panels.ts";
import { RangeField } from "./RangeField.tsx";

/** The selected patch: its figures before and after, and its settings as its kind describes them. */
export function SettingsPanel() {
  // A panel of many controls: when another patch is selected, what was pressed answers first.
  return <PatchPanel patchId={useDeferredValue(useBench((s) => s.patchId))} />;
}

const PatchPanel = memo(function PatchPanel({ patchId }: { readonly patchId: string | null }) {
  const patch = useBench((s) => shownDoc(s).patches.find((p) => p.id === patchId));
  const count = useBench((s) => shownDoc(s).patches.length);
  const at = useBench((s) => shownDoc(s).patches.findIndex((p) => p.id === patchId));
  const stage = useBench((s) => (patchId ? s.figures?.stages[patchId] : undefined));
  const problem = useBench((s) => s.problem);
  const notes = useBench((s) => s.notes);
  const kind = patch && patchKind(patch.kind);
  useEffect(() => describeFieldsWhenIdle(PATCH_KINDS), []);
  const Panel = patch && PANELS[patch.kind];
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long panel must scroll by keyboard
    <section className="h-full overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Settings">
      {problem && (
        <p role="alert" className="mt-3 rounded-sm border border-coral px-2 py-1.5 text-coral-ink">
          {problem.message}
        </p>
      )}
      {patch && kind ? (
        <>
          <header className="flex items-baseline justify-between gap-2 pt-3 pb-1.5">
            <h2 className="min-w-0 truncate font-semibold">{patch.name}</h2>
            <span className="shrink-0 text-xs text-ink-soft">
              patch {at + 1} of {count}
            </span>
          </header>
          <p className="pb-2 text-xs text-ink-soft">{kind.description}</p>
          {notes
            .filter((n) => n.patchId === patch.id)
            .map((n) => (
              <p key={n.message} role="status" className="mb-2 rounded-sm border border-line px-2 py-1.5 text-coral-ink">
                {n.message}
              </p>
            ))}
          {patch.muted ? (
            <p className="rounded-sm border border-line p-2 text-ink-soft">Muted: the motion is as if it were not there.</p>
          ) : (
            <FigureTable stage={stage} poses={kind.poses} />
          )}
          <SettingFields key={patch.id} patch={patch} kind={kind} />
          {Panel && <Panel patch={patch} />}
          {(kind.posing?.edits || kind.holds) && (
            <Button className="mb-1 w-full" onClick={() => useBench.setState({ panel: "pose" })}>
              {kind.posing?.edits ? "Edits, holds and poses" : "Holds"}
            </Button>
          )}
          {kind.ranged && (
            <>
              <SliderRow
                label="Strength"
                unit="%"
                value={patch.weight * 100}
                min={0}
                max={100}
                step={1}
                onMove={(v) => preview((d) => withPatch(d, patch.id, { weight: v / 100 }))}
                onCommit={(v) => change(`Strength of ${patch.name}`, (d) => withPatch(d, patch.id, { weight: v / 100 }))}
              />
              <RangeField patch={patch} />
            </>
          )}
          {kind.masked && <MaskField patch={patch} />}
        </>
      ) : (
        <p className="pt-3 text-ink-soft">No patch is selected. A patch is one step of the correction: add one below, or ground the feet in one go.</p>
      )}
      <ContactPanel />
    </section>
  );
});
