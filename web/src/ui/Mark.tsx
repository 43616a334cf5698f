import { Link } from "react-router";

/** The product's mark and name, leading to the library. */
export function Mark() {
  return (
    <Link to="/" className="flex items-center gap-2 rounded-sm font-semibold">
      <img src="/mark.svg" alt="" width={22} height={22} />
      Patch Stride
    </Link>
  );
}
