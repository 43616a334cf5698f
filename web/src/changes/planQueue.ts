/** What a change would make of one work: being worked out, known, or not possible and why. */
export type Planned<P> =
  | { readonly state: "waiting" }
  | { readonly state: "planning" }
  | { readonly state: "planned"; readonly plan: P }
  | { readonly state: "impossible"; readonly why: string };

/** Works that are planned at once: the server has two threads for it. */
const AT_ONCE = 2;

/**
 * Works out a change for many works, two at a time, in their order. `onRows` hears of every step. Stopped, it tells nothing any more. What throws becomes
 * the reason why that one is impossible.
 */
export class PlanQueue<P> {
  private readonly rows = new Map<string, Planned<P>>();
  private readonly stopping = new AbortController();

  constructor(
    private readonly ids: readonly string[],
    private readonly plan: (id: string, signal: AbortSignal) => Promise<P>,
    private readonly onRows: (rows: ReadonlyMap<string, Planned<P>>) => void,
  ) {
    for (const id of ids) this.rows.set(id, { state: "waiting" });
  }

  async run(): Promise<void> {
    const waiting = [...this.ids];
    this.tell();
    const next = async (): Promise<void> => {
      for (let id = waiting.shift(); id !== undefined && !this.stopping.signal.aborted; id = waiting.shift()) {
        this.set(id, { state: "planning" });
        try {
          this.set(id, { state: "planned", plan: await this.plan(id, this.stopping.signal) });
        } catch (error) {
          this.set(id, { state: "impossible", why: error instanceof Error ? error.message : String(error) });
        }
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, next));
  }

  stop(): void {
    this.stopping.abort();
  }

  private set(id: string, row: Planned<P>): void {
    this.rows.set(id, row);
    this.tell();
  }

  private tell(): void {
    if (!this.stopping.signal.aborted) this.onRows(new Map(this.rows));
  }
}

/** Works whose plan is known and that are no exception, in their order. */
export function taken<P>(
  ids: readonly string[],
  rows: ReadonlyMap<string, Planned<P>>,
  exceptions: ReadonlySet<string>,
): { readonly id: string; readonly plan: P }[] {
  return ids.flatMap((id) => {
    const row = rows.get(id);
    return row?.state === "planned" && !exceptions.has(id) ? [{ id, plan: row.plan }] : [];
  });
}

/** How many are still to be worked out. */
export function open<P>(rows: ReadonlyMap<string, Planned<P>>): number {
  return [...rows.values()].filter((row) => row.state === "waiting" || row.state === "planning").length;
}
