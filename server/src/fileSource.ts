import { closeSync, fstatSync, openSync, readSync } from "node:fs";
import type { ByteSource } from "@stride/motion";

/** A file as bytes that are fetched as they are needed; to be closed when it has been read. Throws what opening it throws. */
export function fileSource(path: string): ByteSource & { close(): void } {
  const handle = openSync(path, "r");
  const { size } = fstatSync(handle);
  return {
    size,
    read: (into) => readSync(handle, into),
    close: () => closeSync(handle),
  };
}

/** Reads a file and closes it again, whatever comes of it. */
export function withFile<T>(path: string, read: (source: ByteSource) => T): T {
  const source = fileSource(path);
  try {
    return read(source);
  } finally {
    source.close();
  }
}
