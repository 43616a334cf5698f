/** A file that cannot be read or written: what is wrong, where, and what was expected. `message` is one line, safe to show. */
export class MotionFormatError extends Error {
  override readonly name = "MotionFormatError";
  constructor(
    readonly problem: string,
    /** 1-based; 0 when the file as a whole is meant */
    readonly line: number,
    readonly fileName = "",
  ) {
    super(`${fileName || "file"}${line > 0 ? `:${line}` : ""}: ${problem}`);
  }
}

/** A settings or range problem of one patch: which patch, which field, what to do. */
export class PatchError extends Error {
  override readonly name = "PatchError";
  constructor(
    readonly patchId: string,
    readonly patchName: string,
    readonly field: string,
    problem: string,
  ) {
    super(`${patchName}: ${field}: ${problem}`);
  }
}

/** A patch that draws on a clip which is not here: the patch does nothing until it is, and the rest of the stack goes on. */
export class MissingSource extends PatchError {}

/** Text from a file, made safe for one line of an error message. */
export function quoted(text: string): string {
  const flat = text.replace(/[^\x20-\x7e\u00a0-\uffff]+/g, " ").trim();
  return `"${flat.length > 40 ? `${flat.slice(0, 40)}…` : flat}"`;
}
