import { type ContactPoint, restPoseOf } from "@stride/motion";
import type { ClipRow } from "@stride/server";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { Download, Undo2, Upload } from "lucide-react";
import { Tabs } from "radix-ui";
import { lazy, Suspense, useMemo, useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { fetchCharacters, uploadClip } from "../../api/client.ts";
import { ClipPicture } from "../../timedesk/ClipPicture.tsx";
import { Button } from "../../ui/Button.tsx";
import { download } from "../../ui/download.ts";
import { Mark } from "../../ui/Mark.tsx";
import { ScreenLinks } from "../../ui/ScreenLinks.tsx";
import { ContactTable } from "./ContactTable.tsx";
import { LimitTable } from "./LimitTable.tsx";
import { MapTable } from "./MapTable.tsx";
import { pointAt, saidPoints } from "./notes.ts";
import { ProportionTable } from "./ProportionTable.tsx";
import { RestTable } from "./RestTable.tsx";
import { type OpenedBody, useBody } from "./useBody.ts";
import { useNotes } from "./useNotes.ts";

const BodyStage = lazy(() => import("./BodyStage.tsx"));
const BODY_FILES = ".glb,.gltf,.vrm";

/** Bodies that motions are cast onto: each on its skin, with what is read of it. */
export default function Characters() {
  const { id } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const characters = useQuery({ queryKey: ["characters"], queryFn: fetchCharacters });
  const rows = characters.data ?? [];
  const row = rows.find((r) => r.id === id) ?? rows[0];
  const [busy, setBusy] = useState(false);
  const bring = async (files: readonly File[]) => {
    setBusy(true);
    for (const file of files) {
      try {
        const made = await uploadClip(file);
        if (made.summary.character) void navigate(`/characters/${made.id}`);
        else toast.message(`${made.name} has a motion of its own: it is a clip in the library`);
      } catch (error) {
        toast.error(error instanceof Error ? error.message : String(error));
      }
    }
    setBusy(false);
    await queries.invalidateQueries({ queryKey: ["characters"] });
    await queries.invalidateQueries({ queryKey: ["clips"] });
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the whole page takes dropped files; the button does the same by keyboard
    <div
      className="flex h-full flex-col"
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        void bring([...event.dataTransfer.files]);
      }}
    >
      <header className="flex h-11 shrink-0 items-center gap-5 border-b border-line bg-sheet px-4">
        <Mark />
        <ScreenLinks here="characters" />
        <span className="flex-1" />
        <span className="text-ink-soft">drop .glb, .gltf bodies anywhere</span>
        <Button tone="primary" onClick={() => input.current?.click()} disabled={busy}>
          <Upload size={15} /> {busy ? "Reading…" : "Bring in a body…"}
        </Button>
        <input
          ref={input}
          type="file"
          multiple
          accept={BODY_FILES}
          className="hidden"
          aria-label="Bodies to bring in"
          onChange={(event) => {
            void bring([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
      </header>
      {characters.error && (
        <p role="alert" className="py-16 text-center text-coral-ink">
          {characters.error.message}
        </p>
      )}
      {characters.isSuccess && rows.length === 0 && (
        <p className="py-16 text-center text-ink-soft">No character is there yet. Drop a .glb or .gltf body without motion here.</p>
      )}
      {row && (
        <div className="flex min-h-0 flex-1">
          <nav aria-label="Characters" className="w-44 shrink-0 overflow-y-auto border-r border-line bg-sheet p-2.5">
            {rows.map((one) => (
              <button
                key={one.id}
                type="button"
                aria-current={one.id === row.id}
                onClick={() => void navigate(`/characters/${one.id}`)}
                className={clsx(
                  "mb-2 block w-full overflow-hidden rounded-sm border text-left",
                  one.id === row.id ? "border-cobalt bg-cobalt-wash" : "border-line hover:border-ink-soft",
                )}
              >
                <ClipPicture clip={one} height={92} />
                <span className="block truncate border-t border-line px-2 pt-1.5 font-semibold" title={one.name}>
                  {one.name}
                </span>
                <span className="figure block truncate px-2 pb-1.5 text-xs text-ink-soft">{sizeOf(one)}</span>
              </button>
            ))}
          </nav>
          <Body key={row.id} row={row} />
        </div>
      )}
    </div>
  );
}

function sizeOf({ summary }: ClipRow): string {
  return summary.height ? `${summary.height.toFixed(2)} m tall` : `${summary.joints} joints`;
}

/** How the body rests, in words. */
function restWords({ skeleton, character }: OpenedBody): string {
  const { name, armsDownDegrees } = restPoseOf({ skeleton, body: character.body, rig: character.rig });
  if (armsDownDegrees === null) return "Rests as its file has it; casting lays its bones on those of the motion's body.";
  const pose = name === "T" || name === "A" ? `in a ${name}-pose` : `with its ${name}`;
  const degrees = Math.round(Math.abs(armsDownDegrees));
  return `Rests ${pose}, arms ${degrees === 0 ? "level" : `${degrees}° ${armsDownDegrees < 0 ? "over" : "below"} level`}; casting makes up for it.`;
}

const TABS = [
  ["map", "Body map"],
  ["rest", "Rest pose"],
  ["points", "Contacts"],
  ["limits", "Limits"],
  ["proportions", "Lengths"],
] as const;
type Tab = (typeof TABS)[number][0];
const NO_POINTS: readonly ContactPoint[] = [];

function Body({ row }: { row: ClipRow }) {
  const body = useBody(row);
  const notes = useNotes(row);
  const [tab, setTab] = useState<Tab>("map");
  const [picked, setPicked] = useState<number | null>(null);
  const [placing, setPlacing] = useState<string | null>(null);
  const { skin } = row.summary;
  const show = (next: string) => {
    setTab(next as Tab);
    setPlacing(null);
  };
  const said = notes.said;
  const points = useMemo(() => saidPoints(body.data?.character.points ?? [], said), [body.data, said]);
  const table = body.data && { body: body.data, notes, picked, onPick: setPicked };
  return (
    <>
      <section aria-label={`${row.name} at rest`} className="min-w-0 flex-1">
        {body.error && (
          <p role="alert" className="py-16 text-center text-coral-ink">
            {body.error.message}
          </p>
        )}
        {body.data ? (
          <Suspense fallback={<p className="py-16 text-center text-ink-soft">Opening the view…</p>}>
            <BodyStage
              body={body.data}
              posed={tab === "rest" ? notes.said : null}
              picked={picked}
              onPick={setPicked}
              points={tab === "points" ? points : NO_POINTS}
              placing={placing}
              onPlaced={(id, local) => {
                notes.change(pointAt(id, local));
                setPlacing(null);
              }}
              onLeave={() => setPlacing(null)}
            />
          </Suspense>
        ) : (
          !body.error && <p className="py-16 text-center text-ink-soft">Reading {row.fileName}…</p>
        )}
      </section>
      <aside className="flex w-136 shrink-0 flex-col border-l border-line bg-sheet">
        <div className="px-3 pt-3 pb-2">
          <div className="flex items-center gap-2">
            <h1 className="min-w-0 flex-1 truncate text-lg font-semibold" title={row.name}>
              {row.name}
            </h1>
            {notes.undo && (
              <Button className="h-7!" onClick={notes.undo}>
                <Undo2 size={14} /> Undo
              </Button>
            )}
            {notes.clear && (
              <>
                <Button className="h-7!" title="What you say of it, for the command line and other machines" onClick={() => downloadNotes(row)}>
                  <Download size={14} /> Notes
                </Button>
                <Button className="h-7!" title="Take back all that you said of it" onClick={notes.clear}>
                  As found
                </Button>
              </>
            )}
          </div>
          <p className="text-ink-soft">
            {row.fileName}, {row.summary.plan === "biped" ? "on two legs" : "on four legs"}
            {skin && !skin.problem && `, a skin of ${skin.vertices.toLocaleString("en")} vertices on ${skin.bones.length} bones`}
            {!skin && ", without a skin"}
          </p>
          {body.data && <p className="text-ink-soft">{restWords(body.data)}</p>}
          {skin?.problem && <p className="text-coral-ink">Its skin cannot be shown: {skin.problem}</p>}
          {row.summary.warnings.map((warning) => (
            <p key={warning} className="text-ink-soft">
              {warning}
            </p>
          ))}
        </div>
        <Tabs.Root value={tab} onValueChange={show} className="flex min-h-0 flex-1 flex-col">
          <Tabs.List aria-label="What is read of it" className="flex border-y border-line">
            {TABS.map(([value, label]) => (
              <Tabs.Trigger
                key={value}
                value={value}
                className="flex-1 border-b-2 border-transparent py-1.5 data-[state=active]:border-ink data-[state=active]:font-semibold"
              >
                {label}
              </Tabs.Trigger>
            ))}
          </Tabs.List>
          {table && (
            <Tabs.Content value={tab} className="min-h-0 flex-1 overflow-y-auto" tabIndex={0}>
              {tab === "map" && <MapTable {...table} />}
              {tab === "rest" && <RestTable {...table} />}
              {tab === "points" && <ContactTable {...table} points={points} placing={placing} onPlace={setPlacing} />}
              {tab === "limits" && <LimitTable {...table} row={row} />}
              {tab === "proportions" && <ProportionTable body={table.body} />}
            </Tabs.Content>
          )}
        </Tabs.Root>
      </aside>
    </>
  );
}

/** What is said of a character as a file of its own. */
function downloadNotes({ name, notes }: ClipRow): void {
  download(new File([JSON.stringify(notes, null, 2)], `${name}.character.json`, { type: "application/json" }));
}
