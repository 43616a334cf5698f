import { activePatches, formatToWrite, type SourceRef, type Work, WRITE_ENDINGS } from "@stride/motion";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { toast } from "sonner";
import { exportWork, resultFile } from "../../api/client.ts";
import { fillTemplate } from "../../naming/nameTemplate.ts";
import { useBench } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import type { Session } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { download } from "../../ui/download.ts";
import { ExportChoices } from "./ExportChoices.tsx";
import { asked, kindLabel, NOTHING_CHOSEN, otherKinds, problemOf } from "./exportChoices.ts";

interface ExportForm {
  template: string;
  start: number;
  end: number;
  fps: number;
  ending: string;
  note: boolean;
}

/** Writes the result as a file and a note of what was measured beside it. */
export function ExportDialog({ open, onClose, session }: { open: boolean; onClose: () => void; session: Session }) {
  const work = useBench((s) => s.row);
  const clip = useBench((s) => s.clip);
  const name = useBench((s) => s.name);
  const revision = useBench((s) => s.revision);
  const last = useBench((s) => (s.after?.frameCount ?? 1) - 1);
  const fps = useBench((s) => s.opened?.fps ?? 30);
  const joints = useBench((s) => s.after?.jointCount ?? 0);
  // As the clip came, or the body that it is cast onto, where that can be written.
  const cast = useBench((s) => castOnto(s.doc));
  const usual = formatToWrite(cast?.name ?? clip?.fileName ?? "")?.endings[0] ?? WRITE_ENDINGS[0];
  const form = useForm<ExportForm>({
    values: { template: "{work}", start: playhead.range?.[0] ?? 0, end: playhead.range?.[1] ?? last, fps, ending: "", note: true },
  });
  const values = form.watch();
  const [choices, setChoices] = useState(NOTHING_CHOSEN);
  const ending = values.ending || usual;
  const stem = fillTemplate(values.template, { work: name, clip: clip?.name ?? "", rev: String(revision), date: new Date().toISOString().slice(0, 10) });
  const frames = Math.floor(((values.end - values.start) / fps) * values.fps + 1e-6) + 1;
  const problem = problemOf(ending, choices);
  const valid = values.start >= 0 && values.end <= last && values.start <= values.end && values.fps > 0;
  const write = form.handleSubmit(async (chosen) => {
    if (!work) return;
    try {
      await session.save();
      const result = await exportWork(work.id, { start: chosen.start, end: chosen.end, fps: chosen.fps, name: stem, ending, ...asked(ending, choices) });
      download(resultFile(result, stem));
      if (chosen.note) download(new File([JSON.stringify(result.note, null, 2)], `${stem}.result.json`, { type: "application/json" }));
      toast.success(
        `Wrote ${stem}${result.ending}: ${result.note.written.frames} frames, slide at worst ${result.note.after.slideWorstCm.toFixed(1)} cm (was ${result.note.before.slideWorstCm.toFixed(1)} cm)`,
      );
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    }
  });
  const number = { valueAsNumber: true } as const;
  const field = "figure h-7.5 w-24 rounded-sm border border-line bg-sheet px-2";
  return (
    <Dialog
      open={open}
      onClose={onClose}
      title="Export"
      description={
        cast
          ? `A new file: ${cast.name} with this motion, its mesh, materials and other animations as they are.`
          : "A new file beside the source, with the skeleton, units and channels that it came with."
      }
    >
      <form onSubmit={(event) => void write(event)} className="grid grid-cols-[8rem_1fr] items-center gap-x-3 gap-y-2.5">
        <label htmlFor="template">Name</label>
        <div>
          <input id="template" className={`${field} w-full!`} {...form.register("template", { required: true })} />
          <p className="mt-0.5 text-xs text-ink-soft">May hold {"{work} {clip} {rev} {date}"}</p>
        </div>
        <label htmlFor="start">Frames</label>
        <div className="flex items-center gap-2">
          <input id="start" type="number" min={0} max={last} className={field} aria-label="First frame" {...form.register("start", number)} /> to
          <input type="number" min={0} max={last} className={field} aria-label="Last frame" {...form.register("end", number)} />
        </div>
        <label htmlFor="fps">Frame rate</label>
        <div className="flex items-center gap-2">
          <input id="fps" type="number" step="any" min={1} max={1000} className={field} {...form.register("fps", number)} /> fps
          {[24, 30, 60].map((rate) => (
            <Button key={rate} tone="quiet" className="h-6! px-2!" onClick={() => form.setValue("fps", rate)}>
              {rate}
            </Button>
          ))}
        </div>
        <label htmlFor="ending">File</label>
        <select id="ending" className="h-7.5 w-full rounded-sm border border-line bg-sheet px-2" {...form.register("ending")}>
          <option value="">{`${kindLabel(usual)}, as ${cast ? "the character" : "the clip"} came`}</option>
          {otherKinds(WRITE_ENDINGS, usual).map((kind) => (
            <option key={kind} value={kind}>
              {kindLabel(kind)}
            </option>
          ))}
        </select>
        <ExportChoices ending={ending} chosen={choices} onChange={setChoices} />
        <span>Beside it</span>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="accent-[var(--ink)]" {...form.register("note")} /> a note of the measured results (JSON)
        </label>
        <p className="col-span-2 border-t border-line pt-2.5" role="status">
          {problem ? (
            <span className="text-coral-ink">{problem}</span>
          ) : valid ? (
            <>
              Writes{" "}
              <b className="break-all">
                {stem}
                {ending}
              </b>
              : {frames} frames at {values.fps} fps, {asked(ending, choices).points ? `${choices.points?.length} points` : `${joints} joints`},{" "}
              {(frames / values.fps).toFixed(2)} s{values.fps !== fps ? `, resampled from ${fps} fps` : ""}.
            </>
          ) : (
            <span className="text-coral-ink">Frames must lie between 0 and {last}, the first before the last, and the rate above zero.</span>
          )}
        </p>
        <div className="col-span-2 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" tone="primary" disabled={!valid || problem !== null || form.formState.isSubmitting}>
            {form.formState.isSubmitting ? "Writing…" : "Write file"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** The body that a work is cast onto at last; null where it stays on its own. */
function castOnto(doc: Work): SourceRef | null {
  const cast = activePatches(doc.patches).findLast((patch) => patch.kind === "cast" && patch.settings.onto);
  return (cast?.settings.onto as SourceRef | undefined) ?? null;
}
