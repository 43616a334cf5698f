/** Clips that are picked, by their ids, and the one that was picked last. */
export interface Selection {
  readonly ids: ReadonlySet<string>;
  readonly last: string | null;
}

export const NOTHING_PICKED: Selection = { ids: new Set(), last: null };

/** Picks one more or lets it go; `through` (with Shift) picks all between it and the last one, in the order in which they are shown. */
export function picked(selection: Selection, id: string, shown: readonly string[], through: boolean): Selection {
  const ids = new Set(selection.ids);
  const [a, b] = [shown.indexOf(selection.last ?? ""), shown.indexOf(id)];
  if (through && a >= 0 && b >= 0) for (const other of shown.slice(Math.min(a, b), Math.max(a, b) + 1)) ids.add(other);
  else if (ids.has(id)) ids.delete(id);
  else ids.add(id);
  return { ids, last: id };
}

export function allPicked(shown: readonly string[]): Selection {
  return { ids: new Set(shown), last: shown.at(-1) ?? null };
}
