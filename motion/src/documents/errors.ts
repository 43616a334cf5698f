/** A problem with a saved document: which field, and what is wrong with it. `message` is one line, safe to show. */
export class DocumentError extends Error {
  override readonly name = "DocumentError";
  constructor(
    /** path of the field within the document, such as "patches.0.settings.from"; empty for the whole */
    readonly field: string,
    readonly problem: string,
  ) {
    super(field ? `${field}: ${problem}` : problem);
  }
}
