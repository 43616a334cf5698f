import type { Work } from "@stride/motion";
import type {
  Api,
  ChronoPicture,
  ClipFacets,
  ClipOrder,
  ClipPage,
  ClipRow,
  ExportResult,
  HistoryRow,
  NewPose,
  PoseRow,
  UnreadablePose,
  WorkListRow,
  WorkRow,
} from "@stride/server";
import { hc } from "hono/client";

const api = hc<Api>("/api");

/** A request that was answered with an error; `message` is for people. */
export class ApiError extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly data: unknown,
  ) {
    super(message);
  }
}

async function take<T>(response: Promise<{ ok: boolean; status: number; json(): Promise<unknown> }>): Promise<T> {
  const answer = await response.catch(() => {
    throw new ApiError("The server does not answer. Is it still running?", 0, undefined);
  });
  const data = await answer.json().catch(() => undefined);
  if (!answer.ok) {
    const told = typeof data === "object" && data !== null && "error" in data ? String(data.error) : `The server answered with ${answer.status}`;
    throw new ApiError(told, answer.status, data);
  }
  return data as T;
}

/** What of the library is asked for. */
export interface ClipAsk {
  readonly search?: string;
  readonly character?: string;
  readonly needsWork?: boolean;
  readonly order: ClipOrder;
  readonly down: boolean;
}

/** Clips of one page. */
const PAGE = 60;

/** A page of the library; behind a place that an earlier page gave. */
export const fetchClips = ({ search, character, needsWork, order, down }: ClipAsk, after: string | null) =>
  take<ClipPage>(
    api.clips.$get({
      query: {
        limit: String(PAGE),
        order,
        down: down ? "yes" : "no",
        ...(search && { search }),
        ...(character !== undefined && { character }),
        ...(needsWork && { needsWork: "yes" as const }),
        ...(after !== null && { after }),
      },
    }),
  );
export const fetchFacets = () => take<ClipFacets>(api.clips.facets.$get());
export const fetchClip = (id: string) => take<ClipRow>(api.clips[":id"].$get({ param: { id } }));
/** The clip that has this content. */
export const fetchSourceClip = (sha256: string) => take<ClipRow>(api.sources[":sha256"].$get({ param: { sha256 } }));
/** A version of a work that stands on the clip of this content. */
export const fetchSourceWork = (sha256: string, revision: number) =>
  take<Work>(api.sources[":sha256"].works[":revision"].$get({ param: { sha256, revision: String(revision) } }));
export const fetchWorks = () => take<WorkListRow[]>(api.works.$get());
export const fetchWork = (id: string) => take<WorkRow>(api.works[":id"].$get({ param: { id } }));
export const createWork = (clipId: string, name: string) => take<WorkRow>(api.works.$post({ json: { clipId, name } }));
export const saveWork = (id: string, base: number, name: string, document: Work, note: string) =>
  take<WorkRow>(api.works[":id"].$put({ param: { id }, json: { base, name, document, note } }));
export const fetchHistory = (id: string) => take<HistoryRow[]>(api.works[":id"].history.$get({ param: { id } }));
export const restoreRevision = (id: string, revision: number) => take<WorkRow>(api.works[":id"].restore.$post({ param: { id }, json: { revision } }));
export const changeReading = (id: string, json: { unitScale?: number | null; upAxis?: "y" | "z" | null }) =>
  take<ClipRow>(api.clips[":id"].$patch({ param: { id }, json }));

export const exportWork = (id: string, json: { start: number; end: number; fps: number; name: string }) =>
  take<ExportResult>(api.works[":id"].export.$post({ param: { id }, json }));

export const fetchPoses = () => take<(PoseRow | UnreadablePose)[]>(api.poses.$get());
export const keepPose = (json: NewPose) => take<PoseRow>(api.poses.$post({ json }));
export const deletePose = (id: string) => take<{ ok: true }>(api.poses[":id"].$delete({ param: { id } }));

/** A clip's chronophotograph. Its address tells which reading of the clip it shows, so that it is asked for once. */
export async function fetchPicture({ id, unitScale, upAxis }: Pick<ClipRow, "id" | "unitScale" | "upAxis">): Promise<ChronoPicture> {
  return take<ChronoPicture>(fetch(`/api/clips/${encodeURIComponent(id)}/picture?reading=${unitScale ?? "own"}-${upAxis ?? "own"}`));
}

export async function fetchSource(id: string): Promise<Uint8Array> {
  const response = await fetch(`/api/clips/${encodeURIComponent(id)}/source`);
  if (!response.ok) throw new ApiError("The clip's source cannot be read", response.status, undefined);
  return new Uint8Array(await response.arrayBuffer());
}

/** Sends one file with progress (0..1 of the upload). */
export function uploadClip(file: File, onProgress: (share: number) => void): Promise<ClipRow> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", "/api/clips");
    request.responseType = "json";
    request.upload.onprogress = (event) => onProgress(event.lengthComputable ? event.loaded / event.total : 0);
    request.onload = () => {
      const data: unknown = request.response;
      if (request.status < 300) resolve(data as ClipRow);
      else
        reject(
          new ApiError(
            typeof data === "object" && data !== null && "error" in data ? String(data.error) : `The server answered with ${request.status}`,
            request.status,
            data,
          ),
        );
    };
    request.onerror = () => reject(new ApiError("The server does not answer. Is it still running?", 0, undefined));
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}
