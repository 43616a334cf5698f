export { type Api, createApp } from "./app.ts";
export type { ExportResult, ResultNote } from "./export.ts";
export type { ClipRow } from "./store/clips.ts";
export type { NewPose, PoseRow } from "./store/poses.ts";
export type { HistoryRow, WorkRow } from "./store/works.ts";
export type { ChronoPicture, ClipSummary } from "./summary.ts";
