import { partInWords as inWords, partName as name, type PartRef } from "@stride/motion";
import { useBench } from "./bench.ts";

/** What the parts of the body on the bench are called: an animal's are not a person's. */
export function partName(ref: PartRef): string {
  return name(ref, useBench.getState().body?.plan);
}

/** The same in the middle of a sentence. */
export function partInWords(ref: PartRef): string {
  return inWords(ref, useBench.getState().body?.plan);
}
