import type { ChronoPicture, ClipRow } from "@stride/server";
import { useQuery } from "@tanstack/react-query";
import { fetchPicture } from "./client.ts";

/** A clip's picture, asked for when it is first shown; null until it is there. */
export function useClipPicture(clip: Pick<ClipRow, "id" | "unitScale" | "upAxis"> | null | undefined): ChronoPicture | null {
  const { data } = useQuery({
    queryKey: ["picture", clip?.id, clip?.unitScale, clip?.upAxis],
    queryFn: () => fetchPicture(clip as Pick<ClipRow, "id" | "unitScale" | "upAxis">),
    enabled: clip !== null && clip !== undefined,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return data ?? null;
}
