import type { CharacterNotes, ClipKey, FindingKind, RangePlacing, Recipe, Work } from "@stride/motion";
import type {
  Api,
  BroughtIn,
  ChronoPicture,
  ClipFacets,
  ClipLabels,
  ClipOrder,
  ClipPage,
  ClipRow,
  CopiesState,
  CopyContents,
  CopyResult,
  DeletedRow,
  ExportResult,
  ExportWish,
  HistoryRow,
  KeptPatches,
  LabelChange,
  LibraryCopy,
  Merged,
  NewPose,
  PoseRow,
  SavedMany,
  SwapResult,
  TakenBack,
  Things,
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
  /** a folder with those inside it; "": clips that lie in none */
  readonly folder?: string;
  readonly fault?: FindingKind;
  readonly fps?: number;
  /** seconds */
  readonly shortest?: number;
  readonly longest?: number;
  readonly order: ClipOrder;
  readonly down: boolean;
}

/** Clips of one page. */
const PAGE = 60;

/** A page of the library; behind a place that an earlier page gave. */
export const fetchClips = ({ search, character, needsWork, folder, fault, fps, shortest, longest, order, down }: ClipAsk, after: string | null) =>
  take<ClipPage>(
    api.clips.$get({
      query: {
        limit: String(PAGE),
        order,
        down: down ? "yes" : "no",
        ...(search && { search }),
        ...(character !== undefined && { character }),
        ...(needsWork && { needsWork: "yes" as const }),
        ...(folder !== undefined && { folder }),
        ...(fault !== undefined && { fault }),
        ...(fps !== undefined && { fps }),
        ...(shortest !== undefined && { shortest }),
        ...(longest !== undefined && { longest }),
        ...(after !== null && { after }),
      },
    }),
  );
export const fetchFacets = () => take<ClipFacets>(api.clips.facets.$get());
export const fetchClip = (id: string) => take<ClipRow>(api.clips[":id"].$get({ param: { id } }));
const takeQuery = (of: ClipKey) => (of.take === undefined ? {} : { take: of.take });
/** The clip that a reference means. */
export const fetchSourceClip = (of: ClipKey) => take<ClipRow>(api.sources[":sha256"].$get({ param: { sha256: of.sha256 }, query: takeQuery(of) }));
/** A version of a work that stands on that clip. */
export const fetchSourceWork = (of: ClipKey, revision: number) =>
  take<Work>(api.sources[":sha256"].works[":revision"].$get({ param: { sha256: of.sha256, revision: String(revision) }, query: takeQuery(of) }));
export const fetchWorks = () => take<WorkListRow[]>(api.works.$get({ query: {} }));
/** Bodies without a motion of their own. */
/** What a person says of a character; null: nothing (any more). */
export const saveNotes = (id: string, notes: CharacterNotes | null) => take<ClipRow>(api.clips[":id"].notes.$put({ param: { id }, json: { notes } }));
export const fetchCharacters = () => take<ClipRow[]>(api.characters.$get());
/** Works that this version cannot read. */
export const fetchUnreadableWorks = () => take<WorkListRow[]>(api.works.$get({ query: { unreadable: "yes" } }));
/** The work on a clip that was saved last, or a new one. */
export const openWork = (clipId: string, name: string) => take<{ id: string }>(api.works.open.$post({ json: { clipId, name } }));
export const fetchWork = (id: string) => take<WorkRow>(api.works[":id"].$get({ param: { id } }));
export const createWork = (clipId: string, name: string) => take<WorkRow>(api.works.$post({ json: { clipId, name } }));
export const saveWork = (id: string, base: number, name: string, document: Work, note: string) =>
  take<WorkRow>(api.works[":id"].$put({ param: { id }, json: { base, name, document, note } }));
export const fetchHistory = (id: string) => take<HistoryRow[]>(api.works[":id"].history.$get({ param: { id } }));
export const restoreRevision = (id: string, revision: number) => take<WorkRow>(api.works[":id"].restore.$post({ param: { id }, json: { revision } }));
/** Names, folders and tags of several clips; what they were before comes back. */
export const changeLabels = (changes: LabelChange[]) =>
  take<{ before: LabelChange[] }>(
    api.clips.labels.$post({ json: { changes: changes.map(({ tags, ...rest }) => ({ ...rest, ...(tags && { tags: [...tags] }) })) } }),
  );
/** The body in a clip's file as a character of its own; the one that is there already, where it is. */
export const bodyOfClip = (id: string) => take<ClipRow>(api.clips[":id"].body.$post({ param: { id } }));
export const duplicateClip = (id: string, name: string) => take<ClipRow>(api.clips[":id"].duplicate.$post({ param: { id }, json: { name } }));
export const fetchUses = (id: string) =>
  take<{ standing: { id: string; name: string }[]; drawing: { id: string; name: string }[] }>(api.clips[":id"]["used-by"].$get({ param: { id } }));

