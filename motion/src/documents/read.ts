import type { z } from "zod";
import { patchKind } from "../patches/index.ts";
import { DocumentError } from "./errors.ts";
import type { Patch } from "./patch.ts";
import { checkShape } from "./shape.ts";
import { upgradeRecipe1, upgradeWork1 } from "./upgrade.ts";
import { RECIPE_FORMAT, type Recipe, recipeSchema, WORK_FORMAT, type Work, workSchema } from "./work.ts";

/** What reading needs to know of the clip that a document was made on: older ones count in its frames. */
export interface DocumentContext {
  readonly fps: number;
}

/** Steps that bring a document from one version to the next, by the version they take. */
const WORK_UPGRADES: Readonly<Record<string, (data: Record<string, unknown>, context: DocumentContext) => Record<string, unknown>>> = {
  "patch-stride.work/1": upgradeWork1,
};
const RECIPE_UPGRADES: typeof WORK_UPGRADES = { "patch-stride.recipe/1": upgradeRecipe1 };

/** Reads a work of this or an older version, checked whole: fields, kinds, settings, ids. Throws DocumentError naming the field. */
export function readWork(data: unknown, context: DocumentContext): Work {
  return checkWork(upgraded(data, WORK_FORMAT, WORK_UPGRADES, context));
}

/** Checks a work of the present version whole. Throws DocumentError naming the field. */
export function checkWork(data: unknown): Work {
  checkShape(data);
  const work = parsed(workSchema, stated(data, WORK_FORMAT));
  const patches = checkPatches(work.patches);
  refuseTwins(
    work.contacts.map((c) => c.id),
    "contacts",
  );
  return { ...work, patches };
}

/** Reads a recipe of this or an older version, to be run on the clip at hand. Throws DocumentError naming the field. */
export function readRecipe(data: unknown, context: DocumentContext): Recipe {
  return checkRecipe(upgraded(data, RECIPE_FORMAT, RECIPE_UPGRADES, context));
}

/** Checks a recipe of the present version whole. Throws DocumentError naming the field. */
export function checkRecipe(data: unknown): Recipe {
  checkShape(data);
  const recipe = parsed(recipeSchema, stated(data, RECIPE_FORMAT));
  const patches = recipe.patches.map(
    (patch, i): Patch => ({ ...patch, id: patch.id ?? `${patch.kind}-${i}`, name: patch.name ?? patchKind(patch.kind)?.title ?? patch.kind }),
  );
  return { ...recipe, patches: checkPatches(patches) };
}

/** The same patches with their settings as their kinds know them. */
function checkPatches(patches: readonly Patch[]): Patch[] {
  refuseTwins(
    patches.map((p) => p.id),
    "patches",
  );
  return patches.map((patch, i) => {
    const kind = patchKind(patch.kind);
    if (!kind) throw new DocumentError(`patches.${i}.kind`, `there is no kind of patch called "${patch.kind}"`);
    const known = new Set(Object.keys(kind.defaults));
    const stranger = Object.keys(patch.settings).find((key) => !known.has(key));
    if (stranger !== undefined) throw new DocumentError(`patches.${i}.settings.${stranger}`, `a patch of kind "${patch.kind}" has no such setting`);
    const { success, error } = kind.schema.safeParse({ ...kind.defaults, ...patch.settings });
    if (!success) throw problemOf(error, `patches.${i}.settings`);
    return patch;
  });
}

function refuseTwins(ids: readonly string[], field: string): void {
  const at = ids.findIndex((id, i) => ids.indexOf(id) !== i);
  if (at >= 0) throw new DocumentError(`${field}.${at}.id`, `"${ids[at]}" is there twice; every id must be its own`);
}

function parsed<T>(schema: z.ZodType<T>, data: unknown): T {
  const result = schema.safeParse(data);
  if (!result.success) throw problemOf(result.error, "");
  return result.data;
}

/** The first problem that a schema found, with its field; a choice between several shapes tells the problem of the one that came nearest. */
export function problemOf(error: z.ZodError, prefix: string): DocumentError {
  let issue = error.issues[0];
  const path: PropertyKey[] = [...issue.path];
  while (issue.code === "invalid_union" && issue.errors.length > 0) {
    const nearest = issue.errors.reduce((best, list) => ((list[0]?.path.length ?? 0) > (best[0]?.path.length ?? 0) ? list : best));
    if (!nearest[0] || nearest[0].path.length === 0) break;
    issue = nearest[0];
    path.push(...issue.path);
  }
  return new DocumentError([prefix, ...path.map(String)].filter((p) => p !== "").join("."), issue.message);
}

function stated(data: unknown, format: string): unknown {
  const said = typeof data === "object" && data !== null && "format" in data ? data.format : undefined;
  if (said === format) return data;
  throw new DocumentError(
    "format",
    said === undefined ? `expected "${format}"; this is no document of that kind` : `this version reads "${format}", not ${JSON.stringify(said).slice(0, 60)}`,
  );
}

function upgraded(data: unknown, format: string, steps: typeof WORK_UPGRADES, context: DocumentContext): unknown {
  checkShape(data);
  let at = data;
  for (;;) {
    const said: unknown = typeof at === "object" && at !== null && "format" in at ? at.format : undefined;
    const step = typeof said === "string" && said !== format && Object.hasOwn(steps, said) ? steps[said] : undefined;
    if (!step) return at;
    at = step(at as Record<string, unknown>, context);
  }
}
