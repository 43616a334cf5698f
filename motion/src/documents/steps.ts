/** JSON of which only the shape is known so far. */
export type Loose = Record<string, unknown>;

export const isLoose = (value: unknown): value is Loose => typeof value === "object" && value !== null && !Array.isArray(value);

/** Frames of version 1 as seconds; anything but a number is left to be refused by the schema. */
export function secondsOf(frames: unknown, fps: number): unknown {
  return typeof frames === "number" ? frames / fps : frames;
}

/** A joint's name of version 1 as a part. */
export function partOfName(name: unknown): unknown {
  return typeof name === "string" ? { joint: name } : name;
}

/** Renames and converts fields of settings: each entry takes the old field to new ones; fields without an entry stay. */
export function settingsUpgrade(entries: Readonly<Record<string, (value: unknown, fps: number) => Loose>>): (settings: Loose, fps: number) => Loose {
  return (settings, fps) =>
    Object.assign({}, ...Object.entries(settings).map(([key, value]) => (Object.hasOwn(entries, key) ? entries[key](value, fps) : { [key]: value })));
}
