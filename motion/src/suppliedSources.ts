import { emptyWork, type Work } from "./documents/work.ts";
import { Evaluator } from "./evaluate.ts";
import type { Motion } from "./motion.ts";
import { NO_OTHERS, type Source, type SourceRef, type Sources, sourceKeyOf } from "./sources.ts";

/** A clip that is there to be drawn on; with the work that was done on it where its result is meant. */
export interface Supplied extends Source {
  readonly ref: SourceRef;
  readonly work: Work | null;
}

/** A clip that would draw on itself, also round corners. The message names the chain. */
export class CircularSource extends Error {
  override readonly name = "CircularSource";
}

/**
 * Sources with other clips beside the main one. Each is evaluated when it is first asked for, and kept: as it came with its contacts, or through its work, which may
 * draw on others again. Clips can be added while it is in use.
 */
export class SuppliedSources implements Sources {
  private readonly given = new Map<string, Supplied>();
  private readonly made = new Map<string, Motion>();
  private readonly seen = new Map<string, Motion>();
  /** what is being evaluated, outermost first */
  private readonly chain: SourceRef[] = [];

  constructor(
    readonly main: Source,
    supplied: readonly Supplied[] = [],
  ) {
    for (const one of supplied) this.add(one);
  }

  add(supplied: Supplied): void {
    const key = sourceKeyOf(supplied.ref);
    this.given.set(key, supplied);
    this.made.delete(key);
    this.seen.delete(key);
  }

  has(ref: SourceRef): boolean {
    return this.given.has(sourceKeyOf(ref));
  }

  /** Throws as `find` does where a work's result is meant. */
  look(ref: SourceRef): Motion | undefined {
    const key = sourceKeyOf(ref);
    const found = this.given.get(key);
    if (!found || found.work) return this.find(ref);
    const known = this.seen.get(key) ?? new Evaluator({ main: found, ...NO_OTHERS }).unsearched(emptyWork());
    this.seen.set(key, known);
    return known;
  }

  /** Throws CircularSource, or what evaluating the other's work throws. */
  find(ref: SourceRef): Motion | undefined {
    const key = sourceKeyOf(ref);
    const known = this.made.get(key);
    if (known) return known;
    const found = this.given.get(key);
    if (!found) return undefined;
    const at = this.chain.findIndex((other) => sourceKeyOf(other) === key);
    if (at >= 0) throw new CircularSource(`it would draw on itself: ${[...this.chain.slice(at), ref].map((r) => r.name).join(" → ")}`);
    this.chain.push(ref);
    try {
      const inner: Sources = { main: found, find: (other) => this.find(other), look: (other) => this.look(other) };
      const evaluation = new Evaluator(inner).evaluate(found.work ?? emptyWork());
      const motion = found.work ? evaluation.result : evaluation.base;
      this.made.set(key, motion);
      return motion;
    } finally {
      this.chain.pop();
    }
  }
}
