import { useQuery } from "@tanstack/react-query";
import { toast } from "sonner";
import { fetchKeptPatches, fetchPoses } from "../api/client.ts";
import { type ShelfItem, shelfItems, takeFromShelf } from "./shelf.ts";

/** Everything that is on the shelf. */
export function useShelf(): readonly ShelfItem[] {
  const poses = useQuery({ queryKey: ["poses"], queryFn: fetchPoses });
  const patches = useQuery({ queryKey: ["patches"], queryFn: fetchKeptPatches });
  return shelfItems(poses.data ?? [], patches.data ?? []);
}

export function takeOrTell(item: ShelfItem, frame: number): void {
  takeFromShelf(item, frame).catch((error: unknown) => toast.error(error instanceof Error ? error.message : String(error)));
}
