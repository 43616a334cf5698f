import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Download, Merge, Save } from "lucide-react";
import { useRef, useState } from "react";
import { fetchCopies, makeCopy, mergeCopy } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";

const megabytes = (bytes: number) => `${(bytes / 1024 / 1024).toFixed(1)} MB`;

/** Copies of the whole library: made by itself once a day, or now; taken away as a file; another's taken in. */
export function CopiesDialog({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const copies = useQuery({ queryKey: ["copies"], queryFn: fetchCopies });
  const [busy, setBusy] = useState<"copy" | "merge" | null>(null);
  const [said, setSaid] = useState<{ readonly text: string; readonly bad: boolean } | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const doing = async (what: "copy" | "merge", run: () => Promise<string>) => {
    setBusy(what);
    setSaid(null);
    try {
      setSaid({ text: await run(), bad: false });
      await queries.invalidateQueries();
    } catch (error) {
      setSaid({ text: error instanceof Error ? error.message : String(error), bad: true });
    }
    setBusy(null);
  };
  const copyNow = () =>
    doing("copy", async () => {
      const { clips, works, bytes } = await makeCopy();
      return `Copied and checked from end to end: ${clips} clips, ${works} works, ${megabytes(bytes)}.`;
    });
  const merge = (file: File) =>
    doing("merge", async () => {
      const { clips, works, poses, patches } = await mergeCopy(file);
      const beside = works.beside > 0 ? `, ${works.beside} beside changed ones of the same origin` : "";
      return `From ${file.name}: ${clips.added} new clips (${clips.known} were here), ${works.added} new works${beside} (${works.known} were here), ${poses.added + patches.added} poses and patches.`;
    });
  return (
    <Dialog
      open
      onClose={onClose}
      title="Copies of the library"
      description={`One is made by itself every day and the newest ${copies.data?.kept ?? ""} are kept. A copy is put back with: npm run restore`}
    >
      {copies.data?.problem && (
        <p role="alert" className="pb-2 text-coral-ink">
          The last one was not made: {copies.data.problem}
        </p>
      )}
      <ul aria-label="Copies" className="divide-y divide-line rounded-sm border border-line">
        {copies.data?.copies.map((copy) => (
          <li key={copy.name} className="flex items-center gap-3 px-3 py-1.5">
            <time className="flex-1" dateTime={copy.madeAt}>
              {new Date(copy.madeAt).toLocaleString([], { dateStyle: "medium", timeStyle: "short", hour12: false })}
            </time>
            <span className="figure text-ink-soft">{megabytes(copy.bytes)}</span>
            <a
              href={`/api/copies/${copy.name}`}
              download={copy.name}
              className="inline-flex h-6.5 items-center gap-1.5 rounded-sm border border-line px-2 hover:border-ink-soft"
            >
              <Download size={13} /> Take away
            </a>
          </li>
        ))}
        {copies.data?.copies.length === 0 && <li className="px-3 py-2 text-ink-soft">None yet.</li>}
      </ul>
      {copies.data && <p className="pt-1.5 text-xs break-all text-ink-soft">They lie in {copies.data.folder}</p>}
      {said && (
        <p role={said.bad ? "alert" : "status"} className={`pt-2 ${said.bad ? "text-coral-ink" : "text-moss-ink"}`}>
          {said.text}
        </p>
      )}
      <div className="flex justify-end gap-2 pt-4">
        <Button disabled={busy !== null} onClick={() => input.current?.click()}>
          <Merge size={14} /> {busy === "merge" ? "Taking it in…" : "Take another's copy in…"}
        </Button>
        <Button tone="primary" disabled={busy !== null} onClick={() => void copyNow()}>
          <Save size={14} /> {busy === "copy" ? "Copying…" : "Copy now"}
        </Button>
        <input
          ref={input}
          type="file"
          accept=".db"
          className="hidden"
          aria-label="Copy of another library"
          onChange={(event) => {
            const [file] = event.target.files ?? [];
            if (file) void merge(file);
            event.target.value = "";
          }}
        />
      </div>
    </Dialog>
  );
}
