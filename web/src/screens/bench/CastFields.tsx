import { clipKeyOf, clipRef, type Patch, partInWords, partKey, partName, pointLabel, roleLabel, type SourceRef } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useQuery } from "@tanstack/react-query";
import clsx from "clsx";
import { fetchCharacters } from "../../api/client.ts";
import { change, useBench, withPatch } from "../../state/bench.ts";
import { useAsked } from "../../state/useAsked.ts";
import { ClipPicture } from "../../timedesk/ClipPicture.tsx";
import { showFigure } from "../../ui/figures.ts";

/** Parts that stand are listed up to so many, the worst first. */
const STANDING_LISTED = 8;
/** Parts whose deviation is listed. */
const LISTED = 5;
/** Nearer than this, joint to joint, hands meet, centimetres. */
const TOUCH_CM = 20;
/** A palm nearer than this to the surface of its own body touches it, centimetres. */
const ON_BODY_CM = 4;
/** Feet may slide and sink so far times the scale, centimetres; the skin round them, which gives, a little more. */
const FEET_CM = 0.2;
const SKIN_CM = 0.5;
/** Slides and depths below this are none, centimetres. */
const SHOWN_CM = 0.05;
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
  const touches = made.touches.filter((t) => t.wasCm <= ON_BODY_CM);
  return (
    <table className="mt-3 w-full text-xs" aria-label="How it came out">
      <tbody>
        <Row name="Legs, arms as long">
          {made.legScale.toFixed(2)} ×, {made.armScale.toFixed(2)} ×
        </Row>
        <Heading>What it stands on</Heading>
        {made.standing.slice(0, STANDING_LISTED).map(({ point, slideCm, slideFrame, depthCm, depthFrame, contacts }) => (
          <Row key={point} name={pointLabel(point)} good={slideCm <= FEET_CM * made.legScale && depthCm <= FEET_CM * made.legScale}>
            {contacts === 0 ? "rests never" : slideCm < SHOWN_CM ? "stays" : `slides ${showFigure(slideCm, "cm")}, f ${slideFrame}`}
            {depthCm > SHOWN_CM && <span className="block">{`sinks ${showFigure(depthCm, "cm")}, f ${depthFrame}`}</span>}
          </Row>
        ))}
        {made.skinDepth && made.skinDepth.depthCm > SHOWN_CM && (
          <Row name={`Skin of the ${partInWords(made.skinDepth.part, plan)}`} good={made.skinDepth.depthCm <= SKIN_CM * made.legScale}>
            {`sinks ${showFigure(made.skinDepth.depthCm, "cm")}, f ${made.skinDepth.frame}`}
          </Row>
        )}
        {(made.hands || touches.length > 0) && <Heading>Hands</Heading>}
        {made.hands && (
          <Row
            name={`Nearest, f ${made.hands.frame}`}
            good={made.hands.wasCm > TOUCH_CM ? undefined : Math.abs(made.hands.isCm - made.hands.wantedCm) <= made.armScale}
          >
            {showFigure(made.hands.isCm, "cm")}, was {showFigure(made.hands.wasCm, "cm")}
          </Row>
        )}
        {touches.map((t) => (
          <Row
            key={t.side}
            name={`${t.side === "left" ? "Left" : "Right"} over ${partInWords(t.part, plan)}, f ${t.frame}`}
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
        <Heading>Turned unlike its partner: in the mean, at most</Heading>
        {off.length === 0 && <Row name="Every part">within {LIKE}°</Row>}
        {off.map((a) => (
          <Row key={a.role} name={roleLabel(a.role, plan)}>
            {showFigure(a.meanDegrees, "°")}, {showFigure(a.worstDegrees, "°")}
          </Row>
        ))}
      </tbody>
    </table>
  );
}

function Heading({ children }: { children: React.ReactNode }) {
  return (
    <tr className="border-t border-line">
      <th scope="colgroup" colSpan={2} className="pt-2 pb-0.5 text-left font-semibold">
        {children}
      </th>
    </tr>
  );
}

function Row({ name, good, children }: { name: string; good?: boolean; children: React.ReactNode }) {
  return (
    <tr className="border-t border-line/70">
      <td className="py-1 pr-2">{name}</td>
      <td className={clsx("figure py-1 text-right whitespace-nowrap", good === true && "text-moss-ink", good === false && "text-coral-ink")}>{children}</td>
    </tr>
  );
}
