import { createHash, randomUUID } from "node:crypto";
import { createWriteStream } from "node:fs";
import { mkdir, rm } from "node:fs/promises";
import { join } from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { checkHead, HEAD_BYTES, MotionFormatError } from "@stride/motion";
import busboy from "busboy";
import { diskProblem } from "./safety/disk.ts";

/** A file that was brought in: it lies at `path` until it is kept or dropped. */
export interface Upload {
  readonly fileName: string;
  readonly path: string;
  readonly sha256: string;
  /** what the form says beside its file */
  readonly fields: Readonly<Record<string, string>>;
  drop(): Promise<void>;
}

/** Bytes that a form may have around its file. */
const AROUND_FILE = 64 * 1024;

/** A request without the one file it should carry, or with one that is too large. */
export class UploadError extends Error {
  constructor(
    message: string,
    readonly status: 400 | 413 | 503 | 507,
  ) {
    super(message);
  }
}

/**
 * Takes the one file of a multipart request to disk as it comes, so that no more than a piece of it is in memory. What does not begin like a file of
 * the kind its name says is refused from its first kilobytes and the rest is let run past. Throws UploadError, MotionFormatError.
 */
export async function takeUpload(request: Request, folder: string, largest: number): Promise<Upload> {
  const type = request.headers.get("content-type") ?? "";
  const tooLarge = () => new UploadError(`the file is larger than ${largest / (1024 * 1024)} MB`, 413);
  // What says beforehand that it is too large is not begun; what does not say is cut off on the way.
  if (Number(request.headers.get("content-length") ?? 0) > largest + AROUND_FILE) throw tooLarge();
  if (!type.startsWith("multipart/form-data") || !request.body) throw new UploadError("file: expected one file", 400);
  await mkdir(folder, { recursive: true });
  const path = join(folder, randomUUID());
  const hash = createHash("sha256");
  const drop = () => rm(path, { force: true });
  const fields: Record<string, string> = {};
  try {
    const fileName = await new Promise<string>((resolve, reject) => {
      let name: string | undefined;
      let written: Promise<void> | undefined;
      let problem: Error | undefined;
      const form = busboy({
        headers: { "content-type": type },
        limits: { files: 1, fileSize: largest, fields: 20, fieldSize: AROUND_FILE },
        defParamCharset: "utf8",
        preservePath: true,
      });
      form.on("file", (field, stream, info) => {
        if (field !== "file") {
          stream.resume();
          return;
        }
        const fileName = info.filename ?? "";
        name = fileName;
        const out = createWriteStream(path);
        let head = Buffer.alloc(0);
        let looked = false;
        const look = (ended: boolean) => {
          if (looked || problem || (head.length < HEAD_BYTES && !ended)) return;
          looked = true;
          try {
            checkHead(head, fileName);
          } catch (error) {
            problem = error as Error;
          }
        };
        stream.on("data", (piece: Buffer) => {
          if (problem) return;
          hash.update(piece);
          if (!looked) {
            head = Buffer.concat([head, piece.subarray(0, HEAD_BYTES)]);
            look(false);
          }
          if (!problem && !out.write(piece)) {
            stream.pause();
            out.once("drain", () => stream.resume());
          }
        });
        stream.on("limit", () => {
          problem ??= tooLarge();
        });
        written = new Promise((done) => {
          // A full disk: what still comes is let run past, so that the request ends.
          out.on("error", (error) => {
            problem ??= error;
            stream.resume();
            done();
          });
          stream.on("end", () => {
            look(true);
            out.end(() => done());
          });
        });
      });
      form.on("field", (field, value) => {
        if (["name", "folder", "tags"].includes(field)) fields[field] = value;
      });
      form.on("error", (error) => reject(new UploadError(`file: ${error instanceof Error ? error.message : "the request cannot be read"}`, 400)));
      form.on("close", () => {
        if (problem) reject(problem);
        else if (name === undefined || !written) reject(new UploadError("file: expected one file", 400));
        else void written.then(() => (problem ? reject(problem) : resolve(name as string)));
      });
      const body = Readable.fromWeb(request.body as Parameters<typeof Readable.fromWeb>[0]);
      body.on("error", (error) => reject(new UploadError(`file: the upload broke off (${error.message})`, 400)));
      body.pipe(form);
    });
    return { fileName, path, sha256: hash.digest("hex"), fields, drop };
  } catch (error) {
    await drop();
    if (error instanceof UploadError || error instanceof MotionFormatError || diskProblem(error)) throw error;
    throw new UploadError(`file: ${error instanceof Error ? error.message : String(error)}`, 400);
  }
}

/** Takes the whole body of a request to disk. Throws UploadError, or what the disk says. */
export async function takeBody(request: Request, folder: string, largest: number): Promise<{ readonly path: string; drop(): Promise<void> }> {
  if (!request.body) throw new UploadError("file: expected the file as the request's body", 400);
  await mkdir(folder, { recursive: true });
  const path = join(folder, randomUUID());
  const drop = async () => {
    for (const end of ["", "-journal", "-wal", "-shm"]) await rm(`${path}${end}`, { force: true });
  };
  let taken = 0;
  const counted = new Transform({
    transform(piece: Buffer, _, done) {
      taken += piece.length;
      done(taken > largest ? new UploadError(`the file is larger than ${largest / 1024 ** 3} GB`, 413) : null, piece);
    },
  });
  try {
    await pipeline(Readable.fromWeb(request.body as Parameters<typeof Readable.fromWeb>[0]), counted, createWriteStream(path));
    return { path, drop };
  } catch (error) {
    await drop();
    if (error instanceof UploadError || diskProblem(error)) throw error;
    throw new UploadError(`file: the upload broke off (${error instanceof Error ? error.message : String(error)})`, 400);
  }
}
