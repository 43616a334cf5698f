import { type MixSettings, type Patch, patchKind } from "@stride/motion";
import { change, preview, useBench, withPatch, withSetting } from "../../state/bench.ts";
import { lengthOfOther, useOtherClips } from "../../state/otherClips.ts";
import { Button } from "../../ui/Button.tsx";
import { NumberBox } from "../../ui/NumberBox.tsx";
import { Segmented } from "../../ui/Segmented.tsx";
import { SliderRow } from "../../ui/SliderRow.tsx";
import { BodyPicker } from "./BodyPicker.tsx";
import { KeptPoses } from "./KeptPoses.tsx";
import { RecordField } from "./RecordField.tsx";

/** How the other clip lies in time, and which parts it is on. */
export function MixFields({ patch }: { patch: Patch }) {
  const settings = { ...patchKind("mix")?.defaults, ...patch.settings } as MixSettings;
  const { fps } = useBench((s) => s.clocks);
  useOtherClips((s) => s.rows);
  const seconds = (settings.clip && lengthOfOther(settings.clip)) ?? 0;
  const frames = Math.round(seconds * fps);
  const added = settings.how === "added" && settings.clip !== null;
  const set = (name: keyof MixSettings, value: unknown, label: string) => change(`${label} of ${patch.name}`, (d) => withSetting(d, patch.id, name, value));
  return (
    <div className="border-t border-line py-2">
      {settings.pose && !settings.clip ? (
        <p className="flex items-center justify-between gap-2 py-1">
          <span>A kept pose is laid over, all the while</span>
          <Button className="h-6.5!" onClick={() => set("pose", null, "Clip instead of the pose")}>
            Take a clip
          </Button>
        </p>
      ) : (
        <>
          <SliderRow
            label="Starts at its frame"
            value={Math.round(settings.offset * fps)}
            min={0}
            max={Math.max(1, frames)}
            step={1}
            help="The frame of the other clip that comes at the start of the range; frames are counted at this work's rate"
            onMove={(v) => preview((d) => withSetting(d, patch.id, "offset", v / fps))}
            onCommit={(v) => set("offset", v / fps, "Start")}
          />
          <SliderRow
            label="Speed"
            unit="%"
            value={settings.speed * 100}
            min={10}
            max={300}
            step={1}
            onMove={(v) => preview((d) => withSetting(d, patch.id, "speed", v / 100))}
            onCommit={(v) => set("speed", v / 100, "Speed")}
          />
          <div className="grid grid-cols-2 gap-2 py-1">
            <NumberBox
              label="Piece of it from, f"
              value={Math.round((settings.from ?? 0) * fps)}
              min={0}
              max={frames}
              onCommit={(v) => set("from", v === 0 ? null : v / fps, "Piece")}
            />
            <NumberBox
              label="to, f"
              value={Math.round((settings.to ?? seconds) * fps)}
              min={0}
              max={frames}
              onCommit={(v) => set("to", v >= frames ? null : v / fps, "Piece")}
            />
          </div>
          <div className="flex items-center justify-between gap-2 py-1">
            <span>Plays</span>
            <Segmented
              small
              label="Plays"
              value={settings.repeat}
              options={[
                { value: "once", label: "Once" },
                { value: "fill", label: "To fill", hint: "Repeated, its seam closed and its travel carried on" },
              ]}
              onChange={(v) => set("repeat", v, "Repeat")}
            />
          </div>
          <div className="flex items-center justify-between gap-2 py-1">
            <span>In phase</span>
            <Segmented
              small
              label="In phase"
              value={settings.align}
              options={[
                { value: "none", label: "Own pace" },
                { value: "contacts", label: "On footfalls", hint: "Its landings come where those below are" },
              ]}
              onChange={(v) => set("align", v, "Phase")}
            />
          </div>
        </>
      )}
      <BodyPicker patch={patch} />
      <RecordField />
      <details className="pt-1">
        <summary className="cursor-pointer text-ink-soft">{added ? "A kept pose that the difference is to" : "A kept pose instead of a clip"}</summary>
        {added && settings.pose && (
          <Button className="mt-1 h-6.5!" onClick={() => set("pose", null, "Reference")}>
            Its own reference again
          </Button>
        )}
        <KeptPoses
          kind="pose"
          label={added ? "Kept poses that the difference is to" : "Kept poses to lay over"}
          verb={added ? "Differ from" : "Lay over"}
          onUse={(row) =>
            change(`Pose of ${patch.name}`, (d) =>
              withPatch(d, patch.id, { settings: { ...patch.settings, pose: row.data, ...(added ? {} : { clip: null }) } }),
            )
          }
        />
      </details>
    </div>
  );
}
