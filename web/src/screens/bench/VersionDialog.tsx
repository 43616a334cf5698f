import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { toast } from "sonner";
import { duplicateWork, makeVersion } from "../../api/client.ts";
import { useBench } from "../../state/bench.ts";
import type { Session } from "../../state/session.ts";
import { NameDialog } from "./NameDialog.tsx";

/** Makes a numbered version of the work as it is. */
export function VersionDialog({ session, onClose }: { session: Session; onClose: () => void }) {
  const queries = useQueryClient();
  const id = useBench((s) => s.row?.id);
  return (
    <NameDialog
      title="Make a version"
      description="Numbered within this work and kept for ever; found, compared and gone back to in the history."
      label="Name, if you like"
      value=""
      optional
      verb="Make version"
      onClose={onClose}
      onName={async (name) => {
        if (!id) return;
        await session.save();
        const { version } = await makeVersion(id, name || null);
        await queries.invalidateQueries({ queryKey: ["history", id] });
        toast.success(`This is version ${version}${name ? `, ${name}` : ""}`);
      }}
    />
  );
}

/** The same work once more, under another name. */
export function DuplicateDialog({ session, onClose }: { session: Session; onClose: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const id = useBench((s) => s.row?.id);
  const name = useBench((s) => s.name);
  return (
    <NameDialog
      title="Duplicate this work"
      description="The same clip with the same patches; from then on each goes its own way."
      label="Name"
      value={`${name} copy`}
      verb="Duplicate"
      onClose={onClose}
      onName={async (called) => {
        if (!id) return;
        await session.save();
        const copy = await duplicateWork(id, called);
        await queries.invalidateQueries({ queryKey: ["works"] });
        toast.success(`${called} is a work of its own`, { action: { label: "Open", onClick: () => void navigate(`/work/${copy.id}`) } });
      }}
    />
  );
}
