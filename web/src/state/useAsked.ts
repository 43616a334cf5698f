import type { Remote } from "comlink";
import { useEffect, useState } from "react";
import type { BenchWorker } from "../worker/benchWorker.ts";
import { useBench } from "./bench.ts";
import { askWorker } from "./session.ts";

/**
 * What the worker answers of the motion as it is, asked anew with every motion and whenever `key` changes; null until it has answered. An answer that comes too late,
 * or none, leaves what was there.
 */
export function useAsked<T>(ask: (worker: Remote<BenchWorker>) => PromiseLike<T>, key: string): T | null {
  const after = useBench((s) => s.after);
  const [answer, setAnswer] = useState<T | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: `key` says what is asked, and `after` of which motion
  useEffect(() => {
    let stale = false;
    void askWorker(ask).then(
      (told) => {
        if (!stale) setAnswer(told);
      },
      () => {},
    );
    return () => {
      stale = true;
    };
  }, [key, after]);
  return answer;
}
