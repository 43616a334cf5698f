/** Fills a name template: words in braces that `values` knows. Characters that file systems refuse become hyphens. */
export function fillTemplate(template: string, values: Readonly<Record<string, string>>): string {
  const filled = template.replace(/\{(\w+)\}/g, (whole, key: string) => values[key] ?? whole);
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what has to go
  return filled.replace(/[\\/:*?"<>|\u0000-\u001f]+/g, "-").trim() || "clip";
}

/** The least number, from 1 on, with which a template makes a name that is not taken yet; without {n} in it that is 1. */
export function freeNumber(template: string, values: Readonly<Record<string, string>>, taken: readonly string[]): number {
  const names = new Set(taken);
  if (!template.includes("{n}")) return 1;
  for (let n = 1; n <= taken.length; n++) if (!names.has(fillTemplate(template, { ...values, n: String(n) }))) return n;
  return taken.length + 1;
}
