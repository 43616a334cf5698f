import { makePatch, type Patch } from "@stride/motion";
import { useQuery } from "@tanstack/react-query";
import { FlipHorizontal2 } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { createWork, exportWork, fetchWorks, resultFile, saveWork, uploadClip } from "../../api/client.ts";
import { fillTemplate, freeNumber } from "../../naming/nameTemplate.ts";
import { freshId, useBench } from "../../state/bench.ts";
import { labelsLike } from "../../state/labels.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { Segmented } from "../../ui/Segmented.tsx";

/** A copy that is mirrored, beside the work that it is made of. */
export function MirrorFields({ patch }: { patch: Patch }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="border-t border-line py-2">
      <Button className="w-full" onClick={() => setOpen(true)}>
        <FlipHorizontal2 size={14} /> Mirrored copy…
      </Button>
      {open && <MirroredCopy patch={patch} onClose={() => setOpen(false)} />}
    </div>
  );
}

/** Which side's foot lands first in the mirrored motion: the name of a left- or right-footed version. */
function firstSide(contacts: readonly { readonly point: string; readonly start: number }[]): string {
  const first = contacts.filter((c) => c.start > 0 && /^(left|right)/.test(c.point)).sort((a, b) => a.start - b.start)[0];
  return first ? (first.point.startsWith("left") ? "left" : "right") : "mirrored";
}

/** Makes a work or a clip of its own of the mirrored motion, named by a template. */
function MirroredCopy({ patch, onClose }: { patch: Patch; onClose: () => void }) {
  const navigate = useNavigate();
  const row = useBench((s) => s.row);
  const clip = useBench((s) => s.clip);
  const doc = useBench((s) => s.doc);
  const name = useBench((s) => s.name);
  const after = useBench((s) => s.after);
  const [as, setAs] = useState<"work" | "clip">("work");
  const [prefix, setPrefix] = useState("");
  const [template, setTemplate] = useState("{name} {side}");
  const [suffix, setSuffix] = useState("");
  const [busy, setBusy] = useState(false);
  const works = useQuery({ queryKey: ["works"], queryFn: fetchWorks });
  const whole = `${prefix}${template}${suffix}`;
  const taken = (works.data ?? []).map((w) => w.name);
  const values = { name, side: firstSide(after?.contacts ?? []) };
  const made = fillTemplate(whole, { ...values, n: String(freeNumber(whole, values, taken)) });
  const double = taken.includes(made);
  const make = async () => {
    if (!row || !after) return;
    setBusy(true);
    try {
      const fresh = await createWork(row.clipId, made);
      const own = doc.patches.some((p) => p.id === patch.id && !p.muted)
        ? doc
        : { ...doc, patches: [...doc.patches, makePatch("mirror", "Mirror", freshId())] };
      await saveWork(fresh.id, fresh.revision, made, own, "Mirrored copy");
      if (as === "clip") {
        const result = await exportWork(fresh.id, { start: 0, end: after.frameCount - 1, fps: after.fps, name: made });
        await uploadClip(resultFile(result, made), { labels: labelsLike(clip, made), again: true });
        toast.success(`${made} is in the library, as a clip and as the work that made it`);
      } else toast.success(`${made} is a work of its own`, { action: { label: "Open", onClick: () => void navigate(`/work/${fresh.id}`) } });
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  const field = "h-7.5 w-full rounded-sm border border-line bg-sheet px-2";
  return (
    <Dialog open onClose={onClose} title="Mirrored copy" description="This work stays as it is; the mirrored motion becomes one of its own.">
      <div className="grid grid-cols-[7rem_1fr] items-center gap-x-3 gap-y-2.5">
        <span>Make</span>
        <Segmented
          label="What is made"
          value={as}
          options={[
            { value: "work", label: "A work", hint: "The same clip with this stack" },
            { value: "clip", label: "A clip", hint: "A file of its own in the library" },
          ]}
          onChange={setAs}
        />
        <label htmlFor="copy-prefix">Prefix</label>
        <input id="copy-prefix" className={field} value={prefix} maxLength={60} onChange={(event) => setPrefix(event.target.value)} />
        <label htmlFor="copy-template">Name</label>
        <div>
          <input id="copy-template" className={field} value={template} maxLength={120} onChange={(event) => setTemplate(event.target.value)} />
          <p className="mt-0.5 text-xs text-ink-soft">May hold {"{name} {n} {side}"}: this work's name, the first free number, the side that lands first</p>
        </div>
        <label htmlFor="copy-suffix">Suffix</label>
        <input id="copy-suffix" className={field} value={suffix} maxLength={60} onChange={(event) => setSuffix(event.target.value)} />
        <span>Becomes</span>
        <output className="truncate font-semibold" title={made}>
          {made}
        </output>
      </div>
      {double && <p className="pt-2 text-coral-ink">There is a work of this name already; both will stand side by side.</p>}
      <div className="flex justify-end gap-2 pt-4">
        <Button onClick={onClose}>Cancel</Button>
        <Button tone="primary" disabled={busy || made.length > 200} onClick={() => void make()}>
          {busy ? "Making…" : "Make copy"}
        </Button>
      </div>
    </Dialog>
  );
}
