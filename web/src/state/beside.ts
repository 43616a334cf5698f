import type { InStep, SourceRef, Work } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { takenView } from "../worker/sentViews.ts";
import type { CharacterView } from "../worker/views.ts";
import { useBench } from "./bench.ts";
import { askWorker, type Session } from "./session.ts";

/** What is compared with, until it is another or none. */
let asked: { readonly ref: SourceRef; readonly label: string; readonly by: InStep } | null = null;
let stopWatching = () => {};

/** Shows another motion beside the result: a clip as it came, or what a document makes of it. Throws what keeps it from being read. */
export async function compareWith(session: Session, label: string, ref: SourceRef, row: ClipRow, work: Work | null): Promise<void> {
  await session.supply(ref, row, work);
  asked = { ref, label, by: useBench.getState().beside?.by ?? "time" };
  await refresh();
  useBench.setState({ compare: "side" });
  stopWatching();
  // What is in step with the result is so with every new one.
  stopWatching = useBench.subscribe((state, old) => {
    if (state.row !== old.row) endComparison();
    else if (asked && state.after !== old.after) void refresh().catch(endComparison);
  });
}

export function compareBy(by: InStep): void {
  if (!asked) return;
  asked = { ...asked, by };
  void refresh().catch(endComparison);
}

export function endComparison(): void {
  asked = null;
  stopWatching();
  stopWatching = () => {};
  useBench.setState({ beside: null, compare: "after" });
}

async function refresh(): Promise<void> {
  const wanted = asked;
  if (!wanted) return;
  const made = await askWorker((w) => w.beside(wanted.ref, wanted.by));
  if (asked !== wanted) return;
  if (!made) throw new Error(`${wanted.label} is not there to be compared with`);
  const { label, by } = wanted;
  const known = useBench.getState().beside;
  const view = takenView(made.view, null);
  useBench.setState({
    beside: {
      label,
      by,
      view,
      character: sameCharacter(known?.label === label ? known.character : null, made.character),
      frames: made.frames,
      footfalls: made.footfalls,
    },
  });
}

/** What is as it was keeps its identity, so that no figure is built anew for it. */
function sameCharacter(known: CharacterView | null, made: CharacterView): CharacterView {
  return known && known.volumes.length === made.volumes.length && known.height === made.height ? known : made;
}
