import type { ClipRow } from "@stride/server";
import { create } from "zustand";
import { fetchCharacters, fetchSource } from "../api/client.ts";
import type { SkinView } from "../worker/views.ts";

/** How bodies are drawn: as the lay figure, on their own skin, or as paper with the bones over it. */
export type Look = "figure" | "skin" | "bones";
export const LOOKS: readonly Look[] = ["skin", "bones", "figure"];
const KEPT = "stride-look";

interface Skins {
  /** of the source's body, and of the result's; null where none is known that fits */
  readonly source: SkinView | null;
  readonly result: SkinView | null;
  /** why no skin could be looked for or read; the lay figure stands in */
  readonly problem: string | null;
  readonly look: Look;
}

export const useSkins = create<Skins>(() => ({ source: null, result: null, problem: null, look: keptLook() }));

function keptLook(): Look {
  const kept = typeof localStorage === "undefined" ? null : localStorage.getItem(KEPT);
  return LOOKS.find((look) => look === kept) ?? "skin";
}

export function setLook(look: Look): void {
  localStorage.setItem(KEPT, look);
  useSkins.setState({ look });
}

/** The next look, round and round. */
export function nextLook(): void {
  setLook(LOOKS[(LOOKS.indexOf(useSkins.getState().look) + 1) % LOOKS.length]);
}

/** Which of the bodies could be that of a clip, the clip's own file first: all joints that move their skins are among its joints, by name. */
export function likelySkins(own: ClipRow | null, bodies: readonly ClipRow[], names: readonly string[]): ClipRow[] {
  const there = new Set(names);
  return [...(own ? [own] : []), ...bodies].filter(({ summary: { skin } }) => skin && skin.bones.length > 0 && skin.bones.every((bone) => there.has(bone)));
}

/** The skin that fits a body, of those in the library; null where none does. `fits` reads a file and says whether it does. */
export async function findSkin(
  own: ClipRow | null,
  names: readonly string[],
  fits: (row: ClipRow, bytes: Uint8Array) => Promise<SkinView | null>,
): Promise<SkinView | null> {
  for (const row of likelySkins(own, await fetchCharacters(), names)) {
    const skin = await fits(row, await fetchSource(row.id));
    if (skin) return skin;
  }
  return null;
}
