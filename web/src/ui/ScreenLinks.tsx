import clsx from "clsx";
import { Link } from "react-router";

const SCREENS = [
  ["library", "/", "Library"],
  ["characters", "/characters", "Characters"],
] as const;

/** Ways between the screens that are there without a work; the one that is shown is the page's heading. */
export function ScreenLinks({ here }: { here: (typeof SCREENS)[number][0] }) {
  return (
    <nav aria-label="Screens" className="flex gap-5">
      {SCREENS.map(([id, to, label]) => (
        <Link
          key={id}
          to={to}
          aria-current={id === here ? "page" : undefined}
          className={clsx("underline-offset-14", id === here ? "font-semibold underline decoration-2" : "text-ink-soft hover:text-ink")}
        >
          {label}
        </Link>
      ))}
    </nav>
  );
}
