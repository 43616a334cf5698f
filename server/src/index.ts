export { type Api, createApp } from "./app.ts";
export type { ExportResult, ResultNote } from "./export.ts";
export type { ClipFacets, ClipOrder, ClipPage, ListedClip } from "./store/clipPages.ts";
export type { ClipRow } from "./store/clips.ts";
export type { NewPose, PoseRow, UnreadablePose } from "./store/poses.ts";
export type { HistoryRow, WorkListRow, WorkRow } from "./store/works.ts";
export type { ChronoPicture, ClipSummary } from "./summary.ts";
