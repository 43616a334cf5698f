import type { Format } from "../format.ts";
import { jointMarkers } from "../markers.ts";
import { writePositionsCsv } from "./write.ts";

/** World places of joints, or of other points of the body, as comma-separated values, for spreadsheets and scripts. */
export const csvFormat: Format = {
  id: "csv",
  label: "CSV",
  endings: [".csv"],
  options: [],
  write: (skeleton, clip, _like, { markers } = {}) => writePositionsCsv(skeleton, clip, markers ?? jointMarkers(skeleton)),
};
