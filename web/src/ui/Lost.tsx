import { Link, useRouteError } from "react-router";
import { Mark } from "./Mark.tsx";

/** A page that is not there, or a screen that failed: what happened, and the way back. */
export function Lost() {
  const error = useRouteError();
  return (
    <main className="flex h-full flex-col items-center justify-center gap-3">
      <Mark />
      <h1 className="text-lg font-semibold">{error ? "This screen stopped" : "There is nothing at this address"}</h1>
      {error instanceof Error && <p className="figure max-w-xl text-center text-ink-soft">{error.message}</p>}
      <p>
        Your works are saved.{" "}
        <Link className="underline" to="/">
          Back to the library
        </Link>
      </p>
    </main>
  );
}
