import { clipRef, type SourceRef } from "@stride/motion";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { fetchHistory, fetchRevision, fetchSourceClip, fetchSourceWork } from "../../api/client.ts";
import { useBench } from "../../state/bench.ts";
import { compareWith } from "../../state/beside.ts";
import type { Session } from "../../state/session.ts";
import { Choices } from "../../timedesk/ClipChooser.tsx";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { versionWords } from "./versionWords.ts";

/** What this work is to be seen beside: one of its versions, another clip, or another work. */
export function BesideDialog({ session, onClose }: { session: Session; onClose: () => void }) {
  const row = useBench((s) => s.row);
  const clip = useBench((s) => s.clip);
  const revision = useBench((s) => s.revision);
  const [busy, setBusy] = useState(false);
  const history = useQuery({ queryKey: ["history", row?.id, revision], queryFn: () => fetchHistory(row?.id ?? ""), enabled: row !== null });
  const versions = (history.data ?? []).filter((h) => h.version !== null);
  const doing = async (run: () => Promise<void>) => {
    setBusy(true);
    try {
      await run();
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
      setBusy(false);
    }
  };
  const withClip = (ref: SourceRef) =>
    doing(async () => {
      const other = await fetchSourceClip(ref);
      const document = ref.work === undefined ? null : await fetchSourceWork(ref, ref.work);
      await compareWith(session, ref.work === undefined ? other.name : `${other.name}, as version ${ref.work} of its work left it`, ref, other, document);
    });
  return (
    <Dialog open onClose={onClose} title="Compare with another" description="It is shown beside this work, in step by time or by the phase of their steps.">
      {versions.length > 0 && row && clip && (
        <>
          <h3 className="pb-1 font-semibold">Versions of this work</h3>
          <ul className="mb-3 divide-y divide-line rounded-sm border border-line">
            {versions.map((h) => (
              <li key={h.revision} className="flex items-center gap-3 px-2.5 py-1">
                <span className="min-w-0 flex-1 truncate">{versionWords(h)}</span>
                <Button className="h-6! px-2!" disabled={busy} onClick={() => void doing(() => besideVersion(session, row.id, clipRef(clip), h))}>
                  Compare
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      <h3 className="pb-1 font-semibold">A clip, or a work</h3>
      <div className="flex max-h-80 flex-col rounded-sm border border-line">
        <Choices label="Clips and works" onChoose={(ref) => void withClip(ref)} />
      </div>
    </Dialog>
  );
}

/** Shows a version of this work beside it. */
export async function besideVersion(
  session: Session,
  id: string,
  of: SourceRef,
  version: { readonly revision: number; readonly version: number | null; readonly versionName: string | null },
): Promise<void> {
  const [document, row] = await Promise.all([fetchRevision(id, version.revision), fetchSourceClip(of)]);
  await compareWith(session, versionWords(version), { ...of, work: version.revision }, row, document);
}
