import { useState } from "react";
import { toast } from "sonner";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";

interface NameDialogProps {
  readonly title: string;
  readonly description: string;
  readonly label: string;
  readonly value: string;
  /** may it be left empty? */
  readonly optional?: boolean;
  readonly verb: string;
  /** throws what is wrong */
  readonly onName: (name: string) => Promise<void>;
  readonly onClose: () => void;
}

/** Asks for a name and does one thing with it. */
export function NameDialog({ title, description, label, value, optional = false, verb, onName, onClose }: NameDialogProps) {
  const [name, setName] = useState(value);
  const [busy, setBusy] = useState(false);
  const done = async () => {
    setBusy(true);
    try {
      await onName(name.trim());
      onClose();
    } catch (error) {
      toast.error(error instanceof Error ? error.message : String(error));
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={onClose} title={title} description={description}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void done();
        }}
      >
        <label className="flex items-center gap-3">
          {label}
          <input
            // biome-ignore lint/a11y/noAutofocus: the dialog asks for nothing else
            autoFocus
            value={name}
            maxLength={200}
            onChange={(event) => setName(event.target.value)}
            className="h-7.5 min-w-0 flex-1 rounded-sm border border-line bg-sheet px-2"
          />
        </label>
        <div className="flex justify-end gap-2 pt-4">
          <Button onClick={onClose}>Cancel</Button>
          <Button tone="primary" type="submit" disabled={busy || (!optional && name.trim() === "")}>
            {verb}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
