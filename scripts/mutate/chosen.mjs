import { createHash } from "node:crypto";
import { readFileSync } from "node:fs";
import { declareClassPlugin, PluginKind } from "@stryker-mutator/api/plugin";

/** What tells one change of the core from every other of a run over the same files: they are numbered alike each time. */
export function mutantKey({ fileName, id }) {
  return `${fileName.slice(fileName.lastIndexOf("motion/src/"))}#${id}`;
}

/** A number in 0..1 that a key always has: a sample of a share of all takes those below the share. */
function place(key) {
  return createHash("sha256").update(key).digest().readUInt32BE(0) / 2 ** 32;
}

/**
 * Lets through the changes that a run is about, and puts the rest aside as if they did not compile, so that they count neither way.
 * STRIDE_MUTANTS names a file with {share, only}: the share of all to draw, and the keys to keep to, null for all.
 */
class Chosen {
  constructor() {
    const { share, only } = JSON.parse(readFileSync(process.env.STRIDE_MUTANTS, "utf8"));
    this.share = share;
    this.only = only && new Set(only);
  }

  async init() {}

  async check(mutants) {
    const verdict = (mutant) => {
      const key = mutantKey(mutant);
      const wanted = place(key) < this.share && (this.only === null || this.only.has(key));
      return wanted ? { status: "passed" } : { status: "compileError", reason: "not of this run" };
    };
    return Object.fromEntries(mutants.map((mutant) => [mutant.id, verdict(mutant)]));
  }

  group(mutants) {
    return [mutants.map(({ id }) => id)];
  }
}

export const strykerPlugins = [declareClassPlugin(PluginKind.Checker, "chosen", Chosen)];
