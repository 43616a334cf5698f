import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

/** A folder on a disk of its own that holds so many bytes. */
export interface SmallDisk {
  readonly folder: string;
  remove(): void;
}

/** Mounts a disk in memory; null where this user may not. */
export function smallDisk(megabytes: number): SmallDisk | null {
  const folder = mkdtempSync(join(tmpdir(), "stride-disk-"));
  try {
    execFileSync("mount", ["-t", "tmpfs", "-o", `size=${megabytes}m`, "tmpfs", folder], { stdio: "ignore" });
  } catch {
    rmSync(folder, { recursive: true, force: true });
    return null;
  }
  return {
    folder,
    remove() {
      execFileSync("umount", ["-l", folder], { stdio: "ignore" });
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
