import type { Format } from "../format.ts";
import { writePositionsCsv } from "./write.ts";

/** World positions of every joint as comma-separated values, for spreadsheets and scripts. */
export const csvFormat: Format = {
  id: "csv",
  label: "CSV",
  endings: [".csv"],
  options: [],
  write: (skeleton, clip) => writePositionsCsv(skeleton, clip),
};
