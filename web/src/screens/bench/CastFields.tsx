import { type Acceptance, clipKeyOf, clipRef, type Patch, partInWords, partKey, partName, pointLabel, roleLabel, type SourceRef } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useQuery } from "@tanstack/react-query";
import clsx from "clsx";
import { fetchCharacters } from "../../api/client.ts";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { useAsked } from "../../state/useAsked.ts";
import { ClipPicture } from "../../timedesk/ClipPicture.tsx";
import { showFigure } from "../../ui/figures.ts";

/** Parts whose deviation is listed. */
const LISTED = 5;
/** Nearer than this, joint to joint, hands meet, centimetres. */
const TOUCH_CM = 20;
/** A palm nearer than this to the surface of its own body touches it, centimetres. */
const ON_BODY_CM = 4;
/** Feet may slide and sink so far times the scale, centimetres; the skin round them, which gives, a little more. */
const FEET_CM = 0.2;
const SKIN_CM = 0.5;
/** Depths below this are not named, centimetres. */
const DEPTH_SHOWN = 0.05;
/** Below this a part counts as turned like its partner, degrees. */
const LIKE = 0.5;

/** Which character the motion goes onto, and how it has come out there. */
export function CastFields({ patch }: { patch: Patch }) {
  const characters = useQuery({ queryKey: ["characters"], queryFn: fetchCharacters });
  const onto = patch.settings.onto as SourceRef | null | undefined;
  const chosen = (row: ClipRow) => onto !== null && onto !== undefined && clipKeyOf(onto) === clipKeyOf(clipRef(row));
  const choose = (row: ClipRow) => change(`Character of ${patch.name}`, (d) => withPatch(d, patch.id, { settings: { ...patch.settings, onto: clipRef(row) } }));
  return (
    <div className="border-t border-line py-2">
      <fieldset>
        <legend className="pb-1">Onto</legend>
        <div className="grid grid-cols-3 gap-1.5">
          {characters.data?.map((row) => (
            <label
              key={row.id}
              className={clsx(
                "flex min-w-0 cursor-pointer flex-col rounded-sm border bg-paper pb-1 has-focus-visible:outline-2 has-focus-visible:outline-cobalt",
                chosen(row) ? "border-cobalt bg-cobalt-wash" : "border-line hover:border-ink-soft",
              )}
            >
              <input type="radio" name={`onto-${patch.id}`} className="sr-only" checked={chosen(row)} onChange={() => choose(row)} />
              <span className="block h-16 overflow-hidden">
                <ClipPicture clip={row} height={64} />
              </span>
              <span className="min-w-0 px-1.5">
                <span className="block truncate font-semibold">{row.name}</span>
                <span className="figure block truncate text-xs text-ink-soft">
                  {row.summary.height ? `${row.summary.height.toFixed(2)} m` : `${row.summary.joints} joints`}
                </span>
              </span>
            </label>
          ))}
        </div>
        {characters.data?.length === 0 && <p className="text-ink-soft">No character is there yet. Drop a .glb body without motion into the library.</p>}
      </fieldset>
      {onto && <Outcome patch={patch} />}
    </div>
  );
}

function Outcome({ patch }: { patch: Patch }) {
  const made = useAsked((w) => w.casting(patch.id), patch.id);
  const plan = useBench((s) => s.body?.plan);
  if (!made) return null;
  const off = made.angles.filter((a) => a.worstDegrees > LIKE).slice(0, LISTED);
  return (
    <table className="mt-3 w-full table-fixed text-xs" aria-label="How it came out">
      <tbody>
        <Row name="Legs, arms as long">
          {made.legScale.toFixed(2)} ×, {made.armScale.toFixed(2)} ×
        </Row>
        {shownStanding(made).map(({ point, slideCm, slideFrame, depthCm, depthFrame, contacts }) => (
          <Row key={point} name={pointLabel(point)} good={slideCm <= FEET_CM * made.legScale && depthCm <= FEET_CM * made.legScale}>
            {contacts === 0 ? "rests never" : `slides ${showFigure(slideCm, "cm")}, f ${slideFrame}`}
            {depthCm > DEPTH_SHOWN && <span className="block">{`${showFigure(depthCm, "cm")} through the floor, f ${depthFrame}`}</span>}
          </Row>
        ))}
        {made.skinDepth && made.skinDepth.depthCm > DEPTH_SHOWN && (
          <Row
            name={`Skin through the floor: ${partInWords(made.skinDepth.part, plan)}, f ${made.skinDepth.frame}`}
            good={made.skinDepth.depthCm <= SKIN_CM * made.legScale}
          >
            {showFigure(made.skinDepth.depthCm, "cm")}
          </Row>
        )}
        {made.hands && (
          <Row
            name={`Hands nearest, f ${made.hands.frame}`}
            good={made.hands.wasCm > TOUCH_CM ? undefined : Math.abs(made.hands.isCm - made.hands.wantedCm) <= made.armScale}
          >
            {showFigure(made.hands.isCm, "cm")}, was {showFigure(made.hands.wasCm, "cm")}
          </Row>
        )}
        {made.touches
          .filter((t) => t.wasCm <= ON_BODY_CM)
          .map((t) => (
            <Row
              key={t.side}
              name={`${t.side === "left" ? "Left" : "Right"} palm over the ${partInWords(t.part, plan)}, f ${t.frame}`}
              good={Math.abs(t.isCm - t.wantedCm) <= made.armScale}
            >
              {showFigure(t.isCm, "cm")}, was {showFigure(t.wasCm, "cm")}
            </Row>
          ))}
        {made.limits?.length === 0 && (
          <Row name="Joints past their limits" good>
            none
          </Row>
        )}
        {made.limits?.slice(0, LISTED).map((l) => (
          <Row key={`${partKey(l.part)} ${l.way}`} name={`${partName(l.part, plan)} past its limit, f ${l.frame}`} good={false}>
            {l.way} {showFigure(l.degrees, "°")}
          </Row>
        ))}
        {off.length === 0 && <Row name="Every part turned like its partner">within {LIKE}°</Row>}
        {off.map((a) => (
          <Row key={a.role} name={`${roleLabel(a.role, plan)} turned otherwise`}>
            {showFigure(a.meanDegrees, "°")}, at most {showFigure(a.worstDegrees, "°")}
          </Row>
        ))}
      </tbody>
    </table>
  );
}

/** Parts that rest on something, the worst first; those that bear the body and rest never are named too. */
function shownStanding({ standing }: Acceptance): Acceptance["standing"] {
  return standing.slice(0, 8);
}

function Row({ name, good, children }: { name: string; good?: boolean; children: React.ReactNode }) {
  return (
    <tr className="border-t border-line/70">
      <td className="w-1/2 py-1 pr-2">{name}</td>
      <td className={clsx("figure py-1 text-right", good === true && "text-moss-ink", good === false && "text-coral-ink")}>{children}</td>
    </tr>
  );
}
