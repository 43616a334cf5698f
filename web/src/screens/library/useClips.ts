import type { ListedClip } from "@stride/server";
import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { type ClipAsk, fetchClips } from "../../api/client.ts";

/** The clips that are asked for, as far as they have been read. */
export interface ClipsShown {
  readonly rows: readonly ListedClip[];
  /** how many there are in all */
  readonly total: number;
  readonly pending: boolean;
  readonly error: Error | null;
  readonly more: boolean;
  readonly busy: boolean;
  /** are these the clips that were asked for before, while those that are asked for now are on their way? */
  readonly stale: boolean;
  /** reads the next page */
  next(): void;
}

/** The library page by page; what was shown stays until the new answer is there. */
export function useClips(ask: ClipAsk): ClipsShown {
  const query = useInfiniteQuery({
    queryKey: ["clips", "pages", ask],
    queryFn: ({ pageParam }) => fetchClips(ask, pageParam),
    initialPageParam: null as string | null,
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
    // Thousands of rows are not compared field by field whenever sixty more come.
    structuralSharing: false,
  });
  const { data, isPending, isPlaceholderData, error, hasNextPage, isFetchingNextPage, fetchNextPage } = query;
  const rows = useMemo(() => data?.pages.flatMap((page) => page.clips) ?? [], [data]);
  return useMemo(
    () => ({
      rows,
      total: data?.pages[0]?.total ?? 0,
      pending: isPending,
      error,
      more: hasNextPage && !isFetchingNextPage,
      busy: isFetchingNextPage,
      stale: isPlaceholderData,
      next: () => void fetchNextPage(),
    }),
    [rows, data, isPending, isPlaceholderData, error, hasNextPage, isFetchingNextPage, fetchNextPage],
  );
}
