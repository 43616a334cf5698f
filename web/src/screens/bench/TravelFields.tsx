import type { Patch } from "@stride/motion";
import { change, useBench, withSetting } from "../../state/bench.ts";
import { Button } from "../../ui/Button.tsx";
import { ArithmeticCard } from "../arithmetic/ArithmeticCard.tsx";
import { misfit } from "../arithmetic/misfit.ts";
import { useGait } from "../arithmetic/useGait.ts";

/** The arithmetic beside a travel's settings, and what to do where travel and steps no longer fit. */
export function TravelFields({ patch }: { patch: Patch }) {
  const gait = useGait();
  const measured = useBench((s) => s.after !== null);
  if (!gait || !measured) return <p className="border-t border-line py-2 text-xs text-ink-soft">Measuring the gait…</p>;
  const wanted = misfit(gait.after);
  return (
    <div className="border-t border-line py-2">
      <h3 className="pb-1 font-semibold">Arithmetic</h3>
      <ArithmeticCard before={gait.before} after={gait.after}>
        {wanted !== null && gait.after && (
          <div role="status" className="rounded-sm border border-coral px-2 py-1.5">
            <p className="text-coral-ink">
              The steps come to {(100 * wanted).toFixed(1)} cm/s, the body travels {(100 * gait.after.speed).toFixed(1)} cm/s: they no longer fit.
            </p>
            <Button className="mt-1 h-6.5!" onClick={() => change(`Speed of ${patch.name}`, (d) => withSetting(d, patch.id, "speed", wanted))}>
              Set the travel to {(100 * wanted).toFixed(1)} cm/s
            </Button>
          </div>
        )}
      </ArithmeticCard>
    </div>
  );
}
