/** Every kind of finding there is. */
export const FINDING_KINDS = ["slide", "float", "sink", "travel", "floor", "tilt", "pop", "jump", "flip", "jitter", "stretch", "limit", "gap"] as const;
export type FindingKind = (typeof FINDING_KINDS)[number];
