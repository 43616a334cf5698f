import type { ListedClip } from "@stride/server";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, Trash2 } from "lucide-react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { createWork, duplicateWork, fetchUses } from "../../api/client.ts";
import { ClipPicture } from "../../timedesk/ClipPicture.tsx";
import { Button, IconButton } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { showFigure, showSeconds } from "../../ui/figures.ts";
import { clipSeconds } from "./ClipCard.tsx";
import { useDeletion } from "./useDeletion.ts";

/** What a clip is, what is wrong with it, and which works stand on it or draw on it. */
export function ClipDetails({ clip, onReplace, onClose }: { clip: ListedClip; onReplace: () => void; onClose: () => void }) {
  const uses = useQuery({ queryKey: ["clips", clip.id, "uses"], queryFn: () => fetchUses(clip.id) });
  const queries = useQueryClient();
  const navigate = useNavigate();
  const remove = useDeletion();
  const told = (error: unknown) => toast.error(error instanceof Error ? error.message : String(error));
  const acts: Acts = {
    duplicate: (work) => void duplicateWork(work.id, `${work.name} copy`.slice(0, 200)).then(() => queries.invalidateQueries(), told),
    remove: (work) => void remove({ works: [work.id] }, work.name),
  };
  const begin = async () => {
    try {
      const work = await createWork(clip.id, clip.name);
      await queries.invalidateQueries({ queryKey: ["works"] });
      void navigate(`/work/${work.id}`);
    } catch (error) {
      told(error);
    }
  };
  const { summary } = clip;
  const facts = [
    ["File", clip.fileName],
    ["Length", `${summary.frames} f at ${Math.round(summary.fps * 100) / 100} fps, ${showSeconds(clipSeconds(clip))}`],
    ["Body", `${summary.joints} joints, ${summary.plan === "biped" ? "two legs" : "four legs"}`],
    ["Folder", clip.folder || "none"],
    ["Tags", clip.tags.join(", ")],
  ] as const;
  const used = (uses.data?.standing.length ?? 0) + (uses.data?.drawing.length ?? 0) > 0;
  return (
    <Dialog open onClose={onClose} title={clip.name} description="What it is, what is wrong with it, and what uses it" wide>
      <div className="grid grid-cols-[360px_1fr] gap-x-6">
        <div>
          <ClipPicture clip={clip} height={150} />
          <dl className="grid grid-cols-[5rem_1fr] gap-x-3 gap-y-1 pt-3">
            {facts.map(([name, value]) => (
              <div key={name} className="contents">
                <dt className="text-ink-soft">{name}</dt>
                <dd className="min-w-0 break-words">{value}</dd>
              </div>
            ))}
          </dl>
        </div>
        <div className="min-w-0">
          <h3 className="font-semibold">What is wrong</h3>
          {summary.wrong.length === 0 ? (
            <p className="text-moss-ink">Nothing was found.</p>
          ) : (
            <ul className="columns-2 gap-4 pt-1">
              {summary.wrong.slice(0, 16).map(({ title, count }) => (
                <li key={title} className="truncate">
                  {title}
                  {count > 1 && <span className="figure text-ink-soft"> ×{count}</span>}
                </li>
              ))}
            </ul>
          )}
          {summary.worst && (
            <p className="figure pt-1 text-coral-ink">{`worst: ${summary.worst.title}, ${showFigure(summary.worst.value, summary.worst.unit)}`}</p>
          )}
          <Uses heading="Works that stand on it" works={uses.data?.standing} acts={acts} />
          <Uses heading="Works that draw on it" works={uses.data?.drawing} />
          <span className="mt-3 flex gap-2">
            <Button onClick={() => void begin()}>Begin another work</Button>
            <Button disabled={!used} onClick={onReplace}>
              Replace in works…
            </Button>
          </span>
        </div>
      </div>
    </Dialog>
  );
}

interface Acts {
  duplicate(work: UsingWork): void;
  remove(work: UsingWork): void;
}
type UsingWork = { readonly id: string; readonly name: string };

function Uses({ heading, works, acts }: { heading: string; works: readonly UsingWork[] | undefined; acts?: Acts }) {
  return (
    <>
      <h3 className="pt-3 font-semibold">{heading}</h3>
      {works === undefined ? (
        <p className="text-ink-soft">Reading…</p>
      ) : works.length === 0 ? (
        <p className="text-ink-soft">None.</p>
      ) : (
        <ul aria-label={heading} className="max-h-36 overflow-auto">
          {works.map((work) => (
            <li key={work.id} className="flex items-center gap-1 py-0.5">
              <Link to={`/work/${work.id}`} className="min-w-0 flex-1 truncate underline underline-offset-2">
                {work.name}
              </Link>
              {acts && (
                <>
                  <IconButton label={`Duplicate ${work.name}`} className="size-6!" onClick={() => acts.duplicate(work)}>
                    <Copy size={13} />
                  </IconButton>
                  <IconButton label={`Delete ${work.name}`} className="size-6!" onClick={() => acts.remove(work)}>
                    <Trash2 size={13} />
                  </IconButton>
                </>
              )}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
