import { type GroundShape, groundShapeSchema, shapeAhead, shapesFound } from "@stride/motion";
import { X } from "lucide-react";
import { useBench } from "../../../state/bench.ts";
import { playhead } from "../../../state/playhead.ts";
import { Button, IconButton } from "../../../ui/Button.tsx";
import { NumberBox } from "../../../ui/NumberBox.tsx";
import type { FieldEditorProps } from "./drawnField.ts";
import { footfallsOf, shapeName, withMeasure } from "./groundShapes.ts";

/** A measure of a shape as it is typed: stored value × factor is what is shown. */
interface Measured {
  readonly key: string;
  readonly label: string;
  readonly factor?: number;
  readonly decimals?: number;
  readonly title?: string;
}

const PLACED: readonly Measured[] = [
  { key: "x", label: "x m", decimals: 2, title: "Middle of its near edge" },
  { key: "z", label: "z m", decimals: 2, title: "Middle of its near edge" },
  { key: "heading", label: "heading °", decimals: 1, title: "Which way it runs, about the vertical from +z" },
  { key: "width", label: "width m", decimals: 2 },
];
const LANDING: Measured = { key: "landing", label: "behind m", decimals: 1, title: "How far it goes on level behind its end" };

const MEASURES: Readonly<Record<GroundShape["shape"], readonly Measured[]>> = {
  slope: [{ key: "degrees", label: "steep °", decimals: 1 }, { key: "length", label: "length m", decimals: 2 }, LANDING, ...PLACED],
  steps: [
    { key: "rise", label: "rise cm", factor: 100, decimals: 1, title: "Of each step; negative goes down" },
    { key: "tread", label: "tread cm", factor: 100, decimals: 1, title: "How deep each step is" },
    { key: "count", label: "steps" },
    LANDING,
    ...PLACED,
  ],
  box: [{ key: "height", label: "height cm", factor: 100, decimals: 1 }, { key: "length", label: "length m", decimals: 2 }, ...PLACED],
};

const NEW: readonly (readonly [GroundShape["shape"], string])[] = [
  ["slope", "Slope"],
  ["steps", "Steps"],
  ["box", "Box"],
];

/** What stands on a ground: each shape with its measures, and new ones before the body at the playhead. */
export function GroundShapesField({ patch, fields: [field] }: FieldEditorProps) {
  const after = useBench((s) => s.after);
  const shapes = field.value as readonly GroundShape[];
  if (!after) return null;
  // Once shapes stand there, the footfalls tell of those.
  const found = shapes.length === 0 ? shapesFound(footfallsOf(after)) : [];
  const set = (label: string, next: readonly GroundShape[]) => field.set(next, `${label}, ${patch.name}`);
  return (
    <fieldset className="border-t border-line pt-2 pb-1">
      <legend className="sr-only">Shapes of the ground</legend>
      <div className="flex items-center justify-between gap-1 pb-1.5">
        <span title="Before the body at the playhead, a step for each footfall">Add</span>
        <span className="flex gap-1">
          {NEW.map(([kind, label]) => (
            <Button
              key={kind}
              className="h-6! px-2! text-xs"
              onClick={() => set(`Add ${label.toLowerCase()}`, [...shapes, shapeAhead(kind, footfallsOf(after), playhead.frame)])}
            >
              {label}
            </Button>
          ))}
        </span>
      </div>
      {found.length > 0 && (
        <Button
          className="mb-1.5 h-6! w-full px-2! text-xs"
          title="Steps and boxes as the resting places of the clip show them"
          onClick={() => set("Ground as found", found)}
        >
          As found: {found.map(shapeName).join(", ")}
        </Button>
      )}
      {shapes.length === 0 && <p className="pb-1 text-xs text-ink-soft">Nothing stands on it.</p>}
      <ul>
        {shapes.map((shape, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: shapes have no names, and do not change places
          <li key={i} className="border-t border-line/70 py-1.5" aria-label={shapeName(shape)}>
            <div className="flex items-center justify-between">
              <span className="font-semibold first-letter:uppercase">{shapeName(shape)}</span>
              <IconButton
                label={`Take away ${shapeName(shape)}`}
                className="size-5!"
                onClick={() =>
                  set(
                    `Take away ${shape.shape}`,
                    shapes.filter((s) => s !== shape),
                  )
                }
              >
                <X size={12} />
              </IconButton>
            </div>
            <div className="grid grid-cols-4 gap-x-1.5 gap-y-1">
              {MEASURES[shape.shape].map(({ key, label, factor = 1, decimals = 0, title }) => {
                const ends = endsOf(shape.shape, key);
                return (
                  <NumberBox
                    key={key}
                    label={label}
                    title={title}
                    value={Number((shape as Record<string, unknown>)[key]) * factor}
                    min={ends[0] * factor}
                    max={ends[1] * factor}
                    decimals={decimals}
                    onCommit={(v) =>
                      set(
                        `${label} of ${shape.shape}`,
                        shapes.map((s) => (s === shape ? withMeasure(s, key, v / factor) : s)),
                      )
                    }
                  />
                );
              })}
            </div>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

/** The least and the most that a measure of a shape may be, as its schema has them. */
function endsOf(kind: GroundShape["shape"], key: string): readonly [number, number] {
  const option = groundShapeSchema.options.find((o) => o.shape.shape.value === kind);
  const schema = option && (option.shape as Record<string, { minValue?: number | null; maxValue?: number | null }>)[key];
  return [schema?.minValue ?? Number.NEGATIVE_INFINITY, schema?.maxValue ?? Number.POSITIVE_INFINITY];
}
