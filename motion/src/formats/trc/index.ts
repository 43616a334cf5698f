import type { Format } from "../format.ts";
import { jointMarkers } from "../markers.ts";
import { writeTrc } from "./write.ts";

/** World places of joints, or of other points of the body, as markers, for programs that reckon with captured points. */
export const trcFormat: Format = {
  id: "trc",
  label: "TRC",
  endings: [".trc"],
  options: [],
  write: (skeleton, clip, _like, { markers } = {}) => writeTrc(skeleton, clip, markers ?? jointMarkers(skeleton)),
};
