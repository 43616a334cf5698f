/** What a disk will not do, in words for people, and the status it is answered with. Nothing was changed where it happened: writes are transactions. */
export interface DiskProblem {
  readonly status: 500 | 503 | 507;
  readonly message: string;
}

const FULL = "the disk is full; nothing was changed. Free some space and try again";

/** The disk's own problem behind an error; null where there is none. */
export function diskProblem(error: unknown): DiskProblem | null {
  const code = typeof error === "object" && error !== null && "code" in error ? String(error.code) : "";
  // The last: the file that a database shares its state through could not be made as long as it has to be.
  if (code === "SQLITE_FULL" || code === "SQLITE_IOERR_SHMSIZE" || code === "ENOSPC" || code === "EDQUOT") return { status: 507, message: FULL };
  if (code.startsWith("SQLITE_READONLY") || code === "EROFS" || code === "EACCES" || code === "EPERM")
    return { status: 503, message: "the library lies on a disk that cannot be written; nothing was changed. Make it writable and start again" };
  if (code.startsWith("SQLITE_CORRUPT") || code === "SQLITE_NOTADB")
    return { status: 500, message: "the library's file is damaged. Stop the server, and put the newest copy back with: npm run restore" };
  if (code.startsWith("SQLITE_IOERR") || code === "EIO" || code === "EFBIG" || code.startsWith("SQLITE_CANTOPEN"))
    return { status: 503, message: "the library's disk cannot be read or written; nothing was changed. Look after the disk and try again" };
  return null;
}
