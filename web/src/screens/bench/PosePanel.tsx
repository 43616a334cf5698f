import { describeEdit, type Edit, jointLabels, type PartRef, partKey, partOf, patchKind } from "@stride/motion";
import clsx from "clsx";
import { Trash2 } from "lucide-react";
import { useMemo, useState } from "react";
import { type BenchState, change, pickPart, shownDoc, useBench, withPatch } from "../../state/bench.ts";
import { partInWords, partName } from "../../state/partWords.ts";
import { playhead, usePlayheadFrame } from "../../state/playhead.ts";
import { composeTyped, editDone, editTarget, usePosing, withEdit } from "../../state/posing.ts";
import { framesWritten } from "../../timedesk/writesLine.ts";
import { AxisField } from "../../ui/AxisField.tsx";
import { Button, IconButton } from "../../ui/Button.tsx";
import { HoldsField } from "./HoldsField.tsx";
import { PivotField } from "./PivotField.tsx";
import { PosesField } from "./PosesField.tsx";

/** Everything about posing: parts, numbers, holds, pivot, poses. */
export function PosePanel() {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a long panel must scroll by keyboard
    <section className="h-full overflow-y-auto px-3.5 pb-4" tabIndex={0} aria-label="Pose">
      <WriteLine />
      <PartsField />
      <NumbersField />
      <HoldsField />
      <PivotField />
      <PosesField />
      <EditsField />
    </section>
  );
}

/** What the next change of the pose would write. */
function WriteLine() {
  const frame = usePlayheadFrame();
  const text = useBench((s) => {
    const { patch, isNew } = editTarget(s, shownDoc(s), frame);
    const kind = patchKind(patch.kind);
    if (kind?.posing?.keyed) return `Changes are keyed at f ${frame} on ${patch.name}`;
    return `Changes write to ${isNew ? `a new ${kind?.title.toLowerCase() ?? patch.kind}` : patch.name}, ${framesWritten(s, patch, isNew)}`;
  });
  const planted = useBench((s) => plantedPart(s, frame));
  return (
    <p className="border-b border-line py-2 text-ink-soft" role="status">
      {text}
      {planted && <span className="block text-coral-ink">{planted} is planted here and stays: change its contact on the footfall chart.</span>}
    </p>
  );
}

/** The selected part that stands on the ground at a frame of a planted motion, if one does. */
function plantedPart(s: BenchState, frame: number): string | null {
  const { character, opened, after } = s;
  if (!character || !opened || !after) return null;
  for (const contact of after.contacts) {
    const point = character.points.find((p) => p.id === contact.point);
    // Where a plant has decided its place, it stays.
    if (!point || !contact.anchor.point || contact.start > frame || contact.end < frame) continue;
    const joint = s.parts.find((j) => j === point.joint || j === point.named);
    if (joint !== undefined) return partName(partOf({ skeleton: opened.skeleton, body: character.body }, joint));
  }
  return null;
}

const COMMON = ["hips", "chest", "head", "leftHand", "rightHand", "leftFoot", "rightFoot"] as const;
const ANIMAL_LABELS: Partial<Record<(typeof COMMON)[number], string>> = { leftHand: "L fore", rightHand: "R fore", leftFoot: "L hind", rightFoot: "R hind" };
const COMMON_LABELS: Record<(typeof COMMON)[number], string> = {
  hips: "Hips",
  chest: "Chest",
  head: "Head",
  leftHand: "L hand",
  rightHand: "R hand",
  leftFoot: "L foot",
  rightFoot: "R foot",
};

