import type { Finding, Patch } from "@stride/motion";

/** Findings of one cause and part. */
export interface FindingGroup {
  readonly id: string;
  readonly title: string;
  readonly findings: readonly Finding[];
}

/** A line of the list: a group's own, or a finding, by itself or within its group. */
export type FindingLine =
  | { readonly is: "group"; readonly group: FindingGroup; readonly open: boolean }
  | { readonly is: "finding"; readonly finding: Finding; readonly within: FindingGroup | null };

/** From so many lines on the list is collapsed: one line a cause and part. */
const COLLAPSES_FROM = 12;
/** Most causes and parts that are listed by themselves; what is left of a kind stands together. */
const MOST_GROUPS = 20;

/** Findings by cause and part, in the order of the worst of each. */
export function groupFindings(findings: readonly Finding[]): FindingGroup[] {
  const groups = new Map<string, Finding[]>();
  for (const finding of findings) {
    const id = `${finding.kind} ${finding.part}`;
    groups.set(id, [...(groups.get(id) ?? []), finding]);
  }
  const list = [...groups].map(([id, own]) => ({ id, title: own[0].title, findings: own }));
  if (list.length <= MOST_GROUPS) return list;
  // Too many parts: of each kind that has several, those of the least weight become one line.
  const kinds = new Map<string, FindingGroup[]>();
  for (const group of list) kinds.set(group.findings[0].kind, [...(kinds.get(group.findings[0].kind) ?? []), group]);
  const each = Math.max(1, Math.floor(MOST_GROUPS / kinds.size) - 1);
  return [...kinds].flatMap(([kind, own]): FindingGroup[] => {
    if (own.length <= each + 1) return own;
    const rest = own.slice(each);
    return [...own.slice(0, each), { id: `${kind} others`, title: `${rest.length} other parts: ${kind}`, findings: rest.flatMap((g) => g.findings) }];
  });
}

/** The lines to be shown: single findings as they are, several of one cause under a line of their own that is opened or not. */
export function findingLines(findings: readonly Finding[], opened: ReadonlySet<string>): FindingLine[] {
  const grouped = findings.length >= COLLAPSES_FROM;
  if (!grouped) return findings.map((finding) => ({ is: "finding", finding, within: null }));
  return groupFindings(findings).flatMap((group): FindingLine[] => {
    if (group.findings.length === 1) return [{ is: "finding", finding: group.findings[0], within: null }];
    const open = opened.has(group.id);
    const own = open ? group.findings.map((finding): FindingLine => ({ is: "finding", finding, within: group })) : [];
    return [{ is: "group", group, open }, ...own];
  });
}

/** "14 stretches", "3 contacts", "12 frames". */
export function countInWords({ findings }: FindingGroup): string {
  const noun = ["slide", "float", "sink"].includes(findings[0].kind) ? "contact" : findings.every((f) => f.startFrame === f.endFrame) ? "frame" : "stretch";
  return `${findings.length} ${noun === "stretch" ? "stretches" : `${noun}s`}`;
}

/** The patches that treat all findings of a group: what would be the same twice is there once. */
export function treatments({ findings }: FindingGroup): Patch[] {
  const made = new Map<string, Patch>();
  for (const { treat } of findings) {
    if (!treat) continue;
    const { id, ...rest } = treat;
    made.set(JSON.stringify(rest), treat);
  }
  return [...made.values()];
}