export const duplicateWork = (id: string, name: string) => take<WorkRow>(api.works[":id"].duplicate.$post({ param: { id }, json: { name } }));
/** Makes a numbered version of a work as it was saved last. */
export const makeVersion = (id: string, name: string | null) => take<{ version: number }>(api.works[":id"].versions.$post({ param: { id }, json: { name } }));
export const fetchRevision = (id: string, revision: number) =>
  take<Work>(api.works[":id"].history[":revision"].$get({ param: { id, revision: String(revision) } }));

/** What copying patches of a work would make of another; nothing is saved by it. */
export const planCopy = (id: string, json: { from: string; revision: number; patches: string[]; ranges: RangePlacing }, signal?: AbortSignal) =>
  take<CopyResult & { base: number }>(api.works[":id"]["plan-copy"].$post({ param: { id }, json }, { init: { signal } }));
/** What another clip in the place of one would make of a work; nothing is saved by it. */
export const planSwap = (id: string, json: { from: string; to: string }, signal?: AbortSignal) =>
  take<SwapResult & { base: number; clipId: string | null }>(api.works[":id"]["plan-swap"].$post({ param: { id }, json }, { init: { signal } }));
/** Several works as one step: all or none. */
export const saveMany = (changes: { id: string; base: number; document: Work; clipId?: string }[], note: string) =>
  take<Extract<SavedMany, { saved: unknown }>>(
    api.works["save-many"].$post({ json: { changes: changes.map((c) => ({ ...c, document: { ...c.document } })), note } }),
  );
/** Takes such a step back, where nothing was done since. */
export const takeBack = (works: { id: string; revision: number }[], note: string) => take<TakenBack>(api.works["take-back"].$post({ json: { works, note } }));

/** Puts things aside; with `anyway` also what others would do without. What was put aside comes back, to be brought back. */
export const deleteThings = (things: Partial<Things>, anyway = false) => take<Things>(sent(`/api/deleted${anyway ? "?anyway=yes" : ""}`, things));
export const bringBack = (things: Partial<Things>) => take<{ back: number }>(sent("/api/deleted/back", things));
const sent = (path: string, json: unknown) => fetch(path, { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(json) });
export const fetchDeleted = () => take<DeletedRow[]>(api.deleted.$get());

export const fetchKeptPatches = () => take<KeptPatches[]>(api.patches.$get());
export const keepPatches = (name: string, recipe: Recipe) => take<KeptPatches>(api.patches.$post({ json: { name, data: { ...recipe } } }));

export const fetchCopies = () => take<CopiesState>(api.copies.$get());
export const makeCopy = () => take<LibraryCopy & CopyContents>(api.copies.$post());
/** Takes another library's copy in, by content. */
export const mergeCopy = (file: File) => take<Merged>(fetch("/api/copies/merge", { method: "POST", body: file }));

export const changeReading = (id: string, json: { unitScale?: number | null; upAxis?: "y" | "z" | null }) =>
  take<ClipRow>(api.clips[":id"].$patch({ param: { id }, json }));

export const exportWork = (id: string, json: ExportWish) => take<ExportResult>(api.works[":id"].export.$post({ param: { id }, json }));

/** The file of a result, as it is to be written or brought in. */
export function resultFile({ text, base64, ending }: Pick<ExportResult, "text" | "base64" | "ending">, name: string): File {
  const content = base64 ? Uint8Array.from(atob(text), (c) => c.charCodeAt(0)) : text;
  return new File([content], `${name}${ending}`, { type: "application/octet-stream" });
}

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

/** How a file is brought in. */
export interface UploadOptions {
  /** hears 0..1 of the upload */
  readonly onProgress?: (share: number) => void;
  readonly signal?: AbortSignal;
  /** what it is called, and where it lies; else as its file is called, nowhere in particular */
  readonly labels?: Partial<ClipLabels>;
  /** also when a file of its content is there already */
  readonly again?: boolean;
}

/** The first clip of a file that was sent, and what became of the file. */
export interface Uploaded extends ClipRow, Omit<BroughtIn, "clips"> {
  /** all of it was in the library already, by its content */
  readonly known: boolean;
}

/** Sends one file. Each of its animations becomes a clip. */
export function uploadClip(file: File, { onProgress, signal, labels = {}, again = false }: UploadOptions = {}): Promise<Uploaded> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", again ? "/api/clips?again=yes" : "/api/clips");
    request.responseType = "json";
    request.upload.onprogress = (event) => onProgress?.(event.lengthComputable ? event.loaded / event.total : 0);
    request.onload = () => {
      const data: unknown = request.response;
      if (request.status < 300) resolve(data as Uploaded);
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
    request.onabort = () => reject(new DOMException("cancelled", "AbortError"));
    signal?.addEventListener("abort", () => request.abort(), { once: true });
    const form = new FormData();
    if (labels.name !== undefined) form.append("name", labels.name);
    if (labels.folder !== undefined) form.append("folder", labels.folder);
    if (labels.tags !== undefined) form.append("tags", JSON.stringify(labels.tags));
    form.append("file", file);
    request.send(form);
  });
}