function PartsField() {
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const parts = useBench((s) => s.parts);
  const [search, setSearch] = useState("");
  const labels = useMemo(() => (opened && body ? jointLabels(body, opened.skeleton.names) : []), [opened, body]);
  if (!opened || !body) return null;
  const found =
    search.trim() === ""
      ? []
      : labels
          .map((label, joint) => ({ label, joint }))
          .filter(({ label, joint }) => `${label} ${opened.skeleton.names[joint]}`.toLowerCase().includes(search.toLowerCase()));
  const chain = chainOf(parts, opened.skeleton.parents, body.roles);
  return (
    <fieldset className="pt-2">
      <legend className="sr-only">Parts</legend>
      <div className="flex flex-wrap gap-1">
        {COMMON.map((role) => {
          const joint = body.roles[role];
          return joint === undefined ? null : (
            <button
              key={role}
              type="button"
              aria-pressed={parts.includes(joint)}
              className={clsx(
                "h-6 rounded-sm border px-1.5 text-xs",
                parts.includes(joint) ? "border-cobalt bg-cobalt-wash text-cobalt" : "border-line hover:border-ink-soft",
              )}
              onClick={(event) => pickPart(joint, event.shiftKey)}
            >
              {(body.plan === "quadruped" && ANIMAL_LABELS[role]) || COMMON_LABELS[role]}
            </button>
          );
        })}
        {chain && (
          <button
            type="button"
            className="h-6 rounded-sm border border-line px-1.5 text-xs hover:border-ink-soft"
            onClick={() => {
              useBench.setState({ parts: chain });
              usePosing.setState({ shared: true });
            }}
          >
            its whole chain
          </button>
        )}
      </div>
      <input
        type="search"
        aria-label="Search parts"
        placeholder="Search all parts"
        value={search}
        onChange={(e) => setSearch(e.target.value)}
        onKeyDown={(e) => e.stopPropagation()}
        className="mt-1.5 h-6 w-full rounded-sm border border-line bg-sheet px-2"
      />
      {found.length > 0 && (
        <div
          className="mt-1 max-h-28 overflow-y-auto rounded-sm border border-line"
          role="listbox"
          aria-label="Parts found"
          aria-multiselectable="true"
          tabIndex={-1}
        >
          {found.map(({ label, joint }) => (
            <button
              key={joint}
              type="button"
              role="option"
              aria-selected={parts.includes(joint)}
              className={clsx("block w-full truncate px-2 py-0.5 text-left hover:bg-cobalt-wash", parts.includes(joint) && "text-cobalt")}
              onClick={(event) => pickPart(joint, event.shiftKey)}
            >
              {label}
            </button>
          ))}
        </div>
      )}
    </fieldset>
  );
}

/** Spine, neck, tail or finger that a selected joint belongs to: joints between which a turn is shared out. */
function chainOf(parts: readonly number[], parents: ArrayLike<number>, roles: Readonly<Record<string, number | undefined>>): number[] | null {
  if (parts.length !== 1) return null;
  const role = Object.keys(roles).find((r) => roles[r] === parts[0]);
  const stem = role && /^(spine|chest|neck|tail|(?:left|right)(?:Thumb|Index|Middle|Ring|Little))/.exec(role)?.[1];
  if (!stem) return null;
  const family = (r: string) => (stem === "chest" || stem === "spine" ? /^(spine\d?|chest)$/.test(r) : new RegExp(`^${stem}\\d?$`).test(r));
  const chain = Object.entries(roles).flatMap(([r, joint]) => (family(r) && joint !== undefined ? [joint] : []));
  const depth = (j: number): number => (parents[j] < 0 ? 0 : 1 + depth(parents[j]));
  return chain.length > 1 ? chain.sort((a, b) => depth(a) - depth(b)) : null;
}

