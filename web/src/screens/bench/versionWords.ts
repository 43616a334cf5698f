/** A version as people call it: by its number and its name; a save that is none by its revision. */
export function versionWords({
  version,
  versionName,
  revision,
}: {
  readonly version: number | null;
  readonly versionName: string | null;
  readonly revision: number;
}): string {
  if (version === null) return `revision ${revision}`;
  return versionName ? `version ${version}, ${versionName}` : `version ${version}`;
}
