/** A quiet stand-in while something is read. */
export function Waiting({ label }: { label: string }) {
  return (
    <div role="status" className="flex h-full items-center justify-center text-ink-soft">
      {label}…
    </div>
  );
}
