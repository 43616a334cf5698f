import { patchKind, type StoredPose } from "@stride/motion";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { keepPose } from "../../api/client.ts";
import { change, shownDoc, useBench, whileComputing } from "../../state/bench.ts";
import { playhead } from "../../state/playhead.ts";
import { editDone, usePosing, withEdit } from "../../state/posing.ts";
import { askWorker } from "../../state/session.ts";
import { framesOf } from "../../state/times.ts";
import { Button } from "../../ui/Button.tsx";
import { posePath } from "../../ui/poseSilhouette.ts";
import { Segmented } from "../../ui/Segmented.tsx";
import { KeptPoses } from "./KeptPoses.tsx";

type Parts = "all" | "selected" | "limb";
type Where = "spot" | "world";

/** Copy, paste, mirror, keep and come back to poses. */
export function PosesField() {
  const copied = usePosing((s) => s.copied);
  const selected = useBench((s) => s.parts);
  const neutral = useBench((s) => shownDoc(s).neutral);
  const [parts, setParts] = useState<Parts>("all");
  const [where, setWhere] = useState<Where>("spot");
  const [amount, setAmount] = useState(100);
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const usable = parts === "all" || selected.length > 0;

  /** The joints meant: none for all; for pasting onto the other side, theirs. */
  const joints = async (mirrored: boolean): Promise<number[] | null> => {
    if (parts === "all") return null;
    const chosen = useBench.getState().parts;
    return parts === "limb" ? askWorker((w) => w.limbOf(chosen, mirrored)) : [...chosen];
  };
  const copy = async () => {
    // The frame and the parts of now, wherever the playhead goes while the worker answers.
    const frame = playhead.frame;
    await whileComputing(async () => {
      const chosen = await joints(false);
      usePosing.setState({ copied: await askWorker((w) => w.takePose(frame, chosen, "result")) });
    });
  };
  const apply = async (pose: StoredPose, label: string, mirrored = false) => {
    const frame = playhead.frame;
    const run = async () => {
      const chosen = await joints(mirrored);
      const edit = await askWorker((w) => w.paste(frame, pose, { joints: chosen, where, amount: amount / 100, label, mirrored }));
      change(label, (doc) => withEdit(doc, edit, frame));
      editDone();
    };
    await whileComputing(run).catch((error) => toast.error(error instanceof Error ? error.message : String(error)));
  };
  const reset = async (from: "source" | "rest") =>
    apply(await askWorker((w) => w.takePose(playhead.frame, null, from)), from === "rest" ? "Back to the rest pose" : "Back to the source");
  const toward = async (by: -1 | 1) => {
    const frame = neighbourKey(by);
    if (frame === null) {
      toast.error(`There is no key or touch-up ${by < 0 ? "before" : "after"} this frame`);
      return;
    }
    await apply(await askWorker((w) => w.takePose(frame, null, "result")), `Toward the pose at f ${frame}`);
  };
  const keep = async () => {
    const state = useBench.getState();
    const view = state.after;
    const frame = playhead.frame;
    const chosen = await joints(false);
    const pose = await askWorker((w) => w.takePose(frame, chosen, "result"));
    if (!view || !state.opened) return;
    const from = frame * view.jointCount * 3;
    const positions = Float64Array.from(view.positions.slice(from, from + view.jointCount * 3));
    const picture = posePath({ positions }, state.opened.skeleton.parents, pose.heading, chosen ? new Set(chosen) : null);
    await keepPose({ kind: "pose", name: name.trim() || `Pose of f ${frame}`, data: pose, picture });
    setName("");
    await queries.invalidateQueries({ queryKey: ["poses"] });
  };
  const small = "h-6! px-2! text-xs";
  return (
    <fieldset className="mt-3 border-t border-line pt-2">
      <legend className="sr-only">Poses</legend>
      <div className="flex items-center justify-between pb-1">
        <span>Poses of</span>
        <Segmented
          small
          label="Poses of"
          value={parts}
          onChange={setParts}
          options={[
            { value: "all", label: "all" },
            { value: "limb", label: "limb", hint: "The selected part's limb with its collarbone" },
            { value: "selected", label: "selected" },
          ]}
        />
      </div>
      <div className="flex items-center justify-between pb-1.5">
        <span>Pasted</span>
        <Segmented
          small
          label="Pasted"
          value={where}
          onChange={setWhere}
          options={[
            { value: "spot", label: "on the spot" },
            { value: "world", label: "in the world" },
          ]}
        />
      </div>
      <label className="flex items-center justify-between gap-2 pb-1.5">
        Amount
        <span className="figure">
          <input
            aria-label="Amount of the pose"
            inputMode="decimal"
            value={amount}
            className="w-10 rounded-sm bg-transparent text-right hover:bg-line/40"
            onKeyDown={(e) => e.stopPropagation()}
            onChange={(e) => setAmount(Math.max(0, Math.min(100, Number(e.target.value) || 0)))}
          />{" "}
          %
        </span>
      </label>
      <div className="flex flex-wrap gap-1">
        <Button className={small} disabled={!usable} onClick={() => void copy()}>
          Copy pose
        </Button>
        <Button className={small} disabled={!copied || !usable} onClick={() => copied && void apply(copied, "Paste pose")}>
          Paste
        </Button>
        <Button className={small} disabled={!copied || !usable} onClick={() => copied && void apply(copied, "Paste pose mirrored", true)}>
          Paste mirrored
        </Button>
        <Button className={small} onClick={() => void toward(-1)}>
          Toward key before
        </Button>
        <Button className={small} onClick={() => void toward(1)}>
          Toward key after
        </Button>
      </div>
      <p className="pt-2 pb-1 text-xs text-ink-soft">Back to</p>
      <div className="flex flex-wrap gap-1">
        <Button className={small} onClick={() => void reset("source")}>
          source
        </Button>
        <Button className={small} onClick={() => void reset("rest")}>
          rest pose
        </Button>
        <Button className={small} disabled={!neutral} onClick={() => neutral && void apply(neutral, "Back to my neutral")}>
          my neutral
        </Button>
        <Button
          className={small}
          onClick={() =>
            void askWorker((w) => w.takePose(playhead.frame, null, "result")).then((pose) => change("Set my neutral", (doc) => ({ ...doc, neutral: pose })))
          }
        >
          Set neutral here
        </Button>
      </div>
      <div className="flex gap-1 pt-2">
        <input
          aria-label="Name of the pose"
          placeholder="Name"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
          className="h-6 min-w-0 flex-1 rounded-sm border border-line bg-sheet px-2"
        />
        <Button className={small} disabled={!usable} onClick={() => void keep()}>
          Keep pose
        </Button>
      </div>
      <KeptPoses kind="pose" label="Kept poses" verb="Apply" onUse={(row) => void apply(row.data, `Apply ${row.name}`)} />
    </fieldset>
  );
}

/** The nearest frame before or after the playhead at which the selected patch has a key, or else any patch that is posed into has one. */
function neighbourKey(by: -1 | 1): number | null {
  const state = useBench.getState();
  const doc = shownDoc(state);
  const selected = doc.patches.find((p) => p.id === state.patchId && patchKind(p.kind)?.posing?.keyed);
  const posed = selected ? [selected] : doc.patches.filter((p) => patchKind(p.kind)?.posing && !patchKind(p.kind)?.posing?.keyed);
  const frames = posed.flatMap((p) => (patchKind(p.kind)?.posing?.moments(p.settings) ?? []).flatMap((m) => framesOf(state.clocks, p.id, m).map(Math.round)));
  const beyond = frames.filter((f) => (by < 0 ? f < playhead.frame : f > playhead.frame));
  return beyond.length === 0 ? null : by < 0 ? Math.max(...beyond) : Math.min(...beyond);
}