/** The amounts of the last edit of these parts here, to be read and typed. */
function NumbersField() {
  const frame = usePlayheadFrame();
  const parts = useBench((s) => s.parts);
  const opened = useBench((s) => s.opened);
  const body = useBench((s) => s.body);
  const { tool, space, shared } = usePosing();
  const doc = useBench(shownDoc);
  if (!opened || !body || tool === "look" || parts.length === 0) {
    return (
      <p className="py-2 text-ink-soft">
        {parts.length === 0 ? "Select a part here or on the body; then turn or move it." : "Choose Turn or Move above the body."}
      </p>
    );
  }
  const refs = parts.map((j) => partOf({ skeleton: opened.skeleton, body }, j));
  const shown = lastAmounts(doc, frame, tool, refs);
  const unit = tool === "turn" ? "°" : "cm";
  const type = (axis: number, value: number) => {
    const by = composeTyped(tool, space, shown, axis, value);
    const edit: Edit =
      tool === "turn"
        ? { op: "turn", parts: refs, space, degrees: by, shared: shared && refs.length > 1, pivot: usePosing.getState().pivot }
        : { op: "move", parts: refs, space, centimetres: by };
    change(`${tool === "turn" ? "Turn" : "Move"} ${refs.length > 1 ? `${refs.length} parts` : partInWords(refs[0])}`, (d) => withEdit(d, edit, playhead.frame));
    editDone();
  };
  return (
    <fieldset className="mt-3 border-t border-line pt-2">
      <legend className="sr-only">Amounts</legend>
      <div className="pb-1">
        {tool === "turn" ? "Turned" : "Moved"} here, {space === "own" ? "own" : space === "parent" ? "parent’s" : space === "body" ? "body’s" : "world’s"} axes
      </div>
      <div className="grid grid-cols-3 gap-1.5">
        {["x", "y", "z"].map((axis, i) => (
          <AxisField
            key={axis}
            axis={axis}
            label={tool === "turn" ? `Turn about ${axis}` : `Move along ${axis}`}
            value={shown[i]}
            unit={unit}
            of={`${parts.join()}-${frame}`}
            onCommit={(value) => type(i, value)}
          />
        ))}
      </div>
      {tool === "turn" && parts.length > 1 && (
        <label className="flex items-center gap-2 pt-1.5">
          <input type="checkbox" className="accent-[var(--ink)]" checked={shared} onChange={(event) => usePosing.setState({ shared: event.target.checked })} />
          Share the turn out among the {parts.length} parts
        </label>
      )}
    </fieldset>
  );
}

function lastAmounts(doc: ReturnType<typeof shownDoc>, frame: number, tool: string, parts: readonly PartRef[]): readonly number[] {
  const { patch, isNew } = editTarget(useBench.getState(), doc, frame);
  const last = isNew ? undefined : patchKind(patch.kind)?.posing?.edits?.(patch.settings).list.at(-1);
  const keys = (list: readonly PartRef[]) => list.map(partKey).join();
  if (!last || last.op === "pose" || last.op !== tool || keys(last.parts) !== keys(parts) || last.space !== usePosing.getState().space) return [0, 0, 0];
  return last.op === "turn" ? last.degrees : last.centimetres;
}

/** What the selected patch does, edit by edit, where its kind lists them. */
function EditsField() {
  const patch = useBench((s) => shownDoc(s).patches.find((p) => p.id === s.patchId));
  const edits = patch && patchKind(patch.kind)?.posing?.edits?.(patch.settings);
  if (!patch || !edits) return null;
  return (
    <section className="mt-3 border-t border-line pt-2" aria-label="Edits of this patch">
      <h3 className="pb-1">What {patch.name} does</h3>
      {edits.list.length === 0 && <p className="text-ink-soft">Nothing yet.</p>}
      <ol>
        {edits.list.map((edit, i) => (
          <li key={`${i}-${edit.op}`} className="flex items-center gap-2">
            <span className="flex-1 truncate">{describeEdit(edit, partName)}</span>
            <IconButton
              label={`Remove: ${describeEdit(edit, partName)}`}
              className="size-5!"
              onClick={() => change(`Remove edit of ${patch.name}`, (d) => withPatch(d, patch.id, { settings: edits.without(i) }))}
            >
              <Trash2 size={12} />
            </IconButton>
          </li>
        ))}
      </ol>
      {patch.range && (
        <Button className="mt-2 h-6! px-2! text-xs" onClick={() => change(`Whole clip: ${patch.name}`, (d) => withPatch(d, patch.id, { range: null }))}>
          Over the whole clip instead
        </Button>
      )}
    </section>
  );
}
