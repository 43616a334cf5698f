import { useBench } from "../../state/bench.ts";
import { askWorker, type Session } from "../../state/session.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";

/** The work was saved elsewhere since it was opened: both versions are offered, and neither is lost (each save stays in the history). */
export function ConflictDialog({ session }: { session: Session }) {
  const conflict = useBench((s) => s.conflict);
  const doc = useBench((s) => s.doc);
  if (!conflict) return null;
  const keepMine = () => session.keepMine(conflict.revision);
  const takeTheirs = async () => {
    const theirs = await askWorker((w) => w.named(conflict.document));
    useBench.setState((s) => ({
      doc: theirs,
      draft: null,
      name: conflict.name,
      past: [...s.past, { label: "Take the other version", doc: s.doc }],
      future: [],
      revision: conflict.revision,
      savedAt: conflict.savedAt,
      conflict: null,
      save: "saved",
    }));
  };
  const describe = (patches: readonly { name: string }[]) => (patches.length === 0 ? "no patches" : patches.map((p) => p.name).join(", "));
  return (
    <Dialog
      open
      onClose={() => undefined}
      title="This work was saved elsewhere"
      description="Choose which version goes on. The other stays in the history, or one undo away."
    >
      <dl className="grid grid-cols-[9rem_1fr] gap-y-2">
        <dt className="font-semibold">Yours, here</dt>
        <dd>{describe(doc.patches)}</dd>
        <dt className="font-semibold">Theirs, rev {conflict.revision}</dt>
        <dd>{describe(conflict.document.patches)}</dd>
      </dl>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={() => void takeTheirs()}>Take theirs</Button>
        <Button tone="primary" onClick={keepMine}>
          Keep mine
        </Button>
      </div>
    </Dialog>
  );
}
