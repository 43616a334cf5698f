import type { Format } from "../format.ts";
import { writeTrc } from "./write.ts";

/** World positions of every joint as markers, for programs that reckon with captured points. */
export const trcFormat: Format = {
  id: "trc",
  label: "TRC",
  endings: [".trc"],
  options: [],
  write: (skeleton, clip) => writeTrc(skeleton, clip),
};
