import { type ReactNode, useEffect, useState } from "react";

/** Mounts its children some pictures after its parent, so that a heavy screen comes up in short steps instead of one long one. */
export function AfterPaint({ pictures, children }: { pictures: number; children: ReactNode }) {
  const [left, setLeft] = useState(pictures);
  useEffect(() => {
    if (left === 0) return;
    // Behind the next picture: a task of its own.
    const request = requestAnimationFrame(() => window.setTimeout(() => setLeft(left - 1)));
    return () => cancelAnimationFrame(request);
  }, [left]);
  return left === 0 ? children : null;
}
